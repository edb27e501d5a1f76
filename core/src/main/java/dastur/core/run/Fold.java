package dastur.core.run;

import dastur.core.people.PersonId;
import dastur.core.run.Event.Change;
import dastur.core.run.Visit.Alarm;
import dastur.core.run.Visit.AlarmKind;
import dastur.core.workflow.StepId;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.TreeMap;
import java.util.function.UnaryOperator;
import org.jspecify.annotations.Nullable;

/** Folds events into a case. Total: sees no version, look-up or clock (D3). */
final class Fold {
    private Fold() {}

    static Case apply(Case before, Recorded recorded) {
        Case c = new Case(
                before.id(),
                recorded.seq(),
                recorded.at(),
                before.kind(),
                before.createdAt(),
                before.fields(),
                before.runs(),
                before.messages(),
                before.open());
        return switch (recorded.event()) {
            case Event.TicketRaised e -> raised(c, recorded, e);
            case Event.TicketChanged e -> changed(c, e.changes(), e.texts());
            case Event.NoteAdded e -> c;
            case Event.TriggersLookedAt e -> c;
            case Event.RunStarted e -> started(c, recorded, e);
            case Event.RunEnded e -> withRuns(c, runs -> runs.remove(recorded.run()));
            case Event.TaskOffered e -> opened(c, recorded, offered(e), taskAlarms(e));
            case Event.TaskClaimed e -> task(c, recorded, t -> t.claimed(e.by()));
            case Event.TaskHandedBack e -> task(c, recorded, t -> t.claimed(null));
            case Event.TaskDone e -> left(c, recorded, e, taskValues(recorded, e));
            case Event.ApprovalAsked e -> asked(c, recorded, e);
            case Event.VoteCast e -> votes(c, recorded, v -> v.with(plus(v.cast(), e.by(), e.yes())));
            case Event.ApprovalVoided e -> c;
            case Event.ApprovalClosed e -> approvalClosed(c, recorded, e);
            case Event.Branched e -> left(c, recorded, e, outcome(recorded, e.exit()));
            case Event.Updated e -> updated(c, recorded, e);
            case Event.WaitBegan e ->
                opened(
                        c,
                        recorded,
                        new Waiting.Moment(e.until()),
                        List.of(new Alarm(e.until(), AlarmKind.WAIT, 0, null)));
            case Event.Left e -> left(c, recorded, e, outcome(recorded, e.exit()));
            case Event.Ended e -> onRun(c, recorded, run -> close(open(run, recorded), recorded, null, null));
            case Event.CallRequested e ->
                opened(
                        onRun(c, recorded, run -> e.changesWorld() ? unguarded(run) : run),
                        recorded,
                        requested(recorded, e),
                        List.of(limit(e.deadline())));
            case Event.AttemptFailed e -> attemptFailed(c, recorded, e);
            case Event.CallRepeated e -> repeated(c, recorded, e);
            case Event.CallDone e -> left(c, recorded, e, callValues(recorded, e));
            case Event.CallFailed e -> left(c, recorded, e, callError(recorded, e));
            case Event.CallUnsure e -> onVisit(c, recorded, v -> unsure(v, e));
            case Event.LateResult e -> c;
            case Event.MessageQueued e -> queued(c, recorded, e);
            case Event.MessageDelivered e -> delivered(c, recorded, e.message(), e.person(), false);
            case Event.MessageFailed e -> delivered(c, recorded, e.message(), e.person(), true);
            case Event.RungFired e -> rung(c, recorded, e);
            case Event.Stalled e -> stalled(c, recorded, e);
            case Event.Intervened e -> recorded.visit() == null ? c : onVisit(c, recorded, v -> v.stalled(null));
            case Event.Withdrawn e -> onRun(c, recorded, run -> close(run, recorded, null, null));
            case Event.CameTooLate e -> c;
            // What the entry said is absent when the record is folded anew; the store does so in the same transaction.
            case Event.Redacted e -> c;
        };
    }

    // --- ticket

    private static Case raised(Case c, Recorded r, Event.TicketRaised e) {
        Map<String, Object> fields = new HashMap<>(e.fields());
        if (e.texts() != null) {
            fields.putAll(e.texts());
        }
        return new Case(c.id(), c.seq(), c.lastAt(), e.kind(), r.at(), Map.copyOf(fields), 0, 0, c.open());
    }

    private static Case changed(Case c, Map<String, Change> changes, @Nullable Map<String, Change> texts) {
        Map<String, Object> fields = new HashMap<>(c.fields());
        changes.forEach((name, change) -> set(fields, name, change.after()));
        if (texts != null) {
            texts.forEach((name, change) -> set(fields, name, change.after()));
        }
        return new Case(
                c.id(),
                c.seq(),
                c.lastAt(),
                c.kind(),
                c.createdAt(),
                Map.copyOf(fields),
                c.runs(),
                c.messages(),
                c.open());
    }

    private static void set(Map<String, Object> map, String name, @Nullable Object value) {
        if (value == null) {
            map.remove(name);
        } else {
            map.put(name, value);
        }
    }

    // --- runs

    private static Case started(Case c, Recorded r, Event.RunStarted e) {
        Run run = new Run(
                r.run(),
                e.workflow(),
                e.version(),
                e.name(),
                e.owner(),
                r.at(),
                e.trigger(),
                e.depth(),
                List.of(e.to()),
                0,
                new TreeMap<>(),
                e.inputs() == null ? Map.of() : e.inputs(),
                Map.of(),
                Map.of(),
                List.of());
        Case counted = new Case(
                c.id(), c.seq(), c.lastAt(), c.kind(), c.createdAt(), c.fields(), c.runs() + 1, c.messages(), c.open());
        return withRuns(counted, runs -> runs.put(run.id(), run));
    }

    private static Case withRuns(Case c, java.util.function.Consumer<TreeMap<RunId, Run>> edit) {
        TreeMap<RunId, Run> runs = new TreeMap<>(c.open());
        edit.accept(runs);
        return new Case(c.id(), c.seq(), c.lastAt(), c.kind(), c.createdAt(), c.fields(), c.runs(), c.messages(), runs);
    }

    private static Case onRun(Case c, Recorded r, UnaryOperator<Run> edit) {
        Run run = r.run() == null ? null : c.open().get(r.run());
        return run == null ? c : withRuns(c, runs -> runs.put(run.id(), edit.apply(run)));
    }

    private static Case onVisit(Case c, Recorded r, UnaryOperator<Visit> edit) {
        return onRun(c, r, run -> {
            Visit visit = r.visit() == null ? null : run.open().get(r.visit());
            return visit == null ? run : with(run, edit.apply(visit));
        });
    }

    private static Run with(Run run, Visit visit) {
        TreeMap<VisitId, Visit> open = new TreeMap<>(run.open());
        open.put(visit.id(), visit);
        return with(run, run.ready(), run.visits(), open, run.vars(), run.steps(), run.guards());
    }

    private static Run with(
            Run run,
            List<StepId> ready,
            int visits,
            TreeMap<VisitId, Visit> open,
            Map<String, Object> vars,
            Map<String, Map<String, Object>> steps,
            List<Run.Guard> guards) {
        return new Run(
                run.id(),
                run.workflow(),
                run.version(),
                run.name(),
                run.owner(),
                run.startedAt(),
                run.trigger(),
                run.depth(),
                ready,
                visits,
                open,
                run.inputs(),
                vars,
                steps,
                guards);
    }

    private static Run unguarded(Run run) {
        return with(run, run.ready(), run.visits(), run.open(), run.vars(), run.steps(), List.of());
    }

    // --- visits

    /** Takes the token before the step and counts the visit, unless it is open already. */
    private static Run open(Run run, Recorded r) {
        if (run.open().containsKey(r.visit())) {
            return run;
        }
        List<StepId> ready = new ArrayList<>(run.ready());
        ready.remove(r.step());
        TreeMap<VisitId, Visit> open = new TreeMap<>(run.open());
        open.put(r.visit(), new Visit(r.visit(), r.step(), r.at(), new Waiting.Help(), List.of(), null));
        return with(run, List.copyOf(ready), run.visits() + 1, open, run.vars(), run.steps(), run.guards());
    }

    private static Case opened(Case c, Recorded r, Waiting waiting, List<Alarm> alarms) {
        return onRun(c, r, run -> {
            Run opened = open(run, r);
            Visit visit = opened.open().get(r.visit());
            return with(opened, visit.waitingFor(waiting).alarmed(alarms).stalled(null));
        });
    }

    private static Run close(Run run, Recorded r, @Nullable StepId to, @Nullable Map<String, Object> values) {
        TreeMap<VisitId, Visit> open = new TreeMap<>(run.open());
        open.remove(r.visit());
        List<StepId> ready = new ArrayList<>(run.ready());
        if (to != null) {
            ready.add(to);
        }
        Map<String, Map<String, Object>> steps = run.steps();
        if (values != null) {
            steps = new HashMap<>(steps);
            steps.put(r.step().value(), values);
        }
        return with(run, List.copyOf(ready), run.visits(), open, run.vars(), steps, run.guards());
    }

    private static Case left(Case c, Recorded r, Event.Leaving e, Map<String, Object> values) {
        return onRun(c, r, run -> close(open(run, r), r, e.to(), values));
    }

    private static Map<String, Object> outcome(Recorded r, @Nullable String exit) {
        Map<String, Object> values = new HashMap<>();
        values.put("outcome", exit == null ? "" : exit);
        values.put("at", r.at().toString());
        return values;
    }

    // --- tasks

    private static Waiting offered(Event.TaskOffered e) {
        return new Waiting.Task(
                e.name(), e.instructions(), e.to(), e.overseers(), null, e.outcomes(), e.form(), e.due());
    }

    private static List<Alarm> taskAlarms(Event.TaskOffered e) {
        List<Alarm> alarms = new ArrayList<>(rungAlarms(e.rungs()));
        if (e.due() != null && e.leavesWhenOverdue()) {
            alarms.add(new Alarm(e.due(), AlarmKind.OVERDUE, 0, null));
        }
        return alarms;
    }

    private static List<Alarm> rungAlarms(List<Event.PlannedRung> rungs) {
        return rungs.stream()
                .map(r -> new Alarm(r.due(), AlarmKind.RUNG, r.number(), r.deed()))
                .toList();
    }

    private static Case task(Case c, Recorded r, UnaryOperator<Waiting.Task> edit) {
        return onVisit(c, r, v -> v.waiting() instanceof Waiting.Task t ? v.waitingFor(edit.apply(t)) : v);
    }

    private static Map<String, Object> taskValues(Recorded r, Event.TaskDone e) {
        Map<String, Object> values = outcome(r, e.exit());
        values.put("by", e.by().value());
        if (e.form() != null) {
            values.putAll(e.form());
        }
        if (e.note() != null) {
            values.put("note", e.note());
        }
        return values;
    }

    // --- approvals

    private static Case asked(Case c, Recorded r, Event.ApprovalAsked e) {
        Waiting votes = new Waiting.Votes(
                e.round(),
                e.name(),
                e.question(),
                e.setsOff(),
                e.electorate(),
                e.excluded(),
                e.rule(),
                e.needed(),
                e.shown(),
                e.values() == null ? Map.of() : e.values(),
                e.digest(),
                e.commentOnDecline(),
                e.due(),
                Map.of());
        List<Alarm> alarms = new ArrayList<>(rungAlarms(e.rungs()));
        if (e.due() != null) {
            alarms.add(new Alarm(e.due(), AlarmKind.LAPSE, 0, null));
        }
        return opened(c, r, votes, alarms);
    }

    private static Case votes(Case c, Recorded r, UnaryOperator<Waiting.Votes> edit) {
        return onVisit(c, r, v -> v.waiting() instanceof Waiting.Votes votes ? v.waitingFor(edit.apply(votes)) : v);
    }

    private static Map<PersonId, Boolean> plus(Map<PersonId, Boolean> cast, PersonId by, boolean yes) {
        Map<PersonId, Boolean> all = new TreeMap<>(cast);
        all.put(by, yes);
        return all;
    }

    private static Case approvalClosed(Case c, Recorded r, Event.ApprovalClosed e) {
        Map<String, Object> values = outcome(r, e.exit());
        if (e.by() != null) {
            values.put("by", e.by().value());
        }
        if (e.comment() != null) {
            values.put("comment", e.comment());
        }
        Case guarded = onRun(c, r, run -> {
            Visit visit = run.open().get(r.visit());
            if (!e.exit().equals("approved") || visit == null || !(visit.waiting() instanceof Waiting.Votes v)) {
                return run;
            }
            List<Run.Guard> guards = new ArrayList<>(run.guards());
            guards.removeIf(g -> g.approval().equals(r.step()));
            guards.add(new Run.Guard(r.step(), v.values()));
            return with(run, run.ready(), run.visits(), run.open(), run.vars(), run.steps(), List.copyOf(guards));
        });
        return left(guarded, r, e, values);
    }

    // --- updates

    private static Case updated(Case c, Recorded r, Event.Updated e) {
        Case changed = changed(c, e.changes(), e.texts());
        Case set = onRun(changed, r, run -> {
            Map<String, Object> vars = new HashMap<>(run.vars());
            if (e.vars() != null) {
                vars.putAll(e.vars());
            }
            List<Run.Guard> guards =
                    run.guards().stream().map(g -> refreshed(g, e)).toList();
            return with(run, run.ready(), run.visits(), run.open(), Map.copyOf(vars), run.steps(), guards);
        });
        return left(set, r, e, outcome(r, e.exit()));
    }

    /** The run's own update after an approval is no reason to doubt it (D19). */
    private static Run.Guard refreshed(Run.Guard guard, Event.Updated e) {
        Map<String, Object> values = new HashMap<>(guard.values());
        refresh(values, "ticket.", e.changes());
        refresh(values, "ticket.", e.texts());
        refresh(values, "ci.", e.ciChanges());
        return new Run.Guard(guard.approval(), values);
    }

    private static void refresh(Map<String, Object> values, String prefix, @Nullable Map<String, Change> changes) {
        if (changes != null) {
            changes.forEach((name, change) -> {
                if (values.containsKey(prefix + name)) {
                    set(values, prefix + name, change.after());
                }
            });
        }
    }

    // --- calls

    private static Waiting requested(Recorded r, Event.CallRequested e) {
        return new Waiting.CallResult(
                e.action(),
                e.attempt(),
                e.key(),
                e.repeat(),
                e.tries(),
                e.pauseSeconds(),
                r.at(),
                false,
                false,
                e.call());
    }

    private static Alarm limit(java.time.Instant deadline) {
        return new Alarm(deadline, AlarmKind.TIME_LIMIT, 0, null);
    }

    private static Case attemptFailed(Case c, Recorded r, Event.AttemptFailed e) {
        return onVisit(c, r, v -> {
            if (!(v.waiting() instanceof Waiting.CallResult w)) {
                return v;
            }
            String key = e.nextKey() == null ? w.key() : e.nextKey();
            Visit next = v.without(AlarmKind.TIME_LIMIT)
                    .waitingFor(new Waiting.CallResult(
                            w.action(),
                            w.attempt(),
                            key,
                            w.repeat(),
                            w.tries(),
                            w.pauseSeconds(),
                            w.startedAt(),
                            true,
                            false,
                            w.call()));
            return e.nextAt() == null ? next : next.alarmed(List.of(new Alarm(e.nextAt(), AlarmKind.RETRY, 0, null)));
        });
    }

    private static Case repeated(Case c, Recorded r, Event.CallRepeated e) {
        return onVisit(
                c,
                r,
                v -> v.waiting() instanceof Waiting.CallResult w
                        ? v.alarmed(List.of(limit(e.deadline())))
                                .stalled(null)
                                .waitingFor(new Waiting.CallResult(
                                        w.action(),
                                        e.attempt(),
                                        e.key(),
                                        w.repeat(),
                                        w.tries(),
                                        w.pauseSeconds(),
                                        w.startedAt(),
                                        false,
                                        false,
                                        e.call() == null ? w.call() : e.call()))
                        : v);
    }

    private static Visit unsure(Visit v, Event.CallUnsure e) {
        if (!(v.waiting() instanceof Waiting.CallResult w)) {
            return v;
        }
        String why = e.why() == null ? "" : e.why();
        return v.alarmed(List.of())
                .stalled(new Visit.Stall("unsure", why))
                .waitingFor(new Waiting.CallResult(
                        w.action(),
                        w.attempt(),
                        w.key(),
                        w.repeat(),
                        w.tries(),
                        w.pauseSeconds(),
                        w.startedAt(),
                        false,
                        true,
                        w.call()));
    }

    private static Map<String, Object> callValues(Recorded r, Event.CallDone e) {
        Map<String, Object> values = outcome(r, e.exit());
        if (e.outputs() != null) {
            values.putAll(e.outputs());
        }
        if (e.reference() != null) {
            values.put("reference", e.reference());
        }
        return values;
    }

    private static Map<String, Object> callError(Recorded r, Event.CallFailed e) {
        Map<String, Object> values = outcome(r, e.exit());
        if (e.error() != null) {
            values.put("error", e.error());
        }
        return values;
    }

    // --- messages

    private static Case queued(Case c, Recorded r, Event.MessageQueued e) {
        Case counted = new Case(
                c.id(), c.seq(), c.lastAt(), c.kind(), c.createdAt(), c.fields(), c.runs(), c.messages() + 1, c.open());
        if (e.exit() != null) {
            return left(counted, r, e, outcome(r, e.exit()));
        }
        return e.awaited()
                ? opened(counted, r, new Waiting.Delivery(e.message(), e.people(), false), List.of())
                : counted;
    }

    private static Case delivered(Case c, Recorded r, String message, PersonId person, boolean failed) {
        return onVisit(c, r, v -> {
            if (!(v.waiting() instanceof Waiting.Delivery d) || !d.message().equals(message)) {
                return v;
            }
            List<PersonId> left =
                    d.left().stream().filter(p -> !p.equals(person)).toList();
            return v.waitingFor(new Waiting.Delivery(message, left, d.someFailed() || failed));
        });
    }

    // --- escalation

    private static Case rung(Case c, Recorded r, Event.RungFired e) {
        return onVisit(c, r, v -> {
            List<Alarm> alarms = v.alarms().stream()
                    .filter(a -> a.kind() != AlarmKind.RUNG || a.number() != e.rung())
                    .map(a -> e.shiftSeconds() > 0 ? a.later(e.shiftSeconds()) : a)
                    .toList();
            Visit next = v.alarmed(alarms);
            return switch (next.waiting()) {
                case Waiting.Task t when e.handedTo() != null -> next.waitingFor(t.handedTo(e.handedTo()));
                case Waiting.Votes votes when !e.joined().isEmpty() -> next.waitingFor(votes.joinedBy(e.joined()));
                default -> next;
            };
        });
    }

    private static Case stalled(Case c, Recorded r, Event.Stalled e) {
        return onRun(c, r, run -> {
            Run opened = open(run, r);
            Visit visit = opened.open().get(r.visit());
            Visit.Stall stall = new Visit.Stall(e.code(), e.why() == null ? "" : e.why());
            // A stalled visit keeps its rungs but no longer the moment that stalled it.
            List<Alarm> rungs = visit.alarms().stream()
                    .filter(a -> a.kind() == AlarmKind.RUNG)
                    .toList();
            return with(opened, visit.stalled(stall).alarmed(rungs));
        });
    }
}
