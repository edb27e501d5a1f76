package dastur.core.run;

import dastur.core.run.Visit.Alarm;
import dastur.core.run.Visit.AlarmKind;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;

/** Folds what happens to calls of actions. */
final class FoldCalls {
    private FoldCalls() {}

    static Case requested(Case c, Recorded r, Event.CallRequested e) {
        Waiting waiting = new Waiting.CallResult(
                e.action(),
                e.attempt(),
                e.key(),
                e.repeat(),
                e.tries(),
                e.pauseSeconds(),
                r.at(),
                false,
                false,
                e.call(),
                null);
        Case asked = Fold.onRun(
                c, r, run -> Fold.opened(Fold.open(run, r, e.putsBack()), r, waiting, List.of(limit(e.deadline()))));
        return e.changesWorld() && r.visit() != null ? begun(asked, r.visit()) : asked;
    }

    /** What bound the call binds nothing more: in its run, and in those that called it. */
    private static Case begun(Case c, VisitId visit) {
        Run run = c.open().get(visit.run());
        Visit at = run == null ? null : run.open().get(visit);
        if (run == null || at == null) {
            return c;
        }
        Case settled = Fold.withRuns(c, runs -> runs.put(run.id(), Guards.begun(run, at.place())));
        return run.parent() == null ? settled : begun(settled, run.parent());
    }

    private static Alarm limit(java.time.Instant deadline) {
        return new Alarm(deadline, AlarmKind.TIME_LIMIT, 0, null);
    }

    static Case attemptFailed(Case c, Recorded r, Event.AttemptFailed e) {
        return Fold.onVisit(c, r, v -> {
            if (!(v.waiting() instanceof Waiting.CallResult w)) {
                return v;
            }
            String key = e.nextKey() == null ? w.key() : e.nextKey();
            Visit next = v.without(AlarmKind.TIME_LIMIT).waitingFor(again(w, w.attempt(), key, true, false, w.call()));
            return e.nextAt() == null ? next : next.alarmed(List.of(new Alarm(e.nextAt(), AlarmKind.RETRY, 0, null)));
        });
    }

    static Case repeated(Case c, Recorded r, Event.CallRepeated e) {
        return Fold.onVisit(
                c,
                r,
                v -> v.waiting() instanceof Waiting.CallResult w
                        ? v.alarmed(List.of(limit(e.deadline())))
                                .stalled(null)
                                .waitingFor(again(
                                        w, e.attempt(), e.key(), false, false, e.call() == null ? w.call() : e.call()))
                        : v);
    }

    static Visit unsure(Visit v, Recorded r, Event.CallUnsure e) {
        if (!(v.waiting() instanceof Waiting.CallResult w)) {
            return v;
        }
        String why = e.why() == null ? "" : e.why();
        return v.alarmed(List.of())
                .stalled(new Visit.Stall("unsure", why, r.at()))
                .waitingFor(again(w, w.attempt(), w.key(), false, true, w.call()));
    }

    private static Waiting again(
            Waiting.CallResult w,
            int attempt,
            String key,
            boolean betweenAttempts,
            boolean unsure,
            Event.@org.jspecify.annotations.Nullable Call call) {
        return new Waiting.CallResult(
                w.action(),
                attempt,
                key,
                w.repeat(),
                w.tries(),
                w.pauseSeconds(),
                w.startedAt(),
                betweenAttempts,
                unsure,
                call,
                null);
    }

    /** It is over for the worker, and waits for a person: nothing rings any more. */
    static Visit kept(Visit v, Event.ResultKept e) {
        return v.waiting() instanceof Waiting.CallResult w
                ? v.alarmed(List.of())
                        .waitingFor(new Waiting.CallResult(
                                w.action(),
                                w.attempt(),
                                w.key(),
                                w.repeat(),
                                w.tries(),
                                w.pauseSeconds(),
                                w.startedAt(),
                                false,
                                false,
                                w.call(),
                                new Waiting.Came(
                                        e.exit(),
                                        e.polls(),
                                        e.tookMillis(),
                                        e.reference(),
                                        e.link(),
                                        e.outputs() == null ? Map.of() : e.outputs())))
                : v;
    }

    /** A completed call gives its values and registers its put-back; a completed put-back takes that away. */
    static Case done(Case c, Recorded r, Event.CallDone e) {
        Visit visit = r.visit() == null ? null : c.visit(r.visit()).orElse(null);
        if (visit != null && visit.putsBack() != null) {
            return Fold.onRun(
                    c,
                    r,
                    run -> Fold.close(
                            run.withPutBacks(run.putBacks().stream()
                                    .filter(p -> !p.of().equals(visit.putsBack()))
                                    .toList()),
                            r,
                            null,
                            null));
        }
        Case left = Fold.left(c, r, e, values(r, e));
        Event.PutBackPlan plan = e.putBack();
        if (plan == null) {
            return left;
        }
        return Fold.onRun(left, r, run -> {
            List<Run.PutBack> all = new ArrayList<>(run.putBacks());
            Map<String, Object> inputs = e.putBackInputs() == null ? Map.of() : e.putBackInputs();
            all.add(new Run.PutBack(
                    plan.stage(), r.visit(), r.step(), plan.name(), plan.action(), inputs, plan.always(), false));
            return run.withPutBacks(all);
        });
    }

    private static Map<String, Object> values(Recorded r, Event.CallDone e) {
        Map<String, Object> values = Fold.outcome(r, e.exit());
        if (e.outputs() != null) {
            values.putAll(e.outputs());
        }
        if (e.reference() != null) {
            values.put("reference", e.reference());
        }
        return values;
    }

    static Map<String, Object> error(Recorded r, Event.CallFailed e) {
        Map<String, Object> values = Fold.outcome(r, e.exit());
        if (e.error() != null) {
            values.put("error", e.error());
        }
        return values;
    }
}
