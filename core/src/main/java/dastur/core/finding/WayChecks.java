package dastur.core.finding;

import dastur.core.finding.Finding.Repair;
import dastur.core.ticket.TicketKind;
import dastur.core.workflow.Bracket;
import dastur.core.workflow.Facts;
import dastur.core.workflow.Level;
import dastur.core.workflow.Step;
import dastur.core.workflow.StepId;
import dastur.core.workflow.WorkflowVersion;
import java.util.ArrayDeque;
import java.util.Deque;
import java.util.HashSet;
import java.util.List;
import java.util.Set;

/**
 * Do all exits lead somewhere, is every step reached, does an end follow from every step, and does every loop wait for
 * somebody or something? Level by level (D8, D32).
 */
public final class WayChecks {
    private final WorkflowVersion version;
    private final KnownOrganisation around;
    private final Findings.Found found;

    WayChecks(WorkflowVersion version, KnownOrganisation around, Findings.Found found) {
        this.version = version;
        this.around = around;
        this.found = found;
    }

    void check() {
        check(version.body(), null);
    }

    private void check(Level level, Bracket bracket) {
        List<Step> steps = level.steps();
        if (steps.isEmpty()) {
            if (bracket != null) {
                found.blocks(
                        "empty bracket", bracket.id(), null, "'" + bracket.name() + "' has no steps inside. Add one.");
            }
            return;
        }
        steps.forEach(step -> exits(level, step));
        steps.forEach(step -> ending(bracket, step));
        Set<StepId> reached = reachedFrom(level, steps.getFirst().id());
        for (Step step : steps) {
            if (!reached.contains(step.id())) {
                found.blocks(
                        "never reached",
                        step.id(),
                        "No way leads to '" + step.name() + "'. Lead an exit there, or delete it.",
                        Repair.DELETE_STEP);
            } else if (reachedFrom(level, step.id()).stream()
                    .noneMatch(id -> level.step(id).orElseThrow() instanceof Step.End)) {
                found.blocks(
                        "no end",
                        step.id(),
                        null,
                        "From '" + step.name() + "' no end can be reached. Lead a way on to an end.");
            }
        }
        loops(level, reached);
        for (Step step : steps) {
            if (step instanceof Bracket inner) {
                inner.levels().forEach(l -> check(l, inner));
            }
        }
    }

    private void exits(Level level, Step step) {
        List<String> exits = step.exits(around.known());
        Set<String> seen = new HashSet<>();
        for (String exit : exits) {
            if (!seen.add(exit)) {
                found.blocksExit(
                        "same name twice",
                        step.id(),
                        exit,
                        "Two exits of '" + step.name() + "' are called '" + exit + "'. Give each its own name.",
                        null);
            } else if (!step.ways().containsKey(exit)) {
                found.blocksExit(
                        "exit without a way",
                        step.id(),
                        exit,
                        "'" + step.name() + "' has no way on from '" + exit + "'. Lead it somewhere, or end there.",
                        Repair.END_HERE);
            }
        }
        step.ways().forEach((exit, to) -> {
            if (level.step(to).isEmpty()) {
                found.blocksExit(
                        "way to nowhere",
                        step.id(),
                        exit,
                        "'" + exit + "' of '" + step.name()
                                + (version.find(to).isPresent()
                                        ? "' leads into or out of a bracket; ways join steps of the same level."
                                        : "' leads to a step that does not exist."),
                        null);
            }
            boolean calls = Facts.of(step).calls() != null;
            boolean called = calls && exits.isEmpty();
            boolean known = exits.contains(exit) || step.optionalExits().contains(exit) || called;
            if (!known && calls) {
                // Whoever calls leads a new result on before the called workflow may end with it (D11).
                found.warns(
                        "unknown result",
                        step.id(),
                        (String) null,
                        "'" + step.name() + "' leads on from '" + exit
                                + "', with which the called workflow does not end yet.");
            } else if (!known) {
                found.blocksExit(
                        "unknown exit", step.id(), exit, "'" + step.name() + "' has no exit '" + exit + "'.", null);
            }
        });
        if (step.expected() != null && !exits.contains(step.expected())) {
            found.warns(
                    "unknown expected exit",
                    step.id(),
                    (String) null,
                    "'" + step.name() + "' expects '" + step.expected() + "', which is none of its exits.");
        }
    }

    /** Some ends make sense inside a bracket only. */
    private void ending(Bracket bracket, Step step) {
        if (!(step instanceof Step.End end) || bracket != null) {
            return;
        }
        if (end.ending() == Step.Ending.LEAVE) {
            found.blocks(
                    "nothing to leave",
                    end.id(),
                    null,
                    "'" + end.name() + "' leaves a bracket, but stands in none. Let it end the line or the run.");
        }
        // A routine has failed when its run ends so (I6).
        if (end.ending() == Step.Ending.FAILED && version.kind() != TicketKind.ROUTINE) {
            found.warns(
                    "nothing fails",
                    end.id(),
                    "ending",
                    "'" + end.name()
                            + "' ends a line as failed, which means something inside a bracket, and for a routine, only.");
        }
    }

    // --- loops

    /** A loop in which every step goes on at once: it turns until the run's limit stops it (law 9). */
    private void loops(Level level, Set<StepId> reached) {
        for (Step step : level.steps()) {
            if (!reached.contains(step.id()) || !instant(step)) {
                continue;
            }
            Set<StepId> round = instantRound(level, step);
            boolean first = round.stream()
                    .min(java.util.Comparator.naturalOrder())
                    .filter(step.id()::equals)
                    .isPresent();
            if (!first) {
                continue;
            }
            boolean changes = round.stream()
                    .anyMatch(
                            id -> !Facts.of(level.step(id).orElseThrow()).sets().isEmpty());
            String message = "From '" + step.name()
                    + "' a way leads back to it past nobody and nothing to wait for. Put a wait or a task into the loop.";
            if (changes) {
                found.warns("busy loop", step.id(), (String) null, message);
            } else {
                found.blocks("busy loop", step.id(), (String) null, message);
            }
        }
    }

    /** Whether a step is left as soon as it is entered; a bracket, where all inside it is. */
    public static boolean instant(Step step) {
        return step instanceof Bracket b
                ? b.levels().stream().flatMap(l -> l.steps().stream()).allMatch(WayChecks::instant)
                : Facts.of(step).instant();
    }

    /** The steps on rounds through a step that consist of instant steps alone; empty when there is none. */
    private static Set<StepId> instantRound(Level level, Step start) {
        Set<StepId> forward = instantFrom(level, start.id());
        Set<StepId> round = new HashSet<>();
        for (StepId id : forward) {
            if (instantFrom(level, id).contains(start.id())) {
                round.add(id);
            }
        }
        return forward.contains(start.id()) ? round : Set.of();
    }

    /** Steps that can be come to from a step past instant steps alone; itself only when a way leads back. */
    private static Set<StepId> instantFrom(Level level, StepId start) {
        Set<StepId> reached = new HashSet<>();
        Deque<StepId> open =
                new ArrayDeque<>(level.step(start).orElseThrow().ways().values());
        while (!open.isEmpty()) {
            StepId id = open.pop();
            if (level.step(id).filter(WayChecks::instant).isPresent() && reached.add(id)) {
                open.addAll(level.step(id).orElseThrow().ways().values());
            }
        }
        return reached;
    }

    /** The steps of a level that ways lead to from one of them, itself included. */
    public static Set<StepId> reachedFrom(Level level, StepId start) {
        Set<StepId> reached = new HashSet<>();
        Deque<StepId> open = new ArrayDeque<>(List.of(start));
        while (!open.isEmpty()) {
            StepId id = open.pop();
            if (level.step(id).isPresent() && reached.add(id)) {
                open.addAll(level.step(id).orElseThrow().ways().values());
            }
        }
        return reached;
    }
}
