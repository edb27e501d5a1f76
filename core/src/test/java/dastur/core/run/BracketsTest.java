package dastur.core.run;

import static org.assertj.core.api.Assertions.assertThat;

import dastur.core.notation.Names;
import dastur.core.notation.Notation;
import dastur.core.people.Actor;
import dastur.core.ticket.TicketKind;
import dastur.core.workflow.Action;
import dastur.core.workflow.ActionKey;
import dastur.core.workflow.Trigger;
import dastur.core.workflow.TriggerId;
import dastur.core.workflow.WorkflowVersion;
import java.time.Duration;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.Test;

/** Brackets, checks, put-backs, called workflows and call-ins, each on a small workflow written as text. */
class BracketsTest {
    private static final Actor RUNA = Actor.of(World.RUNA);

    private final World world = new World();

    private void publish(String steps) {
        publish(World.GATE.value(), steps);
        world.raise();
    }

    private void publish(String key, String steps) {
        String text = "workflow " + key + " \"W\" for incident\n  owner teo\n  keeps count: whole number \"Count\"\n"
                + "  keeps names: list \"Names\"\n" + steps;
        Notation.Read read = Notation.read(text, 1, Names.NONE);
        assertThat(read.problems()).isEmpty();
        WorkflowVersion version = read.version();
        Trigger[] triggers = key.equals(World.GATE.value())
                ? new Trigger[] {
                    new Trigger(new TriggerId("t"), true, new Trigger.Created(TicketKind.INCIDENT), List.of(), null)
                }
                : new Trigger[0];
        if (triggers.length == 0) {
            world.put(new LookupKey.OfVersion(version.key(), 1), version);
            world.put(new LookupKey.LiveVersion(version.key()), 1);
        } else {
            world.publish(version, triggers);
        }
    }

    private List<Visit> open(String step) {
        return world.ticket.open().values().stream()
                .flatMap(r -> r.open().values().stream())
                .filter(v -> v.step().value().equals(step))
                .toList();
    }

    private void done(Visit task, String outcome) {
        world.accepted(RUNA, new Command.CompleteTask(task.id(), outcome, Map.of(), null));
    }

    private void answer(Visit call, Command.CallOutcome outcome) {
        Waiting.CallResult w = (Waiting.CallResult) call.waiting();
        world.accepted(new Actor.OfAction(w.action()), new Command.CallResult(call.id(), w.attempt(), outcome));
    }

    private static Command.CallOutcome ok(String lock) {
        return new Command.CallOutcome.Done("ok", Map.of("lock", lock), null, null, "200", 3, 0);
    }

    private Run run() {
        return world.ticket.open().values().iterator().next();
    }

    private <T extends Event> Optional<T> last(Class<T> type) {
        return world.record.reversed().stream()
                .map(Recorded::event)
                .filter(type::isInstance)
                .map(type::cast)
                .findFirst();
    }

    private <T extends Event> List<T> all(Class<T> type) {
        return world.record.stream()
                .map(Recorded::event)
                .filter(type::isInstance)
                .map(type::cast)
                .toList();
    }

    @AfterEach
    void theCaseIsTheFoldOfItsRecord() {
        assertThat(dastur.core.json.Json.write(Engine.fold(World.TICKET, world.record)))
                .isEqualTo(dastur.core.json.Json.write(world.ticket));
    }

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
        world.accepted(Actor.of(World.SEM), new Command.ClaimTask(left.id()));
        done(right, "Done");
        assertThat(last(Event.RunEnded.class).orElseThrow().result()).isEqualTo("joined");
        assertThat(all(Event.Withdrawn.class)).hasSize(1);
        assertThat(world.refused(Actor.of(World.SEM), new Command.CompleteTask(left.id(), "Done", Map.of(), null))
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
        Waiting.Task first = (Waiting.Task) open("look").getFirst().waiting();
        assertThat(first.instructions()).isEqualTo("Look at A.");
        done(open("look").getFirst(), "Done");
        assertThat(((Waiting.Task) open("look").getFirst().waiting()).instructions())
                .isEqualTo("Look at B.");
        done(open("look").getFirst(), "No power");
        done(open("look").getFirst(), "Done");
        Event.Updated updated = last(Event.Updated.class).orElseThrow();
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
        assertThat(all(Event.TaskOffered.class)).hasSize(2);
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
        answer(calls.get(0), new Command.CallOutcome.Failed("no power"));
        answer(calls.get(1), ok("L-2"));
        assertThat(last(Event.LineEnded.class).orElseThrow().done()).isFalse();
        assertThat(last(Event.RunEnded.class).orElseThrow().result()).isEqualTo("some");
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
                RUNA,
                new Command.Intervene(
                        puttingBack.id().run(), null, Intervention.STOP_AND_PUT_BACK, null, "the storm is here"));
        answer(puttingBack, ok("L-2"));
        assertThat(last(Event.RunEnded.class).orElseThrow().result()).isEqualTo("stopped");
        assertThat(all(Event.CallRequested.class)).hasSize(2);
        assertThat(world.ticket.open()).isEmpty();
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

    // --- leaving and putting back

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
        assertThat(last(Event.CallRequested.class).orElseThrow().inputs()).containsEntry("why", "open again L-1");
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
        answer(open("two").getFirst(), new Command.CallOutcome.Failed("no"));
        world.pass(Duration.ofMinutes(1));
        answer(open("two").getFirst(), new Command.CallOutcome.Failed("no"));
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
        Event.Checked checked = last(Event.Checked.class).orElseThrow();
        assertThat(checked.exit()).isEqualTo("pass");
        assertThat(checked.last()).extracting(RuleSeen::why).contains("2, needs below 3.");
        assertThat(checked.last().getFirst().ageSeconds()).isEqualTo(300);
    }

    @Test
    void aMeasurementThatIsTooOldFailsItsRuleAndWhatShouldStayStandsOut() {
        publish(CHECK.formatted("", ", at most 2 min old", ""));
        answer(open("before").getFirst(), ok("L-1"));
        world.pass(Duration.ofMinutes(5));
        Event.Checked checked = last(Event.Checked.class).orElseThrow();
        assertThat(checked.exit()).isEqualTo("fail");
        assertThat(checked.last().getFirst().sideEffect()).isTrue();
        assertThat(checked.last().getFirst().why()).contains("300 s ago").contains("2 min");
    }

    @Test
    void aCheckIsJudgedAgainUntilItHoldsAndKeepsFirstAndLast() {
        publish(CHECK.formatted(" settling within 10 min every 2 min", "", "").replace("below 3", "below 2"));
        answer(open("before").getFirst(), ok("L-1"));
        world.pass(Duration.ofMinutes(5));
        assertThat(last(Event.CheckJudged.class).orElseThrow().held()).isEqualTo(1);
        world.accepted(RUNA, new Command.EditTicket(Map.of("impact", 1L), null));
        world.pass(Duration.ofMinutes(2));
        Event.Checked checked = last(Event.Checked.class).orElseThrow();
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
        assertThat(world.refused(
                                Actor.of(World.TEO),
                                new Command.ReviewCheck(review.id(), Command.ReviewVerdict.ACCEPT, " "))
                        .message())
                .contains("why");
        assertThat(world.refused(RUNA, new Command.ReviewCheck(review.id(), Command.ReviewVerdict.ACCEPT, "fine by me"))
                        .message())
                .contains("not asked");
        world.accepted(
                Actor.of(World.TEO),
                new Command.ReviewCheck(review.id(), Command.ReviewVerdict.ACCEPT, "known, ticket I-9"));
        assertThat(last(Event.RunEnded.class).orElseThrow().result()).isEqualTo("held");
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
        answer(open("check").getFirst(), new Command.CallOutcome.Unknown("lost"));
        world.pass(Duration.ofMinutes(2));
        answer(open("check").getFirst(), ok("up"));
        Event.Checked checked = last(Event.Checked.class).orElseThrow();
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
        assertThat(last(Event.SignalCame.class).orElseThrow().signalId()).isEqualTo("s-1");
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
        assertThat(last(Event.TaskLeftOut.class).orElseThrow().exit()).isEqualTo("Done");
        world.accepted(RUNA, new Command.LeaveOut(open("think").getFirst().id(), "nothing to think about"));
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
        Waiting.CallIn asked = (Waiting.CallIn) open("come").getFirst().waiting();
        assertThat(asked.asked()).containsExactly(World.TEO);
        assertThat(world.refused(
                                Actor.of(World.PRIYA),
                                new Command.AnswerCallIn(open("come").getFirst().id(), true))
                        .message())
                .contains("not called in");
        world.accepted(
                Actor.of(World.TEO),
                new Command.AnswerCallIn(open("come").getFirst().id(), false));
        asked = (Waiting.CallIn) open("come").getFirst().waiting();
        assertThat(asked.asked()).containsExactly(World.TEO, World.PRIYA);
        world.accepted(
                Actor.of(World.PRIYA),
                new Command.AnswerCallIn(open("come").getFirst().id(), true));
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
