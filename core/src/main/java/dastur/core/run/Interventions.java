package dastur.core.run;

import dastur.core.json.Texts;
import dastur.core.workflow.Step;
import dastur.core.workflow.StepId;
import java.util.List;
import java.util.Optional;

/** What a person may do about a stalled visit or a run, with a reason (law 10, N51; D13, D19). */
final class Interventions {
    private final Deciding d;

    Interventions(Deciding d) {
        this.d = d;
    }

    Optional<Refusal> intervene(Command.Intervene c) {
        if (Texts.blank(c.reason()) || c.reason().length() > Texts.MAX_TEXT) {
            return Optional.of(Refusal.invalid("reason", "Say why: the reason goes onto the record."));
        }
        Run run = d.now().open().get(c.run());
        if (run == null) {
            return Optional.of(new Refusal(Refusal.Code.TOO_LATE, "The run " + c.run() + " is not open.", null));
        }
        if (c.kind() == Intervention.STOP_RUN) {
            stop(run, c);
            return Optional.empty();
        }
        if (c.kind() == Intervention.STOP_AND_PUT_BACK) {
            d.emit(d.actor, run.id(), null, null, new Event.Intervened(c.kind(), null, c.reason()));
            new PutBacks(d).begin(run, null, true, "stopped", true);
            return Optional.empty();
        }
        Optional<Visit> visit =
                Optional.ofNullable(c.visit()).map(v -> run.open().get(v));
        if (visit.isEmpty()) {
            return Optional.of(new Refusal(Refusal.Code.TOO_LATE, "That step is no longer open.", "visit"));
        }
        return onVisit(run, visit.get(), c);
    }

    private void stop(Run run, Command.Intervene c) {
        d.emit(d.actor, run.id(), null, null, new Event.Intervened(c.kind(), null, c.reason()));
        run.open().values().forEach(v -> d.withdraw(d.actor, v, "the run was stopped"));
        Run left = d.run(run.id());
        List<String> off = left.putBacks().stream().map(Run.PutBack::name).toList();
        d.emit(d.actor, run.id(), null, null, new Event.RunEnded("stopped", true, off.isEmpty() ? null : off, null));
    }

    private Optional<Refusal> onVisit(Run run, Visit visit, Command.Intervene c) {
        Step step = d.step(visit);
        Visit.Stall stall = visit.stall();
        if (stall == null) {
            return Optional.of(Refusal.invalid("kind", "'" + step.name() + "' is not stalled: it waits as designed."));
        }
        boolean unsure = visit.waiting() instanceof Waiting.CallResult w && w.unsure();
        boolean outdated = stall.code().equals("approval outdated");
        return switch (c.kind()) {
            case RETRY ->
                unsure || outdated
                        ? no(c, "Say whether it happened, or ask again; a plain retry could do it twice.")
                        : intervened(visit, c, () -> retry(run, visit, true));
            case TAKE_EXIT -> takeExit(visit, step, c);
            case HAPPENED ->
                unsure
                        ? intervened(visit, c, () -> new CallRules(d).happened(visit))
                        : no(c, "Nobody doubts whether this happened.");
            case DID_NOT_HAPPEN ->
                unsure
                        ? intervened(visit, c, () -> new CallRules(d).repeatAnew(visit, d.actor))
                        : no(c, "Nobody doubts whether this happened.");
            case GO_ON ->
                outdated
                        ? intervened(visit, c, () -> retry(run, visit, false))
                        : no(c, "There is no outdated approval to pass over.");
            case ASK_AGAIN ->
                outdated
                        ? intervened(visit, c, () -> askAgain(run, visit))
                        : no(c, "There is no outdated approval to ask again.");
            case STOP_RUN, STOP_AND_PUT_BACK -> throw new IllegalStateException("treated before");
        };
    }

    private static Optional<Refusal> no(Command.Intervene c, String why) {
        return Optional.of(Refusal.invalid("kind", "'" + c.kind().word() + "' does not fit here. " + why));
    }

    private Optional<Refusal> intervened(Visit visit, Command.Intervene c, Runnable then) {
        d.emit(d.actor, visit, new Event.Intervened(c.kind(), c.exit(), c.reason()));
        then.run();
        return Optional.empty();
    }

    private void retry(Run run, Visit visit, boolean guarded) {
        if (visit.waiting() instanceof Waiting.CallResult) {
            new CallRules(d).repeatAnew(visit, d.actor);
        } else {
            new Opening(d, new Site(run, visit.place())).open(visit.id(), visit.step(), guarded);
        }
    }

    private void askAgain(Run run, Visit visit) {
        StepId approval = run.guards().getLast().approval();
        d.emit(d.actor, visit, new Event.Left("ask again", approval, "the approval was outdated"));
    }

    private Optional<Refusal> takeExit(Visit visit, Step step, Command.Intervene c) {
        if (visit.putsBack() != null) {
            return intervened(
                    visit, c, () -> d.emit(d.actor, visit, new Event.Left("left as it is", null, "taken by hand")));
        }
        StepId to = c.exit() == null ? null : Deciding.way(step, c.exit());
        if (to == null) {
            return Optional.of(Refusal.invalid(
                    "exit",
                    "'" + step.name() + "' has no way for that. It has: "
                            + String.join(", ", step.ways().keySet()) + "."));
        }
        return intervened(visit, c, () -> d.emit(d.actor, visit, new Event.Left(c.exit(), to, "taken by hand")));
    }
}
