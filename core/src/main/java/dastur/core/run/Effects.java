package dastur.core.run;

import dastur.core.people.PersonId;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Objects;
import java.util.TreeMap;

/** Brings about what an event on a visit says it does. */
final class Effects {
    private final Recorded r;
    private Case now;

    Effects(Case before, Recorded r) {
        this.now = before;
        this.r = r;
    }

    /** The case after all effects of an event. */
    Case all(Event.OfVisit event) {
        Visit before = r.visit() == null ? null : now.visit(r.visit()).orElse(null);
        return all(event.effects(before, r));
    }

    Case all(List<Effect> effects) {
        effects.forEach(effect -> now = after(effect));
        return now;
    }

    private Case after(Effect effect) {
        return switch (effect) {
            case Effect.Opens e ->
                onRun(run -> Fold.opened(Fold.open(run, r, e.putsBack()), r, e.waiting(), e.alarms()));
            case Effect.Becomes e -> onRun(run -> run.with(e.visit()));
            case Effect.Leaves e -> onRun(run -> Fold.close(Fold.open(run, r, null), r, e.to(), e.values()));
            case Effect.Binds e -> onRun(run -> binding(run, e));
            case Effect.Begins e -> r.visit() == null ? now : begun(now, r.visit());
            case Effect.CanPutBack e ->
                onRun(run -> {
                    List<Run.PutBack> all = new ArrayList<>(run.putBacks());
                    all.add(e.how());
                    return run.withPutBacks(all);
                });
            case Effect.PutBack e ->
                onRun(run -> run.withPutBacks(run.putBacks().stream()
                        .filter(p -> !p.of().equals(e.of()))
                        .toList()));
            case Effect.LeftAsItIs e ->
                onRun(run -> run.withPutBacks(run.putBacks().stream()
                        .map(p -> p.of().equals(e.of()) ? p.gaveUp() : p)
                        .toList()));
            case Effect.MayBeTakenBack e -> onRun(run -> undoable(run, e.by()));
            case Effect.Settled e -> onRun(run -> run.withLastDone(null));
            case Effect.TakenBack e -> onRun(Effects::takenBack);
            case Effect.TakesPart e -> takesPart(e);
            case Effect.Sets e -> sets(e);
            case Effect.Settling e -> Fold.onVisit(now, r, v -> v.settling(e.how()));
        };
    }

    private Case onRun(java.util.function.UnaryOperator<Run> edit) {
        return Fold.onRun(now, r, edit);
    }

    private Run binding(Run run, Effect.Binds e) {
        Visit visit = run.open().get(r.visit());
        return visit == null ? run : Guards.approved(run, visit, e);
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

    /** Keeps what it takes to take the outcome back (D29). */
    private Run undoable(Run run, PersonId by) {
        Visit visit = Objects.requireNonNull(run.open().get(r.visit()));
        Map<String, Object> seen = run.scope(visit.place()).get(visit.step().value());
        return run.withLastDone(new Run.Undoable(visit, seen, run.visits(), r.at(), by));
    }

    private static Run takenBack(Run run) {
        Run.Undoable last = Objects.requireNonNull(run.lastDone());
        Visit visit = last.visit();
        Map<String, Map<String, Object>> values = new HashMap<>(run.scope(visit.place()));
        if (last.seen() == null) {
            values.remove(visit.step().value());
        } else {
            values.put(visit.step().value(), last.seen());
        }
        return run.with(visit).withScope(visit.place(), values).withLastDone(null);
    }

    private Case takesPart(Effect.TakesPart e) {
        TreeMap<String, List<PersonId>> parts = new TreeMap<>(now.parts());
        List<PersonId> people = new ArrayList<>(parts.getOrDefault(e.as(), List.of()));
        people.remove(e.person());
        people.add(e.person());
        parts.put(e.as(), List.copyOf(people));
        return now.with(now.talk().withParts(parts));
    }

    private Case sets(Effect.Sets e) {
        Case changed = Fold.changed(now, e.changes(), e.texts());
        return Fold.onRun(changed, r, run -> {
            Map<String, Object> vars = new HashMap<>(run.vars());
            if (e.vars() != null) {
                vars.putAll(e.vars());
            }
            return run.withVars(vars);
        });
    }
}
