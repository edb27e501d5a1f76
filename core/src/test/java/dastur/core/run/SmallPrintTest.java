package dastur.core.run;

import static org.assertj.core.api.Assertions.assertThat;

import dastur.core.people.Actor;
import dastur.core.step.calling.CallUnderWay;
import dastur.core.step.calling.CallingCommands.CallOutcome;
import dastur.core.step.calling.CallingEvents.AttemptFailed;
import dastur.core.step.task.OpenTask;
import dastur.core.step.task.TaskCommands.ClaimTask;
import dastur.core.step.task.TaskCommands.PassOnTask;
import java.time.Duration;
import java.util.List;
import org.junit.jupiter.api.Test;

/** What is small, and nobody would miss until it hurts. */
class SmallPrintTest extends WrittenWorkflows {
    private static final Actor SEM = Actor.of(World.SEM);

    private static PassOnTask toManagers(Visit task) {
        return new PassOnTask(task.id(), new Assigned(List.of(World.MANAGERS), List.of()), "they know it");
    }

    @Test
    void whatAnotherHasClaimedIsNotPassedOn() {
        publish("look: ask group technicians \"Look\": \"Done\"\nend: done \"done\"\n");
        Visit task = open("look").getFirst();
        world.accepted(RUNA, new ClaimTask(task.id()));
        assertThat(world.refused(SEM, toManagers(task)).code()).isEqualTo(Refusal.Code.TOO_LATE);
        assertThat(((OpenTask) open("look").getFirst().waiting()).to().groups()).containsExactly(World.TECHNICIANS);
        world.accepted(RUNA, toManagers(task));
        assertThat(((OpenTask) open("look").getFirst().waiting()).to().groups()).containsExactly(World.MANAGERS);
    }

    /** Each pause is twice the one before, and up to a quarter longer, so that those who failed together do not come back together. */
    @Test
    void pausesBetweenAttemptsGrow() {
        publish("close: run close-lane \"Close\" gate='G' at most 4 tries\nend: done \"done\"\n");
        long pause = ((CallUnderWay) open("close").getFirst().waiting()).pauseSeconds() * 1000;
        for (int attempt = 1; attempt < 4; attempt++) {
            world.call(new CallOutcome.Failed("down"));
            AttemptFailed failed = (AttemptFailed) world.record.getLast().event();
            long waits = Duration.between(world.record.getLast().at(), failed.nextAt())
                    .toMillis();
            assertThat(waits).as("after attempt %s", attempt).isBetween(pause, pause + pause / 4);
            world.pass(Duration.ofMillis(waits + 1));
            pause *= 2;
        }
        assertThat(((CallUnderWay) open("close").getFirst().waiting()).attempt())
                .isEqualTo(4);
    }

    /** Nobody knows whether it happened, and it must not happen twice: a person is asked, and nothing goes out. */
    @Test
    void whatMustNeverRepeatIsNotRepeatedByItself() {
        world.put(
                new LookupKey.OfAction(new dastur.core.workflow.ActionKey("close-lane")),
                World.closeLane(dastur.core.workflow.Action.Repeat.NEVER));
        publish("close: run close-lane \"Close\" gate='G' at most 4 tries\nend: done \"done\"\n");
        world.call(new CallOutcome.Unknown("no answer"));
        world.pass(Duration.ofDays(1));
        Visit close = open("close").getFirst();
        assertThat(close.stall().code()).isEqualTo("unsure");
        assertThat(((CallUnderWay) close.waiting()).attempt()).isOne();
        assertThat(close.waiting().toCall(close.id())).isEmpty();
    }

    /** Nobody is left to look at it: what was measured stands on the record, and the step says what it needs. */
    @Test
    void aCheckThatNobodyCanReviewStallsWithItsMeasurement() {
        publish("""
                check: check "Is it shut?" reviewed by group empty
                  measure close-lane
                  with gate = 'G'
                  rule "Shut": measured.lock is 'L-2'
                  pass -> end
                  fail -> end
                end: done "done"
                """);
        world.call(new CallOutcome.Done("ok", java.util.Map.of("lock", "L-1"), null, null, "", 3, 0));
        assertThat(kinds()).contains("Measured");
        assertThat(open("check").getFirst().stall().code()).isEqualTo("nobody");
    }

    private List<String> kinds() {
        return world.kinds();
    }
}
