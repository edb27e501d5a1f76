package dastur.core.run;

import dastur.core.json.Texts;
import dastur.core.people.Actor;
import dastur.core.workflow.Kinds;
import dastur.core.workflow.Step;
import dastur.core.workflow.StepId;
import dastur.core.workflow.WorkflowVersion;
import java.util.Comparator;
import java.util.List;
import java.util.Objects;
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
        Optional<Optional<Refusal>> whole = onRun(run, c);
        if (whole.isPresent()) {
            return whole.get();
        }
        Optional<Visit> visit =
                Optional.ofNullable(c.visit()).map(v -> run.open().get(v));
        if (visit.isEmpty()) {
            return Optional.of(new Refusal(Refusal.Code.TOO_LATE, "That step is no longer open.", "visit"));
        }
        return onVisit(run, visit.get(), c);
    }

    /** What concerns the whole run; empty where it concerns one visit. */
    private Optional<Optional<Refusal>> onRun(Run run, Command.Intervene c) {
        return switch (c.kind()) {
            case HOLD ->
                Optional.of(
                        run.held()
                                ? Optional.of(Refusal.invalid("kind", "'" + run.name() + "' is on hold already."))
                                : whole(run, c));
            case RESUME ->
                Optional.of(
                        run.held()
                                ? whole(run, c)
                                : Optional.of(Refusal.invalid("kind", "'" + run.name() + "' is not on hold.")));
            case MOVE -> Optional.of(move(run, c));
            case RERUN -> Optional.of(rerun(run, c));
            case RETRY,
                    RETRY_ANEW,
                    TAKE_EXIT,
                    HAPPENED,
                    DID_NOT_HAPPEN,
                    ASK_AGAIN,
                    GO_ON,
                    SKIP,
                    STOP_RUN,
                    STOP_AND_PUT_BACK -> Optional.empty();
        };
    }

    private Optional<Refusal> whole(Run run, Command.Intervene c) {
        d.emit(d.actor, run.id(), null, null, new Event.Intervened(c.kind(), null, c.step(), c.version(), c.reason()));
        return Optional.empty();
    }

    private Optional<Refusal> move(Run run, Command.Intervene c) {
        Optional<WorkflowVersion> to =
                Optional.ofNullable(c.version()).flatMap(n -> d.lookups().version(run.workflow(), n));
        if (to.isEmpty()) {
            return Optional.of(Refusal.invalid("version", "'" + run.name() + "' has no version " + c.version() + "."));
        }
        if (to.get().number() == run.version()) {
            return Optional.of(Refusal.invalid("version", "It is on version " + run.version() + " already."));
        }
        List<String> problems = Moves.problems(run, d.version(run), to.get());
        return problems.isEmpty() ? whole(run, c) : Optional.of(Refusal.invalid("version", String.join(" ", problems)));
    }

    private Optional<Refusal> rerun(Run run, Command.Intervene c) {
        Optional<Step> step = Optional.ofNullable(c.step())
                .flatMap(id -> d.version(run).body().step(id));
        if (step.isEmpty()) {
            return Optional.of(Refusal.invalid(
                    "step", "Name a step of the main level; steps inside a bracket begin with the bracket."));
        }
        if (!run.puttingBack().isEmpty()) {
            return Optional.of(Refusal.invalid("kind", "It is being put back; that has to end first."));
        }
        String why = "it runs again from '" + step.get().name() + "'";
        run.open().values().stream()
                .sorted(Comparator.comparing(Visit::id).reversed())
                .forEach(v -> d.withdraw(d.actor, v, why));
        return whole(run, c);
    }

    private Optional<Refusal> skip(Visit visit, Step step, Command.Intervene c) {
        boolean machine = visit.waiting().machine()
                || visit.waiting() instanceof Waiting.Delivery
                || visit.waiting() instanceof Waiting.Lines;
        if (machine || visit.putsBack() != null) {
            return no(c, "'" + step.name() + "' is under way; wait for it, or stop the run.");
        }
        StepId to = c.exit() == null ? null : Deciding.way(step, c.exit());
        if (to == null) {
            return Optional.of(noSuchWay(step));
        }
        d.emit(d.actor, visit, new Event.Intervened(c.kind(), c.exit(), c.reason()));
        d.stopCalled(d.actor, visit, "the step that called it was skipped");
        d.emit(d.actor, visit, new Event.Left(c.exit(), to, "skipped"));
        return Optional.empty();
    }

    private static Refusal noSuchWay(Step step) {
        return Refusal.invalid(
                "exit",
                "'" + step.name() + "' has no way for that. It has: "
                        + String.join(", ", step.ways().keySet()) + ".");
    }

    private void stop(Run run, Command.Intervene c) {
        d.emit(d.actor, run.id(), null, null, new Event.Intervened(c.kind(), null, c.reason()));
        new RunEnds(d).stop(d.actor, run, "the run was stopped");
    }

    private Optional<Refusal> onVisit(Run run, Visit visit, Command.Intervene c) {
        Step step = d.step(visit);
        Visit.Stall stall = visit.stall();
        if (c.kind() == Intervention.SKIP) {
            return skip(visit, step, c);
        }
        if (stall == null) {
            return Optional.of(Refusal.invalid("kind", "'" + step.name() + "' is not stalled: it waits as designed."));
        }
        Optional<Remedied<Step>> remedies = remedies(step);
        Here here = new Here(d, new Position(run, visit.place()));
        boolean unsure = remedies.filter(r -> r.inDoubt(visit)).isPresent();
        boolean outdated = stall.code().equals("approval outdated");
        return switch (c.kind()) {
            case RETRY -> {
                Optional<String> why = remedies.flatMap(r -> r.retryDoesNotFit(step, visit, here));
                yield why.isPresent() ? no(c, why.get()) : intervened(visit, c, () -> retry(run, visit, true));
            }
            case RETRY_ANEW -> {
                Optional<String> why = remedies.isEmpty()
                        ? Optional.of("There are no frozen inputs to be taken anew.")
                        : remedies.flatMap(r ->
                                r.retryDoesNotFit(step, visit, here).or(() -> r.takesNothingAnew(step, visit, here)));
                yield why.isPresent()
                        ? no(c, why.get())
                        : intervened(visit, c, () -> retryAnew(remedies.orElseThrow(), step, visit, here));
            }
            case TAKE_EXIT -> takeExit(visit, step, c);
            case HAPPENED ->
                unsure
                        ? intervened(visit, c, () -> remedies.orElseThrow().happened(step, visit, here))
                        : no(c, "Nobody doubts whether this happened.");
            case DID_NOT_HAPPEN ->
                unsure
                        ? intervened(visit, c, () -> remedies.orElseThrow().didNotHappen(step, visit, here))
                        : no(c, "Nobody doubts whether this happened.");
            case GO_ON ->
                outdated
                        ? intervened(visit, c, () -> retry(run, visit, false))
                        : no(c, "There is no outdated approval to pass over.");
            case ASK_AGAIN -> outdated ? askAgain(run, visit, c) : no(c, "There is no outdated approval to ask again.");
            case SKIP, RERUN, HOLD, RESUME, MOVE, STOP_RUN, STOP_AND_PUT_BACK ->
                throw new IllegalStateException("treated before");
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

    private static Optional<Remedied<Step>> remedies(Step step) {
        return Kinds.plays(step, Remedied.class) ? Optional.of(Kinds.of(step, Remedied.class)) : Optional.empty();
    }

    private void retryAnew(Remedied<Step> remedies, Step step, Visit visit, Here here) {
        try {
            remedies.retryAnew(step, visit, here);
        } catch (CannotOpen cannot) {
            d.emit(Actor.SYSTEM, visit, new Event.Stalled(cannot.code(), cannot.getMessage()));
        }
    }

    private void retry(Run run, Visit visit, boolean guarded) {
        Step step = d.step(visit);
        Optional<Remedied<Step>> remedies = remedies(step);
        if (remedies.isPresent() && visit.waiting().machine()) {
            remedies.get().retry(step, visit, guarded, new Here(d, new Position(run, visit.place())));
        } else {
            new Opening(d, new Position(run, visit.place())).reopen(visit.id(), visit.step(), guarded);
        }
    }

    /** Stands before the approval again, where it is in the same line; one that was asked around it is a matter of the whole run. */
    private Optional<Refusal> askAgain(Run run, Visit visit, Command.Intervene c) {
        Optional<Remedied.Outdated> outdated =
                remedies(d.step(visit)).flatMap(r -> r.outdated(new Here(d, new Position(run, visit.place()))));
        if (outdated.isEmpty()) {
            return no(c, "What was approved is so again. Retry.");
        }
        Run.Guard guard = outdated.get().guard();
        StepId approval = guard.approval();
        boolean beside = d.version(run)
                .body()
                .around(visit.step())
                .flatMap(level -> level.step(approval))
                .isPresent();
        boolean here = outdated.get().run().equals(run.id()) && Objects.equals(guard.place(), visit.place());
        if (!beside || !here) {
            return no(
                    c,
                    "'" + guard.name() + "' was not asked in this line, so it cannot be asked again from here."
                            + " Re-run from it, or go on with a reason.");
        }
        return intervened(
                visit,
                c,
                () -> d.emit(d.actor, visit, new Event.Left("ask again", approval, "the approval was outdated")));
    }

    private Optional<Refusal> takeExit(Visit visit, Step step, Command.Intervene c) {
        if (visit.putsBack() != null) {
            return intervened(
                    visit, c, () -> d.emit(d.actor, visit, new Event.Left("left as it is", null, "taken by hand")));
        }
        StepId to = c.exit() == null ? null : Deciding.way(step, c.exit());
        if (to == null) {
            return Optional.of(noSuchWay(step));
        }
        return intervened(visit, c, () -> {
            Optional<Remedied<Step>> remedies = remedies(step);
            if (remedies.isPresent() && visit.waiting().machine()) {
                remedies.get().takeExit(step, visit, c.exit(), to, new Here(d, d.position(visit)));
            } else {
                d.emit(d.actor, visit, new Event.Left(c.exit(), to, "taken by hand"));
            }
        });
    }
}
