package dastur.core.step.calling;

import dastur.core.people.Actor;
import dastur.core.rehearsal.Answer;
import dastur.core.rehearsal.Played;
import dastur.core.rehearsal.Rehearses;
import dastur.core.rehearsal.Rehearsing;
import dastur.core.run.Event;
import dastur.core.run.Here;
import dastur.core.run.Remedied;
import dastur.core.run.Remedied.Outdated;
import dastur.core.run.Rings;
import dastur.core.run.Run;
import dastur.core.run.Undoes;
import dastur.core.run.Visit;
import dastur.core.run.VisitId;
import dastur.core.time.Span;
import dastur.core.workflow.Action;
import dastur.core.workflow.Brings;
import dastur.core.workflow.Step;
import dastur.core.workflow.StepId;
import dastur.core.workflow.StepKind;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.TreeMap;
import org.jspecify.annotations.Nullable;

/**
 * What kinds of steps have in common for which a machine makes calls: the events and states of a call, what the clock does to it, what
 * helps when it is stuck, and how it is rehearsed.
 */
public interface CallMachine<S extends Step> extends StepKind<S>, Rings<S>, Undoes<S>, Remedied<S>, Rehearses<S> {
    /** What every call brings onto records. */
    List<Brings> BROUGHT = List.of(
            Brings.of(CallingEvents.CallRequested.class),
            Brings.of(CallingEvents.AttemptFailed.class),
            Brings.of(CallingEvents.CallRepeated.class),
            Brings.of(CallingEvents.CallDone.class),
            Brings.of(CallingEvents.ResultKept.class),
            Brings.of(CallingEvents.CallFailed.class),
            Brings.of(CallingEvents.CallUnsure.class),
            new Brings("call", CallUnderWay.class));

    @Override
    default void putBack(S step, VisitId visit, Run.PutBack what, Here here) {
        new CallRules(here).putBack(visit, what);
    }

    @Override
    default void rang(S step, Visit visit, Visit.Alarm alarm, Here here) {
        new CallResults(here).rang(visit, alarm);
    }

    @Override
    default Optional<String> retryDoesNotFit(S step, Visit visit, Here here) {
        return new CallResults(here).retryDoesNotFit(visit);
    }

    @Override
    default void retry(S step, Visit visit, boolean guarded, Here here) {
        new CallRules(here).repeatAnew(visit, here.actor());
    }

    @Override
    default boolean inDoubt(Visit visit) {
        return visit.waiting() instanceof CallUnderWay call && call.unsure();
    }

    @Override
    default void happened(S step, Visit visit, Here here) {
        new CallResults(here).happened(visit);
    }

    @Override
    default void didNotHappen(S step, Visit visit, Here here) {
        new CallRules(here).repeatAnew(visit, here.actor());
    }

    @Override
    default Optional<Outdated> outdated(Here here) {
        return Binding.outdated(here);
    }

    @Override
    default void takeExit(S step, Visit visit, String exit, StepId to, Here here) {
        new CallResults(here).takeExit(visit, exit, to);
    }

    @Override
    default List<Answer> options(S step, Visit visit, Rehearsing in) {
        if (!(visit.waiting() instanceof CallUnderWay call)) {
            return List.of();
        }
        List<String> exits = new ArrayList<>(List.of("ok"));
        in.action(call.action(), visit).ifPresent(a -> a.results().forEach(r -> exits.add(r.name())));
        List<Answer> options = new ArrayList<>();
        Rehearsing.expectedFirst(step, exits).forEach(e -> options.add(Answer.does(step.id(), e)));
        options.add(Answer.of(step.id(), Answer.Says.FAILS));
        return options;
    }

    @Override
    default Played give(S step, Visit visit, Answer answer, Rehearsing in) {
        if (!(visit.waiting() instanceof CallUnderWay call)) {
            return in.clockOnly(visit);
        }
        Actor machine = new Actor.OfAction(call.action());
        Map<String, Object> given = answer.given();
        if (answer.says() == Answer.Says.FAILS) {
            String why = given.get("error") instanceof String said ? said : "It failed in the rehearsal.";
            return in.handle(
                    machine,
                    new CallingCommands.CallResult(
                            visit.id(), call.attempt(), new CallingCommands.CallOutcome.Failed(why)));
        }
        Map<String, Object> outputs = new TreeMap<>();
        in.action(call.action(), visit)
                .ifPresent(a -> outputs.putAll(
                        in.sample(a.outputs().stream().map(Action.Output::field).toList())));
        outputs.putAll(given);
        String exit = answer.exit() == null ? "ok" : answer.exit();
        return in.handle(
                machine,
                new CallingCommands.CallResult(
                        visit.id(),
                        call.attempt(),
                        new CallingCommands.CallOutcome.Done(
                                exit, outputs, null, null, "rehearsed, nothing was called", 0, 0)));
    }

    @Override
    default Optional<Answer> answered(StepId step, Event event, Span took) {
        return switch (event) {
            case CallingEvents.CallDone e ->
                Optional.of(new Answer(step, Answer.Says.DOES, e.exit(), e.outputs(), took));
            // Each attempt that failed is an answer; one of which nobody knows what it did cannot be given again.
            case CallingEvents.AttemptFailed e when !e.unknown() -> Optional.of(failed(step, e.why(), took));
            case CallingEvents.CallFailed e when e.attempts() > 0 -> Optional.of(failed(step, e.error(), took));
            case Event e -> Optional.empty();
        };
    }

    @Override
    default boolean asksAnew(Event event) {
        return event instanceof CallingEvents.CallRequested || event instanceof CallingEvents.CallRepeated;
    }

    private static Answer failed(StepId step, @Nullable String why, Span took) {
        return new Answer(step, Answer.Says.FAILS, null, why == null ? null : Map.of("error", why), took);
    }
}
