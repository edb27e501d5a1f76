package dastur.core.run;

import static org.assertj.core.api.Assertions.assertThat;

import dastur.core.people.Actor;
import dastur.core.step.calling.CallUnderWay;
import dastur.core.step.calling.CallingCommands.CallOutcome;
import dastur.core.step.calling.CallingCommands.CallResult;
import dastur.core.step.calling.CallingEvents.AttemptFailed;
import dastur.core.step.calling.CallingEvents.CallDone;
import dastur.core.step.calling.CallingEvents.CallFailed;
import dastur.core.step.calling.CallingEvents.CallRequested;
import dastur.core.step.calling.CallingEvents.CallUnsure;
import dastur.core.workflow.Action.Repeat;
import dastur.core.workflow.ActionKey;
import java.time.Duration;
import java.util.Map;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;
import org.junit.jupiter.params.provider.EnumSource;

/** What comes of a call that does not simply succeed: by how it may be repeated, and by whether it may have gone out (D13). */
class CallFaultsTest extends WrittenWorkflows {
    private static final ActionKey CLOSE = new ActionKey("close-lane");
    private static final String WIRED = """
            close: run close-lane "Close" gate='G' at most 2 tries
              failed -> broken
            end: done "closed"
            broken: done "broken"
            """;
    private static final String UNWIRED = """
            close: run close-lane "Close" gate='G' at most 2 tries
            end: done "closed"
            """;

    private void begin(Repeat repeat, String text) {
        world.put(new LookupKey.OfAction(CLOSE), World.closeLane(repeat));
        publish(text);
    }

    private Visit close() {
        return open("close").getFirst();
    }

    private CallUnderWay call() {
        return (CallUnderWay) close().waiting();
    }

    private String ended() {
        return last(Event.RunEnded.class).map(Event.RunEnded::result).orElse("not yet");
    }

    /** A fault is ours, and another try would meet it again: what never went out has failed, at the first try. */
    @ParameterizedTest
    @EnumSource(Repeat.class)
    void aFaultBeforeAnythingWentOutFailsAtOnce(Repeat repeat) {
        begin(repeat, WIRED);
        answer(close(), new CallOutcome.Fault("The address is wrong", false));
        CallFailed failed = last(CallFailed.class).orElseThrow();
        assertThat(failed.attempts()).isOne();
        assertThat(failed.error()).isEqualTo("The address is wrong");
        assertThat(ended()).isEqualTo("broken");
        assertThat(all(AttemptFailed.class)).isEmpty();
    }

    @ParameterizedTest
    @CsvSource({"FREE,false", "KEYED,true", "NEVER,true"})
    void aFaultAfterItMayHaveGoneOutIsForAPersonUnlessItIsFree(Repeat repeat, boolean unsure) {
        begin(repeat, WIRED);
        answer(close(), new CallOutcome.Fault("The answer is no JSON", true));
        assertThat(last(CallUnsure.class).isPresent()).isEqualTo(unsure);
        assertThat(ended()).isEqualTo(unsure ? "not yet" : "broken");
        if (unsure) {
            assertThat(close().stall().code()).isEqualTo("unsure");
        }
    }

    @ParameterizedTest
    @CsvSource({"FREE,true", "KEYED,true", "NEVER,false"})
    void whatNobodyKnowsIsRepeatedUnderItsKeyWhereThatIsSafe(Repeat repeat, boolean again) {
        begin(repeat, WIRED);
        String key = call().key();
        answer(close(), new CallOutcome.Unknown("The line broke"));
        if (!again) {
            assertThat(last(CallUnsure.class)).isPresent();
            return;
        }
        AttemptFailed failed = last(AttemptFailed.class).orElseThrow();
        assertThat(failed.unknown()).isTrue();
        world.pass(Duration.ofMinutes(1));
        assertThat(call().attempt()).isEqualTo(2);
        assertThat(call().key()).as("the same call, so that it happens once").isEqualTo(key);
        answer(close(), new CallOutcome.Unknown("The line broke again"));
        if (repeat == Repeat.FREE) {
            assertThat(ended()).isEqualTo("broken");
        } else {
            assertThat(close().stall().code()).isEqualTo("unsure");
        }
    }

    @Test
    void aTryThatFailedForCertainIsAnotherCallUnderAnotherKey() {
        begin(Repeat.KEYED, WIRED);
        String key = call().key();
        answer(close(), new CallOutcome.Failed("busy"));
        world.pass(Duration.ofMinutes(1));
        assertThat(call().key()).isNotEqualTo(key).endsWith(".2");
    }

    @ParameterizedTest
    @CsvSource({"FREE,broken", "KEYED,not yet", "NEVER,not yet"})
    void noAnswerInTimeIsAFailureOnlyWhereNothingCanHaveHappened(Repeat repeat, String result) {
        begin(repeat, """
                close: run close-lane "Close" gate='G' at most 1 tries
                  failed -> broken
                end: done "closed"
                broken: done "broken"
                """.replace("1 tries", "1 try"));
        world.pass(Duration.ofHours(1));
        assertThat(ended()).isEqualTo(result);
        if (!result.equals("broken")) {
            assertThat(last(CallUnsure.class).orElseThrow().why()).contains("time limit");
        }
    }

    /** What waited behind others, or behind a breaker, did not happen: nobody is asked whether it did (M6). */
    @ParameterizedTest
    @EnumSource(Repeat.class)
    void whatCouldNotBeginInTimeHasFailedHoweverItMayBeRepeated(Repeat repeat) {
        begin(repeat, WIRED);
        world.put(new LookupKey.WaitingCall(close().id(), 1), true);
        world.pass(Duration.ofHours(1));
        AttemptFailed failed = last(AttemptFailed.class).orElseThrow();
        assertThat(failed.unknown()).isFalse();
        assertThat(failed.why()).contains("could not begin");
        world.pass(Duration.ofMinutes(1));
        assertThat(call().attempt()).isEqualTo(2);
        world.put(new LookupKey.WaitingCall(close().id(), 2), true);
        world.pass(Duration.ofHours(1));
        assertThat(ended()).isEqualTo("broken");
        assertThat(last(CallUnsure.class)).isEmpty();
    }

    /** One of two attempts was begun: of that one nobody knows. */
    @Test
    void whatWasBegunInTimeStaysUnsureWhateverWaitsBesideIt() {
        begin(Repeat.NEVER, WIRED);
        world.put(new LookupKey.WaitingCall(close().id(), 2), true);
        world.pass(Duration.ofHours(1));
        assertThat(close().stall().code()).isEqualTo("unsure");
    }

    @Test
    void withoutAWayForFailureAPersonIsAskedAndToldHowOften() {
        begin(Repeat.KEYED, UNWIRED);
        answer(close(), new CallOutcome.Failed("busy"));
        world.pass(Duration.ofMinutes(1));
        answer(close(), new CallOutcome.Failed("still busy"));
        assertThat(close().stall().code()).isEqualTo("failed");
        assertThat(close().stall().why()).isEqualTo("'Close' failed after 2 tries: still busy");
    }

    @Test
    void aPersonWhoKnowsSaysSo() {
        begin(Repeat.NEVER, WIRED);
        answer(close(), new CallOutcome.Unknown("The line broke"));
        world.accepted(
                Actor.of(World.TEO),
                new Command.Intervene(run().id(), close().id(), Intervention.HAPPENED, null, "I have seen it shut"));
        assertThat(last(CallDone.class).orElseThrow().exit()).isEqualTo("ok");
        assertThat(ended()).isEqualTo("closed");
    }

    @Test
    void aPersonWhoKnowsThatItDidNotHappenSendsItOnceMore() {
        begin(Repeat.NEVER, WIRED);
        answer(close(), new CallOutcome.Unknown("The line broke"));
        Command.Intervene retry =
                new Command.Intervene(run().id(), close().id(), Intervention.RETRY, null, "try again");
        assertThat(world.refused(Actor.of(World.TEO), retry).message()).contains("could do it twice");
        world.accepted(
                Actor.of(World.TEO),
                new Command.Intervene(
                        run().id(), close().id(), Intervention.DID_NOT_HAPPEN, null, "The lane is open still"));
        assertThat(call().attempt()).isEqualTo(2);
        assertThat(call().unsure()).isFalse();
    }

    // --- late

    private CallResult result(Visit visit, int attempt, CallOutcome outcome) {
        return new CallResult(visit.id(), attempt, outcome);
    }

    private static final Actor MACHINE = new Actor.OfAction(CLOSE);

    @ParameterizedTest
    @CsvSource({
        "done,ok,true",
        "failed,failed,false",
        "unknown,unknown,true",
        "sent,unknown,true",
        "unsent,failed,false"
    })
    void whatComesWhenNobodyWaitsIsEnteredAndTheOwnerLooksWhereTheWorldMayHaveChanged(
            String what, String exit, boolean owner) {
        begin(Repeat.KEYED, WIRED);
        Visit call = close();
        answer(call, new CallOutcome.Fault("no", false));
        assertThat(ended()).isEqualTo("broken");
        CallOutcome late =
                switch (what) {
                    case "done" -> ok("L-9");
                    case "failed" -> new CallOutcome.Failed("no");
                    case "unknown" -> new CallOutcome.Unknown("line");
                    default -> new CallOutcome.Fault("ours", what.equals("sent"));
                };
        world.accepted(MACHINE, result(call, 1, late));
        Event.LateResult entered = last(Event.LateResult.class).orElseThrow();
        assertThat(entered.outcome()).isEqualTo(exit);
        assertThat(entered.owner() != null).isEqualTo(owner);
        assertThat(ended()).as("nothing moves by it").isEqualTo("broken");
    }

    @Test
    void theAnswerOfAnAttemptThatWasGivenUpMovesNothing() {
        begin(Repeat.KEYED, WIRED);
        answer(close(), new CallOutcome.Failed("busy"));
        world.pass(Duration.ofMinutes(1));
        world.accepted(MACHINE, result(close(), 1, ok("L-1")));
        Event.LateResult late = last(Event.LateResult.class).orElseThrow();
        assertThat(late.attempt()).isOne();
        assertThat(late.owner())
                .as("it is being tried again, so whoever has the run is not called")
                .isNull();
        assertThat(call().attempt()).isEqualTo(2);
        answer(close(), ok("L-2"));
        assertThat(ended()).isEqualTo("closed");
    }

    @Test
    void theSecondOfTwoResultsIsLate() {
        begin(Repeat.KEYED, """
                close: run close-lane "Close" gate='G'
                look: ask group technicians "Look": "Done"
                end: done "closed"
                """);
        Visit call = close();
        answer(call, ok("L-1"));
        world.accepted(MACHINE, result(call, 1, ok("L-2")));
        assertThat(all(CallDone.class)).hasSize(1);
        assertThat(all(Event.LateResult.class)).hasSize(1);
    }

    // --- inputs

    @Test
    void withoutANeededInputNothingGoesOut() {
        begin(Repeat.KEYED, "close: run close-lane \"Close\" gate=ticket.category\nend: done \"closed\"\n");
        assertThat(all(CallRequested.class)).isEmpty();
        assertThat(close().stall().code()).isEqualTo("input missing");
        assertThat(close().stall().why()).contains("'Gate' has no value: ticket.category is absent.");
        world.accepted(RUNA, new Command.EditTicket(Map.of("category", "G-9"), null));
        world.accepted(
                Actor.of(World.TEO),
                new Command.Intervene(run().id(), close().id(), Intervention.RETRY, null, "filled in"));
        assertThat(last(CallRequested.class).orElseThrow().inputs()).containsEntry("gate", "G-9");
    }

    @Test
    void whereFailureHasAWayAMissingInputTakesIt() {
        begin(Repeat.KEYED, """
                close: run close-lane "Close" gate=ticket.category
                  failed -> broken
                end: done "closed"
                broken: done "broken"
                """);
        assertThat(last(CallFailed.class).orElseThrow().attempts()).isZero();
        assertThat(ended()).isEqualTo("broken");
    }

    @Test
    void anItemOfManyFailsAloneForWantOfAnInput() {
        begin(Repeat.KEYED, """
                each: for each n in ["A", "", "C"], 3 at a time as "Each"
                  some failed -> some
                  close: run close-lane "Close" gate=n
                  shut: done "shut"
                end: done "all"
                some: done "some"
                """);
        for (Visit call : open("close")) {
            answer(call, ok("L"));
        }
        assertThat(all(CallRequested.class)).hasSize(2);
        assertThat(ended()).isEqualTo("some");
    }
}
