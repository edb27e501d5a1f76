package dastur.core.step.calling;

import dastur.core.expression.Outcome;
import dastur.core.json.Texts;
import dastur.core.json.Values;
import dastur.core.people.Actor;
import dastur.core.people.Person;
import dastur.core.people.PersonId;
import dastur.core.run.Case;
import dastur.core.run.Event;
import dastur.core.run.Here;
import dastur.core.run.Lookups;
import dastur.core.run.Refusal;
import dastur.core.run.Visit;
import dastur.core.run.VisitId;
import dastur.core.step.calling.CallingCommands.CallResult;
import dastur.core.step.calling.CallingEvents.AttemptFailed;
import dastur.core.step.calling.CallingEvents.CallDone;
import dastur.core.step.calling.CallingEvents.CallFailed;
import dastur.core.step.calling.CallingEvents.CallUnsure;
import dastur.core.step.calling.CallingEvents.PutBackPlan;
import dastur.core.step.calling.CallingEvents.ResultKept;
import dastur.core.step.check.CheckEvents.Measured;
import dastur.core.workflow.Action;
import dastur.core.workflow.Kinds;
import dastur.core.workflow.Step;
import dastur.core.workflow.StepId;
import dastur.core.workflow.TermsOfUse;
import java.time.Duration;
import java.time.Instant;
import java.util.Map;
import java.util.Optional;
import java.util.TreeMap;
import org.jspecify.annotations.Nullable;

/** What becomes of calls: results, failures, doubts, and what a person says of them (N44, N47; D13, D15). */
final class CallResults {
    private static final int MAX_OUTPUT = 8_000;
    private static final Duration TOLD_EVERY = Duration.ofDays(1);

    private final Here here;

    CallResults(Here here) {
        this.here = here;
    }

    Optional<Refusal> result(CallResult c) {
        Optional<Visit> visit = here.visit(c.visit());
        if (visit.isEmpty()
                || !(visit.get().waiting() instanceof CallUnderWay waiting)
                || waiting.attempt() != c.attempt()
                || waiting.came() != null) {
            late(c);
            return Optional.empty();
        }
        switch (c.outcome()) {
            case CallingCommands.CallOutcome.Done done -> done(visit.get(), waiting, done);
            case CallingCommands.CallOutcome.Failed failed -> {
                tellKeeper(visit.get(), waiting, failed.why());
                failed(visit.get(), waiting, failed.why(), here.actor());
            }
            case CallingCommands.CallOutcome.Unknown unknown -> {
                tellKeeper(visit.get(), waiting, unknown.why());
                unknown(visit.get(), waiting, unknown.why(), here.actor());
            }
            case CallingCommands.CallOutcome.Fault fault -> {
                tellKeeper(visit.get(), waiting, fault.why());
                fault(visit.get(), waiting, fault);
            }
        }
        return Optional.empty();
    }

    /**
     * Tells whoever keeps the action that it goes badly again and again (M5): when it has so often as is said, and once more each day
     * that it goes on. It is told first, since it is of what waits now.
     */
    private void tellKeeper(Visit visit, CallUnderWay waiting, String why) {
        TermsOfUse terms = here.lookups().terms(waiting.action()).orElse(null);
        if (terms == null || terms.keeper() == null || terms.tellAfter() == null) {
            return;
        }
        Lookups.BadInRow before = here.lookups().badInRow(waiting.action());
        int bad = before.calls() + 1;
        Optional<PersonId> keeper =
                here.lookups().person(terms.keeper()).filter(Person::active).map(Person::id);
        if (bad < terms.tellAfter()
                || keeper.isEmpty()
                || before.told() != null && before.told().plus(TOLD_EVERY).isAfter(here.now())) {
            return;
        }
        String name = here.lookups()
                .action(waiting.action())
                .map(Action::name)
                .orElse(waiting.action().value());
        here.tellKeeper(
                visit,
                keeper.get(),
                TermsOfUse.about(waiting.action()),
                "'" + name + "' has gone badly " + (bad == 1 ? "once" : bad + " times in a row"),
                "You keep the action '" + name + "'. The last of its calls that went badly, '"
                        + here.step(visit).name() + "' on " + here.ticket().id() + ":\n\n"
                        + Texts.clip(why, 500) + "\n\nWhat it is, who uses it and how it goes: /actions/"
                        + waiting.action()
                        + "\n");
    }

    /** Enters a result that nobody waits for any more; where the world may have changed, the run's owner must look. */
    private void late(CallResult c) {
        boolean changed = !(c.outcome() instanceof CallingCommands.CallOutcome.Failed)
                && !(c.outcome() instanceof CallingCommands.CallOutcome.Fault fault && !fault.sent())
                && here.actor() instanceof Actor.OfAction a
                && here.lookups()
                        .action(a.action())
                        .filter(Action::changesWorld)
                        .isPresent();
        boolean repeated = here.visit(c.visit()).isPresent();
        Case.Began run = here.ticket().began().get(c.visit().run());
        PersonId owner = changed && !repeated && run != null ? run.owner() : null;
        here.emit(
                here.actor(),
                c.visit().run(),
                c.visit(),
                switch (c.outcome()) {
                    case CallingCommands.CallOutcome.Done done ->
                        new Event.LateResult(c.attempt(), done.exit(), owner, Texts.clip(done.log(), MAX_OUTPUT));
                    case CallingCommands.CallOutcome.Failed f ->
                        new Event.LateResult(c.attempt(), "failed", owner, Texts.clip(f.why(), 500));
                    case CallingCommands.CallOutcome.Unknown u ->
                        new Event.LateResult(c.attempt(), "unknown", owner, Texts.clip(u.why(), 500));
                    case CallingCommands.CallOutcome.Fault f ->
                        new Event.LateResult(
                                c.attempt(), f.sent() ? "unknown" : "failed", owner, Texts.clip(f.why(), 500));
                });
    }

    /** A person says that an unsure call happened. */
    void happened(Visit visit) {
        CallUnderWay waiting = (CallUnderWay) visit.waiting();
        done(
                visit,
                waiting,
                new CallingCommands.CallOutcome.Done(
                        "ok", Map.of(), null, null, "A person said that it happened.", 0, 0));
    }

    private void done(Visit visit, CallUnderWay waiting, CallingCommands.CallOutcome.Done done) {
        Step step = here.step(visit);
        if (visit.putsBack() != null) {
            here.emit(here.actor(), visit, callDone("ok", null, waiting, done, visit, null));
            return;
        }
        if (Kinds.plays(step, Measures.class)) {
            Map<String, Object> outputs = Values.withoutBlank(done.outputs());
            here.emit(
                    here.actor(),
                    visit,
                    new Measured(waiting.attempt(), done.tookMillis(), outputs, Texts.clip(done.log(), MAX_OUTPUT)));
            measured(step, visit, outputs, null);
            return;
        }
        boolean over = here.puttingBack(visit);
        StepId to = over ? null : Here.way(step, done.exit());
        if (to == null && !over) {
            here.emit(
                    here.actor(),
                    visit,
                    new ResultKept(
                            done.exit(),
                            waiting.attempt(),
                            done.tookMillis(),
                            done.polls(),
                            done.reference(),
                            done.link(),
                            Values.withoutBlank(done.outputs()),
                            Texts.clip(done.log(), MAX_OUTPUT)));
            here.emit(
                    here.actor(),
                    visit,
                    new Event.Stalled(
                            "no way",
                            "'" + step.name() + "' came to '" + done.exit() + "', and no way leads on from there."));
            return;
        }
        PutBack back = done.exit().equals("ok") && step instanceof Acting a ? a.putBack() : null;
        here.emit(here.actor(), visit, callDone(done.exit(), to, waiting, done, visit, back));
    }

    /** A person says which way the run goes on from a result that has none of its own; what came of the call goes along. */
    void leave(Visit visit, CallUnderWay waiting, Came came, String exit, StepId to) {
        Step step = here.step(visit);
        CallingCommands.CallOutcome.Done done = new CallingCommands.CallOutcome.Done(
                exit,
                came.outputs(),
                came.reference(),
                came.link(),
                "It came to '" + came.exit() + "'; a person said how the run goes on.",
                came.tookMillis(),
                came.polls());
        PutBack back = came.exit().equals("ok") && step instanceof Acting a ? a.putBack() : null;
        here.emit(here.actor(), visit, callDone(exit, to, waiting, done, visit, back));
    }

    private CallDone callDone(
            String exit,
            @Nullable StepId to,
            CallUnderWay waiting,
            CallingCommands.CallOutcome.Done done,
            Visit visit,
            @Nullable PutBack back) {
        Map<String, Object> outputs = Values.withoutBlank(done.outputs());
        Here there = here.at(visit);
        Map<String, Object> frozen = back == null ? null : frozen(there, visit, back, outputs);
        VisitId stage = back == null ? null : there.stage(visit.place()).orElse(null);
        return new CallDone(
                exit,
                to,
                waiting.attempt(),
                done.tookMillis(),
                done.polls(),
                done.reference(),
                done.link(),
                back == null ? null : new PutBackPlan(stage, here.step(visit).name(), back.action(), back.always()),
                frozen,
                outputs,
                Texts.clip(done.log(), MAX_OUTPUT));
    }

    /** The inputs of a put-back as they are when its step is completed, its own outputs among them (D16). */
    private static Map<String, Object> frozen(Here there, Visit visit, PutBack back, Map<String, Object> outputs) {
        Here completed = there.at(there.with(visit, outputs), visit.place());
        Map<String, Object> inputs = new TreeMap<>();
        back.inputs().forEach((name, expression) -> {
            if (!Texts.blank(expression)
                    && completed.evaluate(expression) instanceof Outcome.Value v
                    && !Texts.blank(v.value())) {
                inputs.put(name, Values.normal(v.value()));
            }
        });
        return inputs;
    }

    private void failed(Visit visit, CallUnderWay waiting, String why, Actor by) {
        failed(visit, waiting, why, by, waiting.attempt() < waiting.tries());
    }

    /** @param again whether it is tried once more */
    private void failed(Visit visit, CallUnderWay waiting, String why, Actor by, boolean again) {
        String error = Texts.clip(why, 500);
        Step step = here.step(visit);
        if (measures(visit)) {
            here.emit(by, visit, new AttemptFailed(waiting.attempt(), false, null, null, error));
            measured(step, visit, Map.of(), error);
            return;
        }
        if (again) {
            int next = waiting.attempt() + 1;
            here.emit(
                    by,
                    visit,
                    new AttemptFailed(
                            waiting.attempt(),
                            false,
                            nextAt(visit.id(), waiting),
                            CallRules.attemptKey(visit.id(), next),
                            error));
            return;
        }
        StepId to = visit.putsBack() != null ? null : Here.way(step, "failed");
        boolean endsItem = visit.putsBack() == null && here.at(visit).endsItem();
        boolean over = visit.putsBack() == null && here.puttingBack(visit);
        if (to != null || endsItem || over) {
            Here there = here.at(visit);
            here.emit(by, visit, new CallFailed("failed", over ? null : to, waiting.attempt(), error));
            if (to == null && endsItem && !over) {
                CallRules.endItem(there, "failed");
            }
        } else {
            here.emit(by, visit, new AttemptFailed(waiting.attempt(), false, null, null, error));
            String what = visit.putsBack() == null ? "'" + step.name() + "'" : "Putting back '" + step.name() + "'";
            here.emit(
                    by,
                    visit,
                    new Event.Stalled("failed", what + " failed after " + tries(waiting.attempt()) + ": " + error));
        }
    }

    /** Whether what comes of the call is judged, and nothing fails by it. */
    private boolean measures(Visit visit) {
        return visit.putsBack() == null && Kinds.plays(here.step(visit), Measures.class);
    }

    private void measured(Step step, Visit visit, Map<String, Object> outputs, @Nullable String trouble) {
        Measures<Step> kind = Kinds.of(step, Measures.class);
        kind.measured(step, here.visit(visit.id()).orElseThrow(), outputs, trouble, here.at(visit));
    }

    private static String tries(int count) {
        return count == 1 ? "1 try" : count + " tries";
    }

    /** Another try would meet the same fault; what may have gone out all the same is for a person to find out (D13). */
    private void fault(Visit visit, CallUnderWay waiting, CallingCommands.CallOutcome.Fault fault) {
        boolean unsure = fault.sent() && waiting.repeat() != Action.Repeat.FREE && !measures(visit);
        if (unsure) {
            here.emit(here.actor(), visit, new CallUnsure(waiting.attempt(), Texts.clip(fault.why(), 500)));
        } else {
            failed(visit, waiting, fault.why(), here.actor(), false);
        }
    }

    /** Free and keyed calls repeat under the same key; one that must never repeat waits for a person (D13). */
    private void unknown(Visit visit, CallUnderWay waiting, String why, Actor by) {
        if (measures(visit)) {
            failed(visit, waiting, why, by);
            return;
        }
        boolean mayRepeat = waiting.repeat() != Action.Repeat.NEVER && waiting.attempt() < waiting.tries();
        if (mayRepeat) {
            here.emit(
                    by,
                    visit,
                    new AttemptFailed(
                            waiting.attempt(), true, nextAt(visit.id(), waiting), waiting.key(), Texts.clip(why, 500)));
        } else if (waiting.repeat() == Action.Repeat.FREE) {
            failed(visit, waiting, why, by);
        } else {
            here.emit(by, visit, new CallUnsure(waiting.attempt(), Texts.clip(why, 500)));
        }
    }

    /** A growing pause, with jitter of up to a quarter from the attempt's id (D3). */
    private Instant nextAt(VisitId visit, CallUnderWay waiting) {
        long pause = waiting.pauseSeconds() * 1000L << Math.min(10, waiting.attempt() - 1);
        long jitter =
                Math.floorMod(CallRules.attemptKey(visit, waiting.attempt()).hashCode(), Math.max(1, pause / 4));
        return here.now().plusMillis(pause + jitter);
    }

    void rang(Visit visit, Visit.Alarm alarm) {
        if (alarm.kind() == Visit.AlarmKind.RETRY) {
            CallUnderWay waiting = (CallUnderWay) visit.waiting();
            new CallRules(here).repeat(visit, waiting, waiting.key(), Actor.CLOCK);
        } else {
            timeLimit(visit);
        }
    }

    /** A plain retry could do it twice, or do what was not approved. */
    Optional<String> retryDoesNotFit(Visit visit) {
        CallUnderWay call = visit.waiting() instanceof CallUnderWay c ? c : null;
        if (call != null && call.came() != null) {
            return Optional.of("It has happened and came to '" + call.came().exit() + "'; take an exit.");
        }
        boolean outdated = visit.stall() != null
                && visit.stall().code().equals("approval outdated")
                && Binding.outdated(here).isPresent();
        return call != null && call.unsure() || outdated
                ? Optional.of("Say whether it happened, or ask again; a plain retry could do it twice.")
                : Optional.empty();
    }

    /** A person says by which exit it goes on; what came of the call, if it has, goes along. */
    void takeExit(Visit visit, String exit, StepId to) {
        CallUnderWay waiting = (CallUnderWay) visit.waiting();
        if (waiting.came() == null) {
            here.emit(here.actor(), visit, new Event.Left(exit, to, "taken by hand"));
        } else {
            leave(visit, waiting, waiting.came(), exit, to);
        }
    }

    private void timeLimit(Visit visit) {
        CallUnderWay waiting = (CallUnderWay) visit.waiting();
        if (here.lookups().isWaiting(visit.id(), waiting.attempt())) {
            String why = "It could not begin within its time limit: calls over its connection wait.";
            tellKeeper(visit, waiting, why);
            failed(visit, waiting, why, Actor.CLOCK);
            return;
        }
        String why = "No answer within the time limit.";
        tellKeeper(visit, waiting, why);
        if (waiting.repeat() == Action.Repeat.FREE || measures(visit)) {
            failed(visit, waiting, why, Actor.CLOCK);
        } else {
            here.emit(Actor.CLOCK, visit, new CallUnsure(waiting.attempt(), why));
        }
    }
}
