package dastur.core.run;

import dastur.core.people.Actor;
import dastur.core.workflow.Kinds;
import dastur.core.workflow.Step;
import java.util.ArrayList;
import java.util.Collections;
import java.util.List;
import java.util.Objects;
import java.util.Optional;
import org.jspecify.annotations.Nullable;

/**
 * Rollback: undoes completed steps one by one, in reverse order of completion, once what is under way has settled
 * (N21, D16). What was switched off for a time only is put back on success too.
 */
final class PutBacks {
    private final Deciding d;

    PutBacks(Deciding d) {
        this.d = d;
    }

    /** An end asked for it: of the stage around it, or of the run where there is none. */
    void begin(Position position, String result) {
        Run run = d.run(position.id());
        Optional<Visit> stage = stageAround(run, position.place());
        begin(run, stage.orElse(null), true, stage.isPresent() ? "put back" : result, false);
    }

    static Optional<Visit> stageAround(Run run, @Nullable Place place) {
        return run.chain(place).stream()
                .map(p -> run.open().get(p.bracket()))
                .filter(v -> v != null
                        && v.waiting() instanceof Waiting.Lines lines
                        && lines.bracket().equals("stage"))
                .findFirst();
    }

    /** @param stage null for the run */
    void begin(Run run, @Nullable Visit stage, boolean all, String exit, boolean stopped) {
        String why = all ? "its work is put back" : "what was switched off for a time is put back";
        if (stage == null) {
            run.open().values().stream()
                    .filter(v -> !waitedFor(run, v))
                    .forEach(v -> d.now().visit(v.id()).ifPresent(open -> d.withdraw(Actor.SYSTEM, open, why)));
        } else {
            new Brackets(d).withdrawInside(stage, why, true);
        }
        List<String> names = new ArrayList<>(d.run(run.id()).putBacks().stream()
                .filter(p -> belongs(p, stage == null ? null : stage.id(), d.run(run.id())) && (all || p.always()))
                .map(Run.PutBack::name)
                .toList());
        Collections.reverse(names);
        d.emit(
                Actor.SYSTEM,
                run.id(),
                stage == null ? null : stage.step(),
                stage == null ? null : stage.id(),
                new Event.PutBackBegan(all, exit, stopped, names));
    }

    /** Whether a call goes on outside, so that nobody knows yet what it will have changed. */
    static boolean inFlight(Visit visit) {
        return visit.waiting().inFlight();
    }

    /** Calls in flight stay open until they settle, and so do the brackets around them. */
    static boolean waitedFor(Run run, Visit visit) {
        return inFlight(visit)
                || visit.waiting() instanceof Waiting.Lines
                        && run.open().values().stream().anyMatch(v -> inFlight(v) && run.inside(v.place(), visit.id()));
    }

    /** What belongs to the run is everything; what belongs to a stage is registered with it. */
    private static boolean belongs(Run.PutBack p, @Nullable VisitId stage, Run run) {
        return stage == null || stage.equals(p.stage()) || p.stage() != null && isInside(run, p.stage(), stage);
    }

    private static boolean isInside(Run run, VisitId inner, VisitId outer) {
        Visit visit = run.open().get(inner);
        return visit != null && run.inside(visit.place(), outer);
    }

    /** Whether a visit, or something around it, is being put back: then nothing in it goes on. */
    boolean puttingBack(Visit visit) {
        Run run = d.run(visit.id().run());
        return visit.putsBack() == null
                && run.puttingBack().stream()
                        .anyMatch(p -> p.stage() == null
                                || p.stage().equals(visit.id())
                                || run.inside(visit.place(), p.stage()));
    }

    /** Goes on with what is being put back: the next one, or the end of it. */
    void settle() {
        List<Run> runs = List.copyOf(d.now().open().values());
        for (Run run : runs) {
            for (Run.PuttingBack p : run.puttingBack()) {
                // Somebody who stops a run that is held means it at once.
                boolean still = run.held() && !p.stopped();
                if (!still && d.now().open().containsKey(run.id())) {
                    settle(run.id(), p);
                }
            }
        }
    }

    private void settle(RunId id, Run.PuttingBack p) {
        Run run = d.run(id);
        if (!run.puttingBack().contains(p) || busy(run, p)) {
            return;
        }
        Optional<Run.PutBack> next = run.putBacks().reversed().stream()
                .filter(b -> !b.givenUp() && (p.all() || b.always()) && belongs(b, p.stage(), run))
                .findFirst();
        if (next.isPresent()) {
            VisitId visit = VisitId.of(run.id(), run.visits() + 1);
            Step step = d.version(run).step(next.get().step());
            Undoes<Step> kind = Kinds.of(step, Undoes.class);
            kind.putBack(step, visit, next.get(), new Here(d, new Position(run, null)));
            return;
        }
        end(run, p);
    }

    /** Whether one is being put back already, or something is still under way outside. */
    private static boolean busy(Run run, Run.PuttingBack p) {
        return run.open().values().stream()
                .anyMatch(v -> v.putsBack() != null
                        ? run.putBacks().stream()
                                .anyMatch(b -> b.of().equals(v.putsBack()) && belongs(b, p.stage(), run))
                        : v.waiting().machine() && (p.stage() == null || run.inside(v.place(), p.stage())));
    }

    private void end(Run run, Run.PuttingBack p) {
        List<String> left = run.putBacks().stream()
                .filter(b -> b.givenUp() && belongs(b, p.stage(), run))
                .map(Run.PutBack::name)
                .toList();
        if (p.stage() == null) {
            d.emit(Actor.SYSTEM, run.id(), null, null, new Event.PutBackEnded(left));
            d.run(run.id()).open().values().forEach(v -> d.withdraw(Actor.SYSTEM, v, "the run ended"));
            new RunEnds(d).finish(d.run(run.id()), p.exit(), p.stopped());
            return;
        }
        Visit stage = Objects.requireNonNull(run.open().get(p.stage()));
        d.emit(Actor.SYSTEM, stage, new Event.PutBackEnded(left));
        Step step = d.step(stage);
        if (p.exit().equals("put back") && Deciding.way(step, "put back") == null) {
            d.emit(
                    Actor.SYSTEM,
                    stage,
                    new Event.Stalled(
                            "put back", "'" + step.name() + "' was put back, and no way leads on from there."));
        } else {
            Brackets brackets = new Brackets(d);
            brackets.withdrawInside(stage, "'" + step.name() + "' was put back", false);
            brackets.left(d.now().visit(stage.id()).orElseThrow(), p.exit(), "what it changed was put back");
        }
    }
}
