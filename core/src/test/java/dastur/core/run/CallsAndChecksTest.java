package dastur.core.run;

import static org.assertj.core.api.Assertions.assertThat;

import dastur.core.people.Actor;
import dastur.core.step.callin.AnswerCallIn;
import dastur.core.step.callin.OpenCallIn;
import dastur.core.step.calling.CallingCommands.CallOutcome;
import dastur.core.step.calling.CallingCommands.CallResult;
import dastur.core.step.calling.CallingEvents.CallRepeated;
import dastur.core.step.calling.CallingEvents.ResultKept;
import dastur.core.step.check.CheckCommands.ReviewCheck;
import dastur.core.step.check.CheckCommands.ReviewVerdict;
import dastur.core.step.check.CheckEvents.CheckJudged;
import dastur.core.step.check.CheckEvents.Checked;
import dastur.core.step.check.CheckEvents.Reviewed;
import dastur.core.step.check.Review;
import dastur.core.step.task.TaskCommands.LeaveOut;
import dastur.core.step.task.TaskEvents.TaskLeftOut;
import dastur.core.step.waiting.WaitEvents;
import dastur.core.workflow.Action;
import dastur.core.workflow.ActionKey;
import java.time.Duration;
import java.util.List;
import java.util.Map;
import org.junit.jupiter.api.Test;

/** Called workflows, checks and their measurements, waits, signals, optional tasks, call-ins and tables. */
class CallsAndChecksTest extends WrittenWorkflows {
    // --- called workflows

    @Test
    void aCalledWorkflowGivesItsResultAndStopsWithItsCaller() {
        publish("child", """
                  gives lock: text "Lock" = "L-" + string(1 + 1)
                look: ask group technicians "Child's task": "Done"
                end: done "child done"
                """.replaceFirst("^  gives", "  gives"));
        publish("""
                sub: call child "Child"
                  "child done" -> told
                  stopped -> stopped
                told: update "Note it"
                  set ticket.lockNumber = steps.sub.lock
                ended: done "parent done"
                stopped: done "child was stopped"
                """);
        assertThat(world.ticket.open()).hasSize(2);
        done(open("look").getFirst(), "Done");
        assertThat(world.ticket.text("lockNumber")).contains("L-2");
        assertThat(world.ticket.open()).isEmpty();
    }

    @Test
    void stoppingTheCallerStopsTheCalledRun() {
        publish("child", "look: ask group technicians \"Child's task\": \"Done\"\nend: done \"child done\"\n");
        publish("sub: call child \"Child\"\n  \"child done\" -> ended\nended: done \"parent done\"\n");
        Run parent = world.ticket.open().values().stream()
                .filter(r -> r.parent() == null)
                .findFirst()
                .orElseThrow();
        world.accepted(
                Actor.of(World.TEO), new Command.Intervene(parent.id(), null, Intervention.STOP_RUN, null, "enough"));
        assertThat(world.ticket.open()).isEmpty();
        assertThat(all(Event.RunEnded.class))
                .extracting(Event.RunEnded::stopped)
                .containsExactly(true, true);
    }

    @Test
    void workflowsThatCallEachOtherInACircleAreStopped() {
        publish("gate", "sub: call gate \"Myself\"\n  expects \"x\"\n  \"x\" -> ended\nended: done \"x\"\n");
        world.raise();
        assertThat(world.ticket.open().values()).anyMatch(r -> r.open().values().stream()
                .anyMatch(v -> v.stall() != null && v.stall().code().equals("too deep")));
    }

    // --- results without a way

    /** W5: what came of a call is kept where no way leads on, the call is not made again, and a person says how it goes on. */
    @Test
    void aResultWithoutAWayKeepsWhatCameAndGoesWithTheExitThatAPersonTakes() {
        publish("""
                close: run close-lane "Close it"
                  with gate = "ALD-G1"
                  ok -> told
                told: update "Note it"
                  set ticket.lockNumber = steps.close.lock
                ended: done "closed"
                """);
        Visit call = open("close").getFirst();
        CallOutcome.Done came = new CallOutcome.Done(
                "already closed", Map.of("lock", "L-7"), "ref-7", null, "it was closed before", 40, 0);
        world.accepted(Actor.SYSTEM, new CallResult(call.id(), 1, came));
        ResultKept kept = last(ResultKept.class).orElseThrow();
        assertThat(kept.outputs()).containsEntry("lock", "L-7");
        assertThat(kept.reference()).isEqualTo("ref-7");
        assertThat(kept.log()).isEqualTo("it was closed before");
        assertThat(last(Event.Stalled.class).orElseThrow().code()).isEqualTo("no way");

        // Nothing rings any more, and a repeated result only says that it came again.
        world.pass(Duration.ofHours(2));
        assertThat(all(CallRepeated.class)).isEmpty();
        world.accepted(Actor.SYSTEM, new CallResult(call.id(), 1, came));
        assertThat(all(ResultKept.class)).hasSize(1);

        RunId run = call.id().run();
        assertThat(world.refused(
                                Actor.of(World.TEO),
                                new Command.Intervene(run, call.id(), Intervention.RETRY, null, "again"))
                        .message())
                .contains("already closed");
        world.accepted(
                Actor.of(World.TEO),
                new Command.Intervene(run, call.id(), Intervention.TAKE_EXIT, "ok", "closed is closed"));
        assertThat(world.ticket.text("lockNumber")).contains("L-7");
        assertThat(last(Event.RunEnded.class).orElseThrow().result()).isEqualTo("closed");
    }

    // --- checks

    private static final String CHECK = """
            before: measure close-lane "Before"
              with gate = "ALD-G1"
            wait: wait 5 min
            check: check "As before?"%s
              rule "Lock" stays: steps.before.lock is "L-1", measured by before%s
              rule "Impact": ticket.impact below 3
              fail -> bad
              %s
            good: done "held"
            bad: done "did not hold"
            back: done "measured again"
            """;

    @Test
    void aCheckShowsEachRuleWithItsNumbers() {
        publish(CHECK.formatted("", "", ""));
        answer(open("before").getFirst(), ok("L-1"));
        world.pass(Duration.ofMinutes(5));
        Checked checked = last(Checked.class).orElseThrow();
        assertThat(checked.exit()).isEqualTo("pass");
        assertThat(checked.last()).extracting(RuleSeen::why).contains("2, needs below 3.");
        assertThat(checked.last().getFirst().ageSeconds()).isEqualTo(300);
    }

    @Test
    void aMeasurementThatIsTooOldFailsItsRuleAndWhatShouldStayStandsOut() {
        publish(CHECK.formatted("", ", at most 2 min old", ""));
        answer(open("before").getFirst(), ok("L-1"));
        world.pass(Duration.ofMinutes(5));
        Checked checked = last(Checked.class).orElseThrow();
        assertThat(checked.exit()).isEqualTo("fail");
        assertThat(checked.last().getFirst().sideEffect()).isTrue();
        assertThat(checked.last().getFirst().why()).contains("300 s ago").contains("2 min");
    }

    @Test
    void aCheckIsJudgedAgainUntilItHoldsAndKeepsFirstAndLast() {
        publish(CHECK.formatted(" settling within 10 min every 2 min", "", "").replace("below 3", "below 2"));
        answer(open("before").getFirst(), ok("L-1"));
        world.pass(Duration.ofMinutes(5));
        assertThat(last(CheckJudged.class).orElseThrow().held()).isEqualTo(1);
        world.accepted(RUNA, new Command.EditTicket(Map.of("impact", 1L), null));
        world.pass(Duration.ofMinutes(2));
        Checked checked = last(Checked.class).orElseThrow();
        assertThat(checked.tries()).isEqualTo(2);
        assertThat(checked.exit()).isEqualTo("pass");
        assertThat(checked.first()).extracting(RuleSeen::holds).containsExactly(true, false);
        assertThat(checked.last()).extracting(RuleSeen::holds).containsExactly(true, true);
    }

    @Test
    void aPersonReviewsWhatDoesNotHold() {
        publish(CHECK.formatted(" reviewed by group managers", "", "measure again -> back")
                .replace("below 3", "below 2"));
        answer(open("before").getFirst(), ok("L-1"));
        world.pass(Duration.ofMinutes(5));
        Visit review = open("check").getFirst();
        assertThat(world.refused(Actor.of(World.TEO), new ReviewCheck(review.id(), ReviewVerdict.ACCEPT, " "))
                        .message())
                .contains("why");
        assertThat(world.refused(RUNA, new ReviewCheck(review.id(), ReviewVerdict.ACCEPT, "fine by me"))
                        .message())
                .contains("not asked");
        world.accepted(Actor.of(World.TEO), new ReviewCheck(review.id(), ReviewVerdict.ACCEPT, "known, ticket I-9"));
        assertThat(last(Event.RunEnded.class).orElseThrow().result()).isEqualTo("held");
    }

    /** E13: nothing is offered that leads nowhere, and nothing else is done than was said. */
    @Test
    void aReviewOffersWhatLeadsOnAndDoesWhatItSays() {
        publish(CHECK.formatted(" reviewed by group managers", "", "").replace("below 3", "below 2"));
        answer(open("before").getFirst(), ok("L-1"));
        world.pass(Duration.ofMinutes(5));
        Visit review = open("check").getFirst();
        assertThat(((Review) review.waiting()).verdicts()).containsExactly("accept", "does not hold");
        Refusal back = world.refused(Actor.of(World.TEO), new ReviewCheck(review.id(), ReviewVerdict.PUT_BACK, null));
        assertThat(back.where()).isEqualTo("verdict");
        assertThat(back.message()).contains("does not hold");
        world.accepted(Actor.of(World.TEO), new ReviewCheck(review.id(), ReviewVerdict.REFUSE, null));
        assertThat(last(Reviewed.class).orElseThrow())
                .extracting(Reviewed::verdict, Reviewed::exit)
                .containsExactly("does not hold", "fail");
    }

    @Test
    void aCheckMeasuresBeforeEachJudging() {
        publish("""
                check: check "Up?" settling within 10 min every 2 min
                  measure close-lane
                  with gate = "ALD-G1"
                  rule "Lock": measured.lock is "up"
                  fail -> bad
                good: done "held"
                bad: done "did not hold"
                """);
        answer(open("check").getFirst(), ok("down"));
        world.pass(Duration.ofMinutes(2));
        answer(open("check").getFirst(), new CallOutcome.Unknown("lost"));
        world.pass(Duration.ofMinutes(2));
        answer(open("check").getFirst(), ok("up"));
        Checked checked = last(Checked.class).orElseThrow();
        assertThat(checked.tries()).isEqualTo(3);
        assertThat(checked.exit()).isEqualTo("pass");
        assertThat(checked.first().getFirst().value()).isEqualTo("down");
    }

    // --- waits, optional tasks, call-ins

    @Test
    void aWaitForAConditionEndsWithTheChangeThatMakesItTrueOrTimesOut() {
        String text = """
                wait: wait for ticket.impact == 1 within 1 h as "Wait"
                  timed out -> late
                good: done "came true"
                late: done "too late"
                """;
        publish(text);
        world.accepted(RUNA, new Command.EditTicket(Map.of("impact", 1L), null));
        assertThat(last(Event.RunEnded.class).orElseThrow().result()).isEqualTo("came true");
    }

    @Test
    void aSignalThatCameBeforeAnybodyWaitedIsTakenOnce() {
        world.put(
                new LookupKey.KeptSignal("board.up", "ALD-G1", world.now),
                new Lookups.KeptSignal("s-1", Map.of("state", "up")));
        publish("""
                wait: wait for signal "board.up" with key ticket.ci as "Wait"
                note: update "Note it"
                  set ticket.category = steps.wait.signal.state
                good: done "came"
                """);
        assertThat(last(WaitEvents.SignalCame.class).orElseThrow().signalId()).isEqualTo("s-1");
        assertThat(world.ticket.text("category")).contains("up");
    }

    @Test
    void anOptionalTaskIsLeftOutByItsConditionOrByAPersonsSay() {
        publish("""
                look: ask group technicians "Look": "Done"
                  left out if ticket.impact == 2
                think: ask group technicians "Think": "Done"
                  may be left out
                  left out -> none
                good: done "thought"
                none: done "left out"
                """);
        assertThat(last(TaskLeftOut.class).orElseThrow().exit()).isEqualTo("Done");
        world.accepted(RUNA, new LeaveOut(open("think").getFirst().id(), "nothing to think about"));
        assertThat(last(Event.RunEnded.class).orElseThrow().result()).isEqualTo("left out");
    }

    @Test
    void aCallInPassesOnWhenNobodyComesAndEndsWithTheFirstWhoDoes() {
        world.put(
                new LookupKey.OfLadder(new dastur.core.workflow.LadderKey("night")),
                new dastur.core.workflow.Ladder(
                        new dastur.core.workflow.LadderKey("night"),
                        "Night",
                        List.of(rung("0 min", World.TEO), rung("15 min", World.PRIYA))));
        publish("""
                come: call in by night "Come to the pier" within 1 h
                  exhausted -> nobody
                good: update "Who came"
                  set ticket.assignee = steps.come.by
                ended: done "somebody came"
                nobody: done "nobody came"
                """);
        OpenCallIn asked = (OpenCallIn) open("come").getFirst().waiting();
        assertThat(asked.asked()).containsExactly(World.TEO);
        assertThat(world.refused(
                                Actor.of(World.PRIYA),
                                new AnswerCallIn(open("come").getFirst().id(), true))
                        .message())
                .contains("not called in");
        world.accepted(
                Actor.of(World.TEO), new AnswerCallIn(open("come").getFirst().id(), false));
        asked = (OpenCallIn) open("come").getFirst().waiting();
        assertThat(asked.asked()).containsExactly(World.TEO, World.PRIYA);
        world.accepted(
                Actor.of(World.PRIYA), new AnswerCallIn(open("come").getFirst().id(), true));
        assertThat(world.ticket.text("assignee")).contains("priya");
    }

    private static dastur.core.workflow.Rung rung(String after, dastur.core.people.PersonId who) {
        return new dastur.core.workflow.Rung(
                dastur.core.time.Span.parse(after),
                new dastur.core.workflow.Rung.Tell(List.of(new dastur.core.people.Party.OfPerson(who)), null));
    }

    @Test
    void aTableDecidesByItsRows() {
        publish("""
                which: decide "Which?"
                  by table first
                    column "Impact" = ticket.impact
                    column "Title" = ticket.title
                    row 1 | - -> "urgent"
                    row [2..3] | "Gate 1 stuck open" -> "gate"
                  "urgent" -> a
                  "gate" -> b
                  otherwise -> c
                a: done "urgent"
                b: done "a gate"
                c: done "else"
                """);
        assertThat(last(Event.RunEnded.class).orElseThrow().result()).isEqualTo("a gate");
    }

    @Test
    void freeCallsOfAnActionMayBeUsedToMeasure() {
        assertThat(World.closeLane(Action.Repeat.FREE).key()).isEqualTo(new ActionKey("close-lane"));
    }
}
