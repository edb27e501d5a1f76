package dastur.core.finding;

import dastur.core.workflow.Action;
import dastur.core.workflow.Facts;
import dastur.core.workflow.Level;
import dastur.core.workflow.Step;
import dastur.core.workflow.StepId;
import dastur.core.workflow.WorkflowVersion;
import java.util.ArrayDeque;
import java.util.Deque;
import java.util.HashSet;
import java.util.Optional;
import java.util.Set;

/**
 * Does a workflow itself change what people have approved, before the step their yes was about has begun? Then that step
 * finds other values than were approved and stalls (D19).
 */
final class GuardChecks {
    private final WorkflowVersion version;
    private final KnownOrganisation around;
    private final Findings.Found found;

    GuardChecks(WorkflowVersion version, KnownOrganisation around, Findings.Found found) {
        this.version = version;
        this.around = around;
        this.found = found;
    }

    void check() {
        level(version.body());
    }

    private void level(Level level) {
        for (Step step : level.steps()) {
            step.levels().forEach(this::level);
            if (Facts.of(step).decides()) {
                decision(level, step);
            }
        }
    }

    /** Looks at what lies between the yes and the first step that changes something outside, on the same level. */
    private void decision(Level level, Step approval) {
        Set<String> shown = Facts.of(approval).shows();
        Deque<StepId> next = new ArrayDeque<>();
        Optional.ofNullable(approval.ways().get("approved")).ifPresent(next::add);
        Set<StepId> seen = new HashSet<>();
        while (!next.isEmpty()) {
            StepId id = next.poll();
            Optional<Step> step = seen.add(id) ? level.step(id) : Optional.empty();
            if (step.isEmpty()
                    || changesWorld(step.get())
                    || Facts.of(step.get()).decides()) {
                continue;
            }
            Step update = step.get();
            Set<String> sets = Facts.of(update).sets().keySet();
            if (!sets.isEmpty() && reachesChange(level, id)) {
                sets.stream()
                        .filter(shown::contains)
                        .findFirst()
                        .ifPresent(path -> found.warns(
                                "changes what was approved",
                                update.id(),
                                "set",
                                "'" + update.name() + "' sets " + path + ", which '" + approval.name()
                                        + "' shows, before the step that was approved has begun: that step will stall."
                                        + " Set it afterwards, or do not show it."));
            }
            next.addAll(step.get().ways().values());
        }
    }

    private boolean reachesChange(Level level, StepId from) {
        Deque<StepId> next = new ArrayDeque<>(Set.of(from));
        Set<StepId> seen = new HashSet<>();
        while (!next.isEmpty()) {
            StepId id = next.poll();
            Optional<Step> step = seen.add(id) ? level.step(id) : Optional.empty();
            if (step.isPresent() && changesWorld(step.get())) {
                return true;
            }
            step.filter(s -> !Facts.of(s).decides())
                    .ifPresent(s -> next.addAll(s.ways().values()));
        }
        return false;
    }

    /** An action nobody knows is taken to change something. */
    private boolean changesWorld(Step step) {
        Facts facts = Facts.of(step);
        return facts.changes()
                        && around.actions()
                                .apply(facts.action())
                                .map(Action::changesWorld)
                                .orElse(true)
                || step.levels().stream().flatMap(Level::all).anyMatch(this::changesWorld);
    }
}
