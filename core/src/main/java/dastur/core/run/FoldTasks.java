package dastur.core.run;

import dastur.core.run.Visit.Alarm;
import dastur.core.run.Visit.AlarmKind;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Objects;
import java.util.function.UnaryOperator;
import java.util.stream.Stream;

/** Folds what happens to human tasks. */
final class FoldTasks {
    private FoldTasks() {}

    static Case offered(Case c, Recorded r, Event.TaskOffered e) {
        Waiting task = new Waiting.Task(
                e.name(),
                e.instructions(),
                e.to(),
                e.overseers(),
                null,
                e.outcomes(),
                e.form(),
                e.due(),
                Boolean.TRUE.equals(e.mayLeaveOut()));
        List<Alarm> alarms = new ArrayList<>(rungAlarms(e.rungs()));
        if (e.due() != null && e.leavesWhenOverdue()) {
            alarms.add(new Alarm(e.due(), AlarmKind.OVERDUE, 0, null));
        }
        return Fold.opened(c, r, task, alarms);
    }

    static List<Alarm> rungAlarms(List<Event.PlannedRung> rungs) {
        return rungs.stream()
                .map(r -> new Alarm(r.due(), AlarmKind.RUNG, r.number(), r.deed()))
                .toList();
    }

    static Case claimed(Case c, Recorded r, Event.TaskClaimed e) {
        return task(
                c,
                r,
                t -> t.claimed(e.by()),
                v -> Boolean.TRUE.equals(e.stopsLadder()) ? v.without(AlarmKind.RUNG) : v);
    }

    /** A ladder that stood still while somebody had it begins anew. */
    static Case handedBack(Case c, Recorded r, Event.TaskHandedBack e) {
        return task(
                c,
                r,
                t -> t.claimed(null),
                v -> e.rungs() == null
                        ? v
                        : v.alarmed(Stream.concat(
                                        v.without(AlarmKind.RUNG).alarms().stream(), rungAlarms(e.rungs()).stream())
                                .toList()));
    }

    private static Case task(Case c, Recorded r, UnaryOperator<Waiting.Task> edit, UnaryOperator<Visit> then) {
        return Fold.onVisit(
                c, r, v -> v.waiting() instanceof Waiting.Task t ? then.apply(v.waitingFor(edit.apply(t))) : v);
    }

    /** Keeps what it takes to take the outcome back (D29). */
    static Case done(Case c, Recorded r, Event.TaskDone e) {
        Visit visit = r.visit() == null ? null : c.visit(r.visit()).orElse(null);
        Case left = Fold.left(c, r, e, values(r, e));
        if (visit == null || e.to() == null) {
            return Fold.onRun(left, r, run -> run.withLastDone(null));
        }
        return Fold.onRun(left, r, run -> {
            Run before = Objects.requireNonNull(c.open().get(run.id()));
            Map<String, Object> seen =
                    before.scope(visit.place()).get(visit.step().value());
            return run.withLastDone(new Run.Undoable(visit, seen, run.visits(), r.at(), e.by()));
        });
    }

    static Case takenBack(Case c, Recorded r) {
        return Fold.onRun(c, r, run -> {
            Run.Undoable last = Objects.requireNonNull(run.lastDone());
            Visit visit = last.visit();
            Map<String, Map<String, Object>> values = new HashMap<>(run.scope(visit.place()));
            if (last.seen() == null) {
                values.remove(visit.step().value());
            } else {
                values.put(visit.step().value(), last.seen());
            }
            return run.with(visit).withScope(visit.place(), values).withLastDone(null);
        });
    }

    private static Map<String, Object> values(Recorded r, Event.TaskDone e) {
        Map<String, Object> values = Fold.outcome(r, e.exit());
        values.put("by", e.by().value());
        if (e.form() != null) {
            values.putAll(e.form());
        }
        if (e.note() != null) {
            values.put("note", e.note());
        }
        return values;
    }
}
