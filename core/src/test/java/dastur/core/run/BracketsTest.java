package dastur.core.run;

import static org.assertj.core.api.Assertions.assertThat;

import dastur.core.people.Actor;
import dastur.core.step.calling.CallingCommands.CallOutcome;
import dastur.core.step.task.OpenTask;
import dastur.core.step.task.TaskCommands.ClaimTask;
import dastur.core.step.task.TaskCommands.CompleteTask;
import dastur.core.step.task.TaskEvents.TaskOffered;
import dastur.core.step.update.Updated;
import java.time.Duration;
import java.util.List;
import java.util.Map;
import org.junit.jupiter.api.Test;

/** Fork and join, for each, repeat, and ends inside brackets. */
class BracketsTest extends WrittenWorkflows {
    // --- fork and join

    private static final String FORK = """
            both: side by side "Both"%s
              lane "Left"
                left: ask group technicians "Left": "Done", "Given up"
                  "Given up" -> leftFailed
                leftDone: done "left"
                leftFailed: fail "left given up"
              lane "Right"
                right: ask group technicians "Right": "Done"
                rightDone: done "right"
              %s
            joined: done "joined"
            fewer: done "too few"
            """;

    @Test
    void aJoinWaitsForEveryLaneThatWasOpened() {
        publish(FORK.formatted("", "short -> fewer"));
        done(open("left").getFirst(), "Done");
        assertThat(last(Event.RunEnded.class)).isEmpty();
        done(open("right").getFirst(), "Done");
        assertThat(last(Event.RunEnded.class).orElseThrow().result()).isEqualTo("joined");
    }

    @Test
    void theFirstOfTwoWithdrawsTheOtherWhichCannotBeCompletedAfterwards() {
        publish(FORK.formatted(" until the first 1 are done", "short -> fewer"));
        Visit left = open("left").getFirst();
        Visit right = open("right").getFirst();
        world.accepted(Actor.of(World.SEM), new ClaimTask(left.id()));
        done(right, "Done");
        assertThat(last(Event.RunEnded.class).orElseThrow().result()).isEqualTo("joined");
        assertThat(all(Event.Withdrawn.class)).hasSize(1);
        assertThat(world.refused(Actor.of(World.SEM), new CompleteTask(left.id(), "Done", Map.of(), null))
                        .code())
                .isNotNull();
        Event.MessageQueued told = last(Event.MessageQueued.class).orElseThrow();
        assertThat(told.purpose()).isEqualTo("withdrawn");
        assertThat(told.people()).containsExactly(World.SEM);
    }

    @Test
    void aJoinThatCanNoLongerBeReachedGoesOutShortOrStalls() {
        publish(FORK.formatted("", "short -> fewer"));
        done(open("left").getFirst(), "Given up");
        assertThat(last(Event.RunEnded.class).orElseThrow().result()).isEqualTo("too few");

        World other = new World();
        assertThat(other.ticket.exists()).isFalse();
    }

    @Test
    void anUnwiredShortStallsAndSaysSo() {
        publish(FORK.formatted("", ""));
        done(open("left").getFirst(), "Given up");
        assertThat(open("both").getFirst().stall().code()).isEqualTo("short");
    }

    @Test
    void lanesWhoseConditionDoesNotHoldAreNotWaitedFor() {
        publish("""
                both: side by side "Both"
                  lane "Never" if ticket.impact == 4
                    never: ask group technicians "Never": "Done"
                    neverDone: done "x"
                  lane "Always"
                    always: ask group technicians "Always": "Done"
                    alwaysDone: done "x"
                joined: done "joined"
                """);
        assertThat(open("never")).isEmpty();
        done(open("always").getFirst(), "Done");
        assertThat(last(Event.RunEnded.class)).isPresent();
    }

    @Test
    void whatIsStillOpenIsWithdrawnInTheOrderOfTheLanes() {
        publish("""
                both: side by side "Both" until the first 1 are done
                  lane "One"
                    one: ask group technicians "One": "Done"
                    oneDone: done "x"
                  lane "Two"
                    two: ask group technicians "Two": "Done"
                    twoDone: done "x"
                  lane "Three"
                    three: ask group technicians "Three": "Done"
                    threeDone: done "x"
                joined: done "joined"
                """);
        done(open("three").getFirst(), "Done");
        List<String> withdrawn = world.record.stream()
                .filter(r -> r.event() instanceof Event.Withdrawn)
                .map(r -> String.valueOf(r.step()))
                .toList();
        assertThat(withdrawn).containsExactly("one", "two");
        assertThat(open("one")).isEmpty();
    }

    @Test
    void whatHappenedInLanesIsKnownAfterThem() {
        publish("""
                both: side by side "Both"
                  lane "Left"
                    left: ask group technicians "Left": "Done", "Late"
                      "Late" -> leftDone
                    leftDone: done "left"
                  lane "Right"
                    right: ask group technicians "Right": "Done"
                    rightDone: done "right"
                after: update "Note it"
                  set vars.left = steps.left.outcome
                  set vars.right = steps.right.outcome
                  set vars.done = steps.both.done
                  set vars.failed = steps.both.failed
                joined: done "joined"
                """);
        done(open("left").getFirst(), "Late");
        done(open("right").getFirst(), "Done");
        assertThat(last(Updated.class).orElseThrow().vars())
                .isEqualTo(Map.of("left", "Late", "right", "Done", "done", 2L, "failed", 0L));
    }

    // --- stages

    private static final String STAGE = """
            stage: stage "Work"
              %s
              look: ask group technicians "Look": "Done", "No power"
                "No power" -> bad
              good: done "looked"
              bad: fail "no power"
            after: done "went on"
            broken: done "broken"
            """;

    @Test
    void aStageGoesOnWhenItsLineIsDoneAndOutByFailedWhenItFailed() {
        publish(STAGE.formatted("failed -> broken"));
        done(open("look").getFirst(), "Done");
        assertThat(last(Event.RunEnded.class).orElseThrow().result()).isEqualTo("went on");
    }

    @Test
    void aStageWhoseLineFailedTakesThatWayOrStalls() {
        publish(STAGE.formatted("failed -> broken"));
        done(open("look").getFirst(), "No power");
        assertThat(last(Event.RunEnded.class).orElseThrow().result()).isEqualTo("broken");
        assertThat(last(Event.BracketLeft.class).orElseThrow()).satisfies(left -> {
            assertThat(left.exit()).isEqualTo("failed");
            assertThat(left.failed()).isEqualTo(1);
        });
    }

    // --- for each

    private static final String EACH = """
            each: for each c in ["A", "B", "C"], %s as "Each"
              some failed -> some
              none -> nothing
              look: ask group technicians "Look at": "Done", "No power"
                say "Look at {{ c }}."
                "No power" -> bad
              good: done "looked"
              bad: fail "no power"
            all: done "all"
            some: update "Count them"
              set vars.count = steps.each.failed
              set vars.names = steps.each.items.filter(i, i.outcome == "failed").map(i, i.item)
            ended: done "some"
            nothing: done "nothing"
            """;

    @Test
    void itemsInOrderOneAfterTheOtherWithTheirOwnText() {
        publish(EACH.formatted("in order"));
        assertThat(open("look")).hasSize(1);
        OpenTask first = (OpenTask) open("look").getFirst().waiting();
        assertThat(first.instructions()).isEqualTo("Look at A.");
        done(open("look").getFirst(), "Done");
        assertThat(((OpenTask) open("look").getFirst().waiting()).instructions())
                .isEqualTo("Look at B.");
        done(open("look").getFirst(), "No power");
        done(open("look").getFirst(), "Done");
        Updated updated = last(Updated.class).orElseThrow();
        assertThat(updated.vars()).containsEntry("count", 1L).containsEntry("names", List.of("B"));
        assertThat(last(Event.RunEnded.class).orElseThrow().result()).isEqualTo("some");
    }

    @Test
    void twoAtATimeAndAllWell() {
        publish(EACH.formatted("2 at a time"));
        assertThat(open("look")).hasSize(2);
        done(open("look").getLast(), "Done");
        assertThat(open("look")).hasSize(2);
        done(open("look").getFirst(), "Done");
        done(open("look").getFirst(), "Done");
        assertThat(last(Event.RunEnded.class).orElseThrow().result()).isEqualTo("all");
    }

    @Test
    void theFirstFailureStopsTheRestWhereAsked() {
        publish(EACH.formatted("2 at a time, stop at the first failure"));
        done(open("look").getFirst(), "No power");
        assertThat(last(Event.RunEnded.class).orElseThrow().result()).isEqualTo("some");
        assertThat(all(Event.Withdrawn.class)).hasSize(1);
        assertThat(all(TaskOffered.class)).hasSize(2);
    }

    @Test
    void anEmptyListTakesItsOwnWay() {
        publish(EACH.replace("[\"A\", \"B\", \"C\"]", "[]").formatted("in order"));
        assertThat(last(Event.RunEnded.class).orElseThrow().result()).isEqualTo("nothing");
    }

    @Test
    void anUnwiredFailureEndsItsItemAsFailedAndTheRestGoesOn() {
        publish("""
                each: for each c in ["ALD-G1", "ALD-G2"], 2 at a time as "Each"
                  some failed -> some
                  none -> some
                  close: run close-lane "Close" at most 1 tries
                    with gate = c
                  good: done "closed"
                all: done "all"
                some: done "some"
                """);
        List<Visit> calls = open("close");
        answer(calls.get(0), new CallOutcome.Failed("no power"));
        answer(calls.get(1), ok("L-2"));
        assertThat(last(Event.LineEnded.class).orElseThrow().done()).isFalse();
        assertThat(last(Event.RunEnded.class).orElseThrow().result()).isEqualTo("some");
    }

    // --- repeat

    @Test
    void aRepeatGoesOnUntilItsConditionHoldsWithAPauseBetween() {
        publish("""
                start: update "Start"
                  set vars.count = 0
                again: repeat until vars.count >= 3, every 10 min, at most 5 rounds as "Again"
                  gave up -> never
                  count: update "Count"
                    set vars.count = vars.count + 1
                  counted: done "counted"
                yes: done "held"
                never: done "gave up"
                """);
        assertThat(all(Event.RoundJudged.class)).hasSize(1);
        world.pass(Duration.ofMinutes(10));
        world.pass(Duration.ofMinutes(10));
        assertThat(last(Event.RunEnded.class).orElseThrow().result()).isEqualTo("held");
        assertThat(all(Event.RoundJudged.class))
                .extracting(Event.RoundJudged::holds)
                .containsExactly(false, false, true);
    }

    @Test
    void aRepeatWithoutAPauseGoesRoundAtOnceAndSaysHowOften() {
        publish("""
                start: update "Start"
                  set vars.count = 0
                again: repeat until vars.count >= 3, at most 5 rounds as "Again"
                  gave up -> never
                  count: update "Count"
                    set vars.count = vars.count + 1
                  counted: done "counted"
                after: update "Note it"
                  set vars.rounds = steps.again.rounds
                yes: done "held"
                never: done "gave up"
                """);
        assertThat(last(Updated.class).orElseThrow().vars()).containsEntry("rounds", 3L);
        assertThat(last(Event.BracketLeft.class).orElseThrow().why()).isEqualTo("its condition holds after 3 rounds");
    }

    @Test
    void aRepeatGivesUpAfterItsRoundsOrItsTime() {
        String text = """
                again: repeat until ticket.impact == 4, every 10 min, at most 2 rounds%s as "Again"
                  gave up -> never
                  look: wait 1 min
                  looked: done "looked"
                yes: done "held"
                never: done "gave up"
                """;
        publish(text.formatted(""));
        world.pass(Duration.ofMinutes(1));
        world.pass(Duration.ofMinutes(10));
        world.pass(Duration.ofMinutes(1));
        assertThat(last(Event.RunEnded.class).orElseThrow().result()).isEqualTo("gave up");
    }

    @Test
    void aRepeatLimitedInTimeWithdrawsWhatIsOpenInside() {
        publish("""
                again: repeat until ticket.impact == 4, every 1 min, at most 9 rounds, within 5 min as "Again"
                  gave up -> never
                  look: ask group technicians "Look": "Done"
                  looked: done "looked"
                yes: done "held"
                never: done "gave up"
                """);
        world.pass(Duration.ofMinutes(6));
        assertThat(all(Event.Withdrawn.class)).hasSize(1);
        assertThat(last(Event.RunEnded.class).orElseThrow().result()).isEqualTo("gave up");
    }

    // --- leaving

    @Test
    void anEndInsideLeavesItsBracketByName() {
        publish("""
                stage: stage "Work"
                  already so -> nothing
                  is: decide "Already?"
                    when "yes" if ticket.impact == 2
                    otherwise -> go
                  so: leave by "already so"
                  go: done "went"
                after: done "did it"
                nothing: done "nothing to do"
                """);
        assertThat(last(Event.RunEnded.class).orElseThrow().result()).isEqualTo("nothing to do");
    }
}
