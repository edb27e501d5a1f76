package dastur.core.run;

import static org.assertj.core.api.Assertions.assertThat;

import dastur.core.people.Actor;
import dastur.core.step.callin.AnswerCallIn;
import dastur.core.step.callin.CallInEvents.CallInAnswered;
import dastur.core.step.callin.OpenCallIn;
import dastur.core.step.task.TaskCommands.CompleteTask;
import dastur.core.step.task.TaskCommands.TakeBack;
import dastur.core.step.waiting.ForSignal;
import dastur.core.step.waiting.WaitCommands.SignalCame;
import dastur.core.step.waiting.WaitEvents;
import dastur.core.time.Span;
import dastur.core.workflow.Ladder;
import dastur.core.workflow.LadderKey;
import dastur.core.workflow.Rung;
import java.time.Duration;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.ValueSource;

/** What waits for a moment, a condition, a signal, a reply, or somebody to come: what ends it, and what does not (D7, N20, N61). */
class WaitingTest extends WrittenWorkflows {
    private static final Actor MONITOR = new Actor.Outside("monitor");
    private static final Actor JONAS = Actor.of(World.JONAS);

    private void waits(String what) {
        publish("wait: wait " + what + " as \"Wait\"\n  timed out -> late\nend: done \"came\"\nlate: done \"late\"\n");
    }

    private String ended() {
        return last(Event.RunEnded.class).map(Event.RunEnded::result).orElse("not yet");
    }

    private Visit waiting() {
        return open("wait").getFirst();
    }

    @ParameterizedTest
    @ValueSource(
            strings = {
                "for ticket.impact == 1 within 1 h",
                "for signal \"board.up\" within 1 h",
                "for a reply of the requester within 1 h"
            })
    void whatMayWaitForEverIsBoundedAndAHoldPutsTheLimitOff(String what) {
        waits(what);
        world.pass(Duration.ofMinutes(30));
        hands(Intervention.HOLD);
        world.now = world.now.plus(Duration.ofHours(5));
        hands(Intervention.RESUME);
        world.pass(Duration.ofMinutes(29));
        assertThat(ended()).isEqualTo("not yet");
        world.pass(Duration.ofMinutes(2));
        assertThat(ended()).isEqualTo("late");
    }

    private void hands(Intervention kind) {
        world.accepted(Actor.of(World.TEO), new Command.Intervene(run().id(), null, kind, null, "as agreed"));
    }

    @Test
    void aSignalWithItsValuesEndsTheWaitAndCountsOnce() {
        publish("""
                wait: wait for signal "board.up" within 1 h as "Wait"
                note: update "Note it"
                  set ticket.category = steps.wait.signal.state
                again: wait for signal "board.up" as "Again"
                end: done "came"
                """);
        SignalCame came = new SignalCame(waiting().id(), "s-1", Map.of("state", "up"));
        world.accepted(MONITOR, came);
        assertThat(world.ticket.text("category")).contains("up");
        assertThat(open("again")).as("one signal ends one wait").hasSize(1);
        assertThat(world.handle(MONITOR, came)).isInstanceOf(Decision.Refused.class);
        world.accepted(MONITOR, new SignalCame(open("again").getFirst().id(), "s-2", Map.of()));
        assertThat(all(WaitEvents.SignalCame.class))
                .extracting(WaitEvents.SignalCame::signalId)
                .containsExactly("s-1", "s-2");
        assertThat(ended()).isEqualTo("came");
    }

    @Test
    void aSignalThatWasKeptWhileTheWaitWasWrittenIsFoundByALook() {
        publish("""
                wait: wait for signal "board.up" with key ticket.ci within 1 h as "Wait"
                end: done "came"
                """);
        assertThat(((ForSignal) waiting().waiting()).awaits()).hasValueSatisfying(s -> {
            assertThat(s.name()).isEqualTo("board.up");
            assertThat(s.key()).isEqualTo("ALD-G1");
        });
        world.accepted(Actor.CLOCK, new Command.Recheck());
        assertThat(ended()).as("nothing came").isEqualTo("not yet");
        world.put(
                new LookupKey.KeptSignal("board.up", "ALD-G1", run().startedAt()),
                new Lookups.KeptSignal("s-7", Map.of()));
        world.accepted(Actor.CLOCK, new Command.Recheck());
        assertThat(last(WaitEvents.SignalCame.class).orElseThrow().signalId()).isEqualTo("s-7");
    }

    @Test
    void withoutAKeyItIsNotKnownWhichSignalIsMeant() {
        publish("wait: wait for signal \"board.up\" with key ticket.category as \"Wait\"\nend: done \"came\"\n");
        assertThat(waiting().stall().code()).isEqualTo("no key");
        assertThat(waiting().stall().why()).contains("ticket.category");
    }

    @Test
    void aReplyIsWhatOneOfThemWritesAndNobodyElse() {
        publish("""
                wait: wait for a reply of the requester as "Wait"
                note: update "Note it"
                  set ticket.category = steps.wait.text
                end: done "came"
                """);
        world.accepted(RUNA, new Command.AddNote("I ask you", true));
        assertThat(ended()).isEqualTo("not yet");
        world.accepted(JONAS, new Command.AddNote("It is the left one", true));
        assertThat(world.ticket.text("category")).contains("It is the left one");
        assertThat(last(WaitEvents.ReplyCame.class).orElseThrow().by()).isEqualTo(World.JONAS);
    }

    @Test
    void aReplyOfAGroupIsThatOfAnyOfItsMembers() {
        waits("for a reply of group managers");
        world.accepted(RUNA, new Command.AddNote("no", false));
        assertThat(ended()).isEqualTo("not yet");
        world.accepted(Actor.of(World.PRIYA), new Command.AddNote("yes", false));
        assertThat(ended()).isEqualTo("came");
    }

    @Test
    void aMomentComesWhenItComes() {
        waits("until timestamp(ticket.createdAt) + duration('2h')");
        world.pass(Duration.ofMinutes(119));
        assertThat(ended()).isEqualTo("not yet");
        world.pass(Duration.ofMinutes(2));
        assertThat(ended()).isEqualTo("came");
    }

    @ParameterizedTest
    @ValueSource(strings = {"ticket.title", "ticket.category"})
    void whatIsNoTimeStalls(String moment) {
        waits("until " + moment);
        assertThat(waiting().stall().code()).isEqualTo("no time");
    }

    /** What only waits has not been touched: an answer can still be taken back. What has been answered since cannot. */
    @ParameterizedTest
    @ValueSource(strings = {"10 min", "for ticket.impact == 1", "for a reply of the requester"})
    void anAnswerIsTakenBackWhileNothingHasFollowedButWaiting(String what) {
        publish("look: ask group technicians \"Look\": \"Done\"\nwait: wait " + what
                + " as \"Wait\"\nend: done \"came\"\n");
        Visit look = open("look").getFirst();
        world.accepted(RUNA, new CompleteTask(look.id(), "Done", Map.of(), null));
        assertThat(open("wait")).hasSize(1);
        world.accepted(RUNA, new TakeBack(look.id()));
        assertThat(open("look")).hasSize(1);
        assertThat(open("wait")).isEmpty();
    }

    // --- call-ins

    private static Rung tell(String after, dastur.core.people.PersonId who) {
        return new Rung(Span.parse(after), new Rung.Tell(List.of(new dastur.core.people.Party.OfPerson(who)), null));
    }

    private void calls(Rung... rungs) {
        LadderKey key = new LadderKey("night");
        world.put(new LookupKey.OfLadder(key), new Ladder(key, "Night", List.of(rungs)));
        publish("""
                come: call in by night as "incident commander" "Come to the pier" within 1 h
                  say "Gate {{ ci.id }} stands open."
                  exhausted -> nobody
                end: done "somebody came"
                nobody: done "nobody came"
                """);
    }

    private Visit come() {
        return open("come").getFirst();
    }

    private static AnswerCallIn answer(Visit visit, boolean accepts) {
        return new AnswerCallIn(visit.id(), accepts);
    }

    @Test
    void whoIsCalledInIsToldWhatForAndOnlyTheyAnswer() {
        calls(tell("0 min", World.TEO), tell("15 min", World.PRIYA));
        Event.MessageQueued word = last(Event.MessageQueued.class).orElseThrow();
        assertThat(word.people()).containsExactly(World.TEO);
        assertThat(word.subject()).contains("You are called in: Come to the pier");
        assertThat(word.text()).contains("Gate ALD-G1 stands open.");
        assertThat(world.refused(RUNA, answer(come(), true)).code()).isEqualTo(Refusal.Code.NOT_YOURS);
        assertThat(world.refused(Actor.CLOCK, answer(come(), true)).code()).isEqualTo(Refusal.Code.NOT_YOURS);
        assertThat(((OpenCallIn) come().waiting()).asks())
                .hasValueSatisfying(a -> assertThat(a.to().people()).containsExactly(World.TEO));
        world.accepted(Actor.of(World.TEO), answer(come(), true));
        CallInAnswered answered = last(CallInAnswered.class).orElseThrow();
        assertThat(answered.as()).isEqualTo("incident commander");
        assertThat(ended()).isEqualTo("somebody came");
    }

    @Test
    void whoeverCannotIsAskedNoMoreAndTheNextAtOnce() {
        calls(tell("0 min", World.TEO), tell("15 min", World.PRIYA));
        world.accepted(Actor.of(World.TEO), answer(come(), false));
        assertThat(last(CallInAnswered.class).orElseThrow().as()).isNull();
        OpenCallIn open = (OpenCallIn) come().waiting();
        assertThat(open.cannot()).containsExactly(World.TEO);
        assertThat(open.asked()).containsExactly(World.TEO, World.PRIYA);
        assertThat(open.asks().orElseThrow().to().people()).containsExactly(World.PRIYA);
        assertThat(last(Event.MessageQueued.class).orElseThrow().people()).containsExactly(World.PRIYA);
    }

    @Test
    void theNextRungWaitsWhileSomebodyMayStillCome() {
        calls(tell("0 min", World.TEO), tell("0 min", World.PRIYA), tell("15 min", World.SEM));
        world.accepted(Actor.of(World.TEO), answer(come(), false));
        assertThat(((OpenCallIn) come().waiting()).asked()).containsExactly(World.TEO, World.PRIYA);
        world.pass(Duration.ofMinutes(16));
        assertThat(((OpenCallIn) come().waiting()).asked()).contains(World.SEM);
    }

    @Test
    void whenNobodyComesInTimeItIsExhausted() {
        calls(tell("0 min", World.TEO));
        world.pass(Duration.ofMinutes(61));
        assertThat(ended()).isEqualTo("nobody came");
        assertThat(all(CallInAnswered.class)).isEmpty();
    }

    @Test
    void aLadderThatAsksNobodyCallsNobodyIn() {
        calls(
                new Rung(Span.parse("5 min"), new Rung.Remind()),
                new Rung(Span.parse("9 min"), new Rung.RaisePriority()));
        assertThat(come().stall().code()).isEqualTo("nobody");
        assertThat(come().stall().why()).contains("asks nobody to come");
    }

    @Test
    void aRungThatRaisesThePriorityDoesThatInACallInToo() {
        calls(tell("0 min", World.TEO), new Rung(Span.parse("5 min"), new Rung.RaisePriority()));
        Optional<String> before = world.ticket.text("priority");
        world.pass(Duration.ofMinutes(6));
        assertThat(world.ticket.text("priority")).isNotEqualTo(before);
        assertThat(((OpenCallIn) come().waiting()).asked()).containsExactly(World.TEO);
    }
}
