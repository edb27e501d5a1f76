package dastur.core.finding;

import dastur.core.workflow.Action;
import dastur.core.workflow.Bracket;
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
    private final Surroundings around;
    private final Findings.Found found;

    GuardChecks(WorkflowVersion version, Surroundings around, Findings.Found found) {
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
            if (step instanceof Step.Approval approval) {
                approval(level, approval);
            }
        }
    }

    /** Looks at what lies between the yes and the first step that changes something outside, on the same level. */
    private void approval(Level level, Step.Approval approval) {
        Deque<StepId> next = new ArrayDeque<>();
        Optional.ofNullable(approval.ways().get("approved")).ifPresent(next::add);
        Set<StepId> seen = new HashSet<>();
        while (!next.isEmpty()) {
            StepId id = next.poll();
            Optional<Step> step = seen.add(id) ? level.step(id) : Optional.empty();
            if (step.isEmpty() || changesWorld(step.get()) || step.get() instanceof Step.Approval) {
                continue;
            }
            if (step.get() instanceof Step.Update update && reachesChange(level, id)) {
                update.set().stream()
                        .map(Step.Assignment::target)
                        .filter(approval.shown()::contains)
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
            step.filter(s -> !(s instanceof Step.Approval))
                    .ifPresent(s -> next.addAll(s.ways().values()));
        }
        return false;
    }

    /** An action nobody knows is taken to change something. */
    private boolean changesWorld(Step step) {
        return switch (step) {
            case Step.Automation a ->
                around.actions().apply(a.action()).map(Action::changesWorld).orElse(true);
            case Bracket b -> b.levels().stream().flatMap(Level::all).anyMatch(this::changesWorld);
            default -> false;
        };
    }
}
