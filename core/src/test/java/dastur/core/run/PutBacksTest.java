package dastur.core.run;

import static org.assertj.core.api.Assertions.assertThat;

import dastur.core.people.Actor;
import dastur.core.step.calling.CallingCommands.CallOutcome;
import dastur.core.step.calling.CallingEvents.CallRequested;
import java.time.Duration;
import org.junit.jupiter.api.Test;

/** Stages that are put back, stopped in the middle, or forget what need not be undone. */
class PutBacksTest extends WrittenWorkflows {
    private static final String STAGE = """
            stage: stage "Work"
              put back -> told
              failed -> told
              one: run close-lane "Close one"
                with gate = "ALD-G1"
                put back with close-lane
                  with gate = "ALD-G1"
                  with why = "open again " + steps.one.lock
              two: run close-lane "Close two"
                with gate = "ALD-G2"
                put back with close-lane always
                  with gate = "ALD-G2"
              well: ask group technicians "All well?": "Yes", "No"
                "No" -> back
              fine: done "fine"
              back: put back "not well"
            after: done "stayed"
            told: done "was put back"
            """;

    @Test
    void putBacksRunOneByOneInReverseOrderWithFrozenValues() {
        publish(STAGE);
        answer(open("one").getFirst(), ok("L-1"));
        answer(open("two").getFirst(), ok("L-2"));
        done(open("well").getFirst(), "No");
        assertThat(last(Event.PutBackBegan.class).orElseThrow().names()).containsExactly("Close two", "Close one");
        Visit first = open("two").getFirst();
        assertThat(first.putsBack()).isNotNull();
        assertThat(open("one")).isEmpty();
        answer(first, ok("L-3"));
        Visit second = open("one").getFirst();
        assertThat(last(CallRequested.class).orElseThrow().inputs()).containsEntry("why", "open again L-1");
        answer(second, ok("L-4"));
        assertThat(last(Event.RunEnded.class).orElseThrow().result()).isEqualTo("was put back");
        assertThat(last(Event.RunEnded.class).orElseThrow().stillOff()).isNull();
    }

    @Test
    void whatWasSwitchedOffForATimeIsPutBackOnSuccessTooAndTheRestIsForgotten() {
        publish(STAGE);
        answer(open("one").getFirst(), ok("L-1"));
        answer(open("two").getFirst(), ok("L-2"));
        assertThat(run().offForNow()).containsExactly("Close two");
        done(open("well").getFirst(), "Yes");
        assertThat(last(Event.PutBackBegan.class).orElseThrow().names()).containsExactly("Close two");
        answer(open("two").getFirst(), ok("L-3"));
        assertThat(last(Event.RunEnded.class).orElseThrow().result()).isEqualTo("stayed");
    }

    @Test
    void aPutBackThatFailsStallsAndWhatAPersonLeavesStandsOutAtTheEnd() {
        publish(STAGE);
        answer(open("one").getFirst(), ok("L-1"));
        answer(open("two").getFirst(), ok("L-2"));
        done(open("well").getFirst(), "Yes");
        answer(open("two").getFirst(), new CallOutcome.Failed("no"));
        world.pass(Duration.ofMinutes(1));
        answer(open("two").getFirst(), new CallOutcome.Failed("no"));
        Visit stalled = open("two").getFirst();
        assertThat(stalled.stall().code()).isEqualTo("failed");
        world.accepted(
                Actor.of(World.TEO),
                new Command.Intervene(
                        stalled.id().run(), stalled.id(), Intervention.TAKE_EXIT, "left as it is", "by hand"));
        assertThat(last(Event.RunEnded.class).orElseThrow().stillOff()).containsExactly("Close two");
    }

    @Test
    void puttingBackWaitsForWhatIsUnderWayAndUndoesItToo() {
        publish("""
                stage: stage "Work"
                  put back -> told
                  both: side by side "Both"
                    lane "Call"
                      one: run close-lane "Close one"
                        with gate = "ALD-G1"
                        put back with close-lane
                          with gate = "ALD-G1"
                      oneDone: done "one"
                    lane "Person"
                      well: ask group technicians "Well?": "No"
                      back: put back "not well"
                  all: done "all"
                after: done "stayed"
                told: done "was put back"
                """);
        done(open("well").getFirst(), "No");
        assertThat(open("one").getFirst().putsBack()).isNull();
        answer(open("one").getFirst(), ok("L-1"));
        Visit back = open("one").getFirst();
        assertThat(back.putsBack()).isNotNull();
        answer(back, ok("L-2"));
        assertThat(last(Event.RunEnded.class).orElseThrow().result()).isEqualTo("was put back");
    }

    @Test
    void whatAStageInsideHasDoneIsPutBackWithTheStageAroundIt() {
        publish("""
                outer: stage "Outer"
                  put back -> told
                  both: side by side "Both"
                    lane "Inner"
                      inner: stage "Inner"
                        one: run close-lane "Close one"
                          with gate = "ALD-G1"
                          put back with close-lane
                            with gate = "ALD-G1"
                        hold: ask group technicians "Hold": "Done"
                        innerDone: done "inner"
                      innerEnd: done "inner"
                    lane "Person"
                      well: ask group technicians "Well?": "No"
                      back: put back "not well"
                  all: done "all"
                after: done "stayed"
                told: done "was put back"
                """);
        answer(open("one").getFirst(), ok("L-1"));
        Visit hold = open("hold").getFirst();
        done(open("well").getFirst(), "No");
        assertThat(world.ticket.visit(hold.id())).isEmpty();
        assertThat(last(Event.PutBackBegan.class).orElseThrow().names()).containsExactly("Close one");
        answer(open("one").getFirst(), ok("L-2"));
        assertThat(all(CallRequested.class)).hasSize(2);
        assertThat(last(Event.RunEnded.class).orElseThrow().result()).isEqualTo("was put back");
    }

    @Test
    void aStageThatWasPutBackAndLeadsNowhereFromThereSaysSo() {
        publish("""
                stage: stage "Work"
                  one: run close-lane "Close one"
                    with gate = "ALD-G1"
                    put back with close-lane
                      with gate = "ALD-G1"
                  back: put back "not well"
                after: done "stayed"
                """);
        answer(open("one").getFirst(), ok("L-1"));
        answer(open("one").getFirst(), ok("L-2"));
        assertThat(open("stage").getFirst().stall()).satisfies(stall -> {
            assertThat(stall.code()).isEqualTo("put back");
            assertThat(stall.why()).contains("no way leads on");
        });
    }

    @Test
    void aRunOnHoldPutsNothingBackUntilItGoesOn() {
        publish(STAGE);
        answer(open("one").getFirst(), ok("L-1"));
        answer(open("two").getFirst(), ok("L-2"));
        Visit well = open("well").getFirst();
        done(well, "No");
        Visit first = open("two").getFirst();
        world.accepted(
                Actor.of(World.TEO),
                new Command.Intervene(first.id().run(), null, Intervention.HOLD, null, "wait for the crew"));
        answer(first, ok("L-3"));
        assertThat(open("one")).isEmpty();
        world.accepted(
                Actor.of(World.TEO),
                new Command.Intervene(first.id().run(), null, Intervention.RESUME, null, "they are there"));
        assertThat(open("one")).hasSize(1);
    }

    @Test
    void aStoppedRunCanBePutBack() {
        publish(STAGE);
        answer(open("one").getFirst(), ok("L-1"));
        answer(open("two").getFirst(), ok("L-2"));
        world.accepted(
                Actor.of(World.TEO),
                new Command.Intervene(run().id(), null, Intervention.STOP_AND_PUT_BACK, null, "called off"));
        answer(open("two").getFirst(), ok("L-3"));
        answer(open("one").getFirst(), ok("L-4"));
        Event.RunEnded ended = last(Event.RunEnded.class).orElseThrow();
        assertThat(ended.stopped()).isTrue();
        assertThat(ended.stillOff()).isNull();
    }

    /** A stop while a stage puts back what was off for a time: the run takes over, nothing is done twice or forgotten. */
    @Test
    void aStopWhileAStageIsPutBackIsTakenOverByTheRun() {
        publish("""
                work: stage "Work"
                  off: run close-lane "Switch off"
                    with gate = ticket.ci
                    put back with close-lane always
                      with gate = ticket.ci
                  worked: done "worked"
                told: done "told"
                """);
        answer(open("off").getFirst(), ok("L-1"));
        Visit puttingBack = open("off").getFirst();
        assertThat(puttingBack.putsBack()).isNotNull();
        world.accepted(
                Actor.of(World.TEO),
                new Command.Intervene(
                        puttingBack.id().run(), null, Intervention.STOP_AND_PUT_BACK, null, "the storm is here"));
        answer(puttingBack, ok("L-2"));
        assertThat(last(Event.RunEnded.class).orElseThrow().result()).isEqualTo("stopped");
        assertThat(all(CallRequested.class)).hasSize(2);
        assertThat(world.ticket.open()).isEmpty();
    }
}
