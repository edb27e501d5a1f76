package dastur.core.finding;

import dastur.core.workflow.Step;
import dastur.core.workflow.StepId;
import dastur.core.workflow.WorkflowVersion;
import java.util.ArrayDeque;
import java.util.Deque;
import java.util.HashSet;
import java.util.List;
import java.util.Set;

/** Do all exits lead somewhere, is every step reached, and does an end follow from every step? */
final class WayChecks {
    private final WorkflowVersion version;
    private final Surroundings around;
    private final Findings.Found found;

    WayChecks(WorkflowVersion version, Surroundings around, Findings.Found found) {
        this.version = version;
        this.around = around;
        this.found = found;
    }

    void check() {
        List<Step> steps = version.body().steps();
        steps.forEach(this::exits);
        Set<StepId> reached = reachedFrom(steps.getFirst().id());
        for (Step step : steps) {
            if (!reached.contains(step.id())) {
                found.blocks(
                        "never reached",
                        step.id(),
                        null,
                        "No way leads to '" + step.name() + "'. Lead an exit there, or delete it.");
            } else if (reachedFrom(step.id()).stream().noneMatch(id -> version.step(id) instanceof Step.End)) {
                found.blocks(
                        "no end",
                        step.id(),
                        null,
                        "From '" + step.name() + "' no end can be reached. Lead a way on to an end.");
            }
        }
    }

    private void exits(Step step) {
        List<String> exits = step.exits(around.known());
        Set<String> seen = new HashSet<>();
        for (String exit : exits) {
            if (!seen.add(exit)) {
                found.blocksExit(
                        "same name twice",
                        step.id(),
                        exit,
                        "Two exits of '" + step.name() + "' are called '" + exit + "'. Give each its own name.");
            } else if (!step.ways().containsKey(exit)) {
                found.blocksExit(
                        "exit without a way",
                        step.id(),
                        exit,
                        "'" + step.name() + "' has no way on from '" + exit + "'. Lead it somewhere, or end there.");
            }
        }
        step.ways().forEach((exit, to) -> {
            if (version.body().step(to).isEmpty()) {
                found.blocksExit(
                        "way to nowhere",
                        step.id(),
                        exit,
                        "'" + exit + "' of '" + step.name() + "' leads to a step that does not exist.");
            }
            if (!exits.contains(exit) && !step.optionalExits().contains(exit)) {
                found.blocksExit("unknown exit", step.id(), exit, "'" + step.name() + "' has no exit '" + exit + "'.");
            }
        });
        if (step.expected() != null && !exits.contains(step.expected())) {
            found.warns(
                    "unknown expected exit",
                    step.id(),
                    null,
                    "'" + step.name() + "' expects '" + step.expected() + "', which is none of its exits.");
        }
    }

    private Set<StepId> reachedFrom(StepId start) {
        Set<StepId> reached = new HashSet<>();
        Deque<StepId> open = new ArrayDeque<>(List.of(start));
        while (!open.isEmpty()) {
            StepId id = open.pop();
            if (version.body().step(id).isPresent() && reached.add(id)) {
                open.addAll(version.step(id).ways().values());
            }
        }
        return reached;
    }
}
