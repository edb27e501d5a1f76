package dastur.core.run;

import java.util.ArrayList;
import java.util.HashSet;
import java.util.List;
import java.util.Objects;
import java.util.Set;
import org.jspecify.annotations.Nullable;

/**
 * Which approvals bind which calls (D19). An approval binds the first call that changes the world in its own line, and in each line
 * of the brackets that this line enters, until that call has begun; calls in other lines are no matter of it.
 */
final class Guards {
    private Guards() {}

    /** Whether an approval binds a call at a place. */
    static boolean binds(Run run, Run.Guard guard, @Nullable Place at) {
        List<Place> around = run.chain(at);
        return (guard.place() == null || around.contains(guard.place()))
                && around.stream().noneMatch(guard.begunAt()::contains);
    }

    /** Somebody's yes binds from now on, in the place of an earlier one to the same, in its line or in one around it. */
    static Run approved(Run run, Visit visit, Effect.Binds yes) {
        List<Run.Guard> guards = new ArrayList<>(run.guards());
        List<Place> around = run.chain(visit.place());
        guards.removeIf(g -> g.approval().equals(visit.step()) && (g.place() == null || around.contains(g.place())));
        guards.add(new Run.Guard(
                visit.step(), yes.name(), visit.place(), yes.shown(), yes.values(), new HashSet<>(), yes.allows()));
        return run.withGuards(guards);
    }

    /** A call that changes the world has begun: what bound it binds nothing more in its line. */
    static Run begun(Run run, @Nullable Place at) {
        List<Run.Guard> guards = new ArrayList<>();
        for (Run.Guard guard : run.guards()) {
            if (!binds(run, guard, at)) {
                guards.add(guard);
            } else if (at != null && !at.equals(guard.place())) {
                guards.add(guard.begunAt(at));
            }
        }
        return run.withGuards(guards);
    }

    /**
     * A bracket is left: what was approved inside it and did not come to a call yet binds what comes after it; where one of its lines came
     * to its call, the line around it has. Of a list, only what is the same outside of its items is compared.
     */
    static Run left(Run run, Visit bracket, boolean eachOfAList) {
        List<Run.Guard> guards = new ArrayList<>();
        for (Run.Guard guard : run.guards()) {
            boolean own = guard.place() != null && guard.place().bracket().equals(bracket.id());
            boolean begun = guard.begunAt().stream().anyMatch(p -> run.inside(p, bracket.id()));
            boolean settled = begun && (own || Objects.equals(guard.place(), bracket.place()));
            if (own && !begun) {
                guards.add(guard.movedTo(bracket.place(), eachOfAList));
            } else if (begun && !settled) {
                guards.add(
                        guard.begunAround(p -> run.inside(p, bracket.id()), Objects.requireNonNull(bracket.place())));
            } else if (!begun) {
                guards.add(guard);
            }
        }
        return run.withGuards(guards);
    }

    /** A bracket is withdrawn with all that stood in it. */
    static Run withdrawn(Run run, Visit bracket) {
        return run.withGuards(run.guards().stream()
                .filter(g -> g.place() == null || !run.inside(g.place(), bracket.id()))
                .toList());
    }

    /** Only approvals whose values are seen still: what is done again after them is what they were about. */
    static Run doneAgain(Run run, Set<String> seen) {
        return run.withGuards(run.guards().stream()
                .filter(g -> g.place() == null && seen.contains(g.approval().value()))
                .toList());
    }
}
