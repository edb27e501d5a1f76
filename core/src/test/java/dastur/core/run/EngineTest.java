package dastur.core.run;

import static org.assertj.core.api.Assertions.assertThat;

import dastur.core.people.Actor;
import dastur.core.step.approval.Approval;
import dastur.core.step.approval.ApprovalCommands.Vote;
import dastur.core.step.approval.Votes;
import dastur.core.step.calling.CallUnderWay;
import dastur.core.step.calling.CallingCommands.CallOutcome;
import dastur.core.step.calling.CallingCommands.CallResult;
import dastur.core.step.calling.CallingEvents;
import dastur.core.step.task.OpenTask;
import dastur.core.step.task.TaskCommands.ClaimTask;
import dastur.core.step.task.TaskCommands.CompleteTask;
import dastur.core.step.update.Assignment;
import dastur.core.step.update.Update;
import dastur.core.step.update.Updated;
import dastur.core.step.waiting.Wait;
import dastur.core.ticket.CiId;
import dastur.core.ticket.TicketKind;
import dastur.core.time.Span;
import dastur.core.workflow.Action;
import dastur.core.workflow.ActionKey;
import dastur.core.workflow.ApprovalRule;
import dastur.core.workflow.Limit;
import dastur.core.workflow.Step;
import dastur.core.workflow.StepId;
import dastur.core.workflow.Trigger;
import dastur.core.workflow.TriggerId;
import java.time.Duration;
import java.util.List;
import java.util.Map;
import org.junit.jupiter.api.Test;

class EngineTest {
    private static final Actor RUNA = Actor.of(World.RUNA);
    private static final Actor TEO = Actor.of(World.TEO);
    private static final Actor PRIYA = Actor.of(World.PRIYA);

    private final World world = new World();

    @Test
    void theWholeWayFromRaisedToLaneClosed() {
        world.raise();
        world.lookDone("Close the lane");
        world.accepted(TEO, world.vote(true, null));
        world.callDone();
        assertThat(world.kinds())
                .containsExactly(
                        "TicketRaised",
                        "TriggersLookedAt",
                        "RunStarted",
                        "TaskOffered",
                        "TaskDone",
                        "ApprovalAsked",
                        "MessageQueued",
                        "VoteCast",
                        "ApprovalClosed",
                        "CallRequested",
                        "CallDone",
                        "Updated",
                        "MessageQueued",
                        "Ended",
                        "RunEnded");
        assertThat(world.ticket.fields())
                .containsEntry("lockNumber", "L-77")
                .containsEntry("group", "managers")
                .containsEntry("service", "gates")
                .containsEntry("priority", "P2");
        assertThat(world.ticket.open()).isEmpty();
        Updated updated = world.record.stream()
                .map(Recorded::event)
                .filter(Updated.class::isInstance)
                .map(Updated.class::cast)
                .findFirst()
                .orElseThrow();
        assertThat(updated.ci()).isEqualTo(new CiId("ALD-G1"));
        assertThat(updated.ciChanges()).containsEntry("lane", new Event.Change(null, "closed, lock L-77"));
    }

    @Test
    void aTicketThatDoesNotMatchSaysWhyClauseByClause() {
        world.accepted(
                Actor.of(World.JONAS),
                new Command.RaiseTicket(
                        TicketKind.INCIDENT, Map.of("title", "Gate squeaks", "ci", "ALD-G1", "impact", 4L), null));
        Event.TriggersLookedAt looked =
                (Event.TriggersLookedAt) world.record.getLast().event();
        assertThat(looked.started()).isEmpty();
        assertThat(looked.looks().getFirst().why()).isEqualTo("its condition does not hold");
        assertThat(looked.looks().getFirst().condition().clauses().getFirst().seen())
                .containsEntry("ticket.impact", 4L);
    }

    @Test
    void aTriggerForAFieldFiresWhenItIsReachedAndOnlyThen() {
        world.publish(
                World.gateWorkflow(new ApprovalRule.AnyOne()),
                new Trigger(
                        new TriggerId("t"),
                        true,
                        new Trigger.FieldReaches(TicketKind.INCIDENT, "priority", "P1"),
                        List.of(),
                        null));
        world.raise();
        assertThat(world.ticket.open()).isEmpty();
        world.accepted(RUNA, new Command.EditTicket(Map.of("impact", 1L, "urgency", 1L), null));
        assertThat(world.ticket.open()).hasSize(1);
        world.accepted(RUNA, new Command.EditTicket(Map.of("title", "Gate 1 still stuck"), null));
        assertThat(world.ticket.open()).hasSize(1);
    }

    @Test
    void rungsFireInOrderEachOnTheRecord() {
        world.raise();
        world.pass(Duration.ofMinutes(45));
        List<Integer> rungs = world.record.stream()
                .filter(r -> r.event() instanceof Event.RungFired)
                .map(r -> ((Event.RungFired) r.event()).rung())
                .toList();
        assertThat(rungs).containsExactly(1, 2, 3, 4);
        assertThat(world.ticket.fields()).containsEntry("priority", "P1");
        assertThat(world.open().waiting()).isInstanceOf(Votes.class);
        assertThat(world.refused(RUNA, new CompleteTask(new VisitId("I-1.1.1"), "Cleared on the spot", Map.of(), null))
                        .code())
                .isEqualTo(Refusal.Code.NOT_FOUND);
    }

    /** D6: what only tells fires at once and late; what takes something away waits five minutes, and keeps its distance. */
    @Test
    void rungsMissedWhileDownAreKindToPeople() {
        world.raise();
        world.now = world.now.plus(Duration.ofMinutes(60));
        world.upSince = world.now;
        world.accepted(Actor.CLOCK, new Command.Tick());
        assertThat(rungsFired()).containsExactly("1 late");
        world.pass(Duration.ofMinutes(5));
        assertThat(rungsFired()).containsExactly("1 late", "2 late");
        world.pass(Duration.ofMinutes(5));
        assertThat(rungsFired()).containsExactly("1 late", "2 late", "3");
        world.pass(Duration.ofMinutes(5));
        assertThat(rungsFired()).hasSize(4);
    }

    private List<String> rungsFired() {
        return world.record.stream()
                .filter(r -> r.event() instanceof Event.RungFired)
                .map(r -> (Event.RungFired) r.event())
                .map(e -> e.rung() + (e.late() ? " late" : ""))
                .toList();
    }

    @Test
    void aHandedOverTaskIsTheOthersAlone() {
        world.raise();
        world.pass(Duration.ofMinutes(20));
        assertThat(world.refused(RUNA, new ClaimTask(world.open().id())).code()).isEqualTo(Refusal.Code.NOT_YOURS);
        world.accepted(TEO, new ClaimTask(world.open().id()));
    }

    @Test
    void twoPeopleAtOnceTheSecondIsToldWhoWasFirst() {
        world.raise();
        world.accepted(RUNA, new ClaimTask(world.open().id()));
        Refusal refusal = world.refused(
                Actor.of(World.SEM), new CompleteTask(world.open().id(), "Close the lane", Map.of(), null));
        assertThat(refusal.code()).isEqualTo(Refusal.Code.TOO_LATE);
        assertThat(refusal.message()).contains("Runa Feld");
    }

    @Test
    void wrongAnswersChangeNothing() {
        world.raise();
        VisitId task = world.open().id();
        Case before = world.ticket;
        assertThat(world.refused(RUNA, new CompleteTask(task, "Exploded", Map.of(), null))
                        .where())
                .isEqualTo("outcome");
        assertThat(world.refused(RUNA, new CompleteTask(task, "Close the lane", Map.of("nope", "x"), null))
                        .where())
                .isEqualTo("form.nope");
        assertThat(world.refused(RUNA, new CompleteTask(task, "Close the lane", Map.of("seen", 5L), null))
                        .where())
                .isEqualTo("form.seen");
        assertThat(world.refused(TEO, new CompleteTask(task, "Close the lane", Map.of(), null))
                        .code())
                .isEqualTo(Refusal.Code.NOT_YOURS);
        assertThat(world.refused(RUNA, new Command.EditTicket(Map.of("state", "closed"), null))
                        .where())
                .isEqualTo("cause");
        assertThat(world.refused(RUNA, new Command.EditTicket(Map.of("group", "nobody"), null))
                        .where())
                .isEqualTo("group");
        assertThat(world.refused(RUNA, new Command.EditTicket(Map.of("priority", "P1"), null))
                        .where())
                .isEqualTo("priorityReason");
        assertThat(world.ticket).isEqualTo(before);
    }

    @Test
    void excludedPeopleCannotVoteAndADeclineAsksWhy() {
        world.group(World.MANAGERS, "Duty managers", World.TEO, World.PRIYA, World.JONAS, World.RUNA);
        world.raise();
        world.lookDone("Close the lane");
        assertThat(world.votes().electorate()).containsExactly(World.PRIYA, World.TEO);
        assertThat(world.refused(Actor.of(World.JONAS), world.vote(true, null)).code())
                .isEqualTo(Refusal.Code.NOT_YOURS);
        assertThat(world.refused(RUNA, world.vote(true, null)).code()).isEqualTo(Refusal.Code.NOT_YOURS);
        assertThat(world.refused(TEO, world.vote(false, " ")).where()).isEqualTo("comment");
        world.accepted(TEO, world.vote(false, "Not in the morning rush"));
        assertThat(world.ticket.open()).isEmpty();
    }

    @Test
    void everyoneMustApproveAndEachVotesOnce() {
        world.publish(World.gateWorkflow(new ApprovalRule.Everyone()), byHand());
        world.raise();
        world.accepted(RUNA, new Command.StartRun(World.GATE, Map.of()));
        world.lookDone("Close the lane");
        world.accepted(TEO, world.vote(true, null));
        assertThat(world.refused(TEO, world.vote(true, null)).code()).isEqualTo(Refusal.Code.TOO_LATE);
        assertThat(world.open().waiting()).isInstanceOf(Votes.class);
        world.accepted(PRIYA, world.vote(true, null));
        assertThat(world.open().waiting()).isInstanceOf(CallUnderWay.class);
    }

    private static Trigger byHand() {
        return new Trigger(new TriggerId("hand"), true, new Trigger.ByHand(null), List.of(), null);
    }

    @Test
    void anApprovalIsVoidWhenWhatItShowsChanges() {
        world.raise();
        world.lookDone("Close the lane");
        Vote onOldValues = world.vote(true, null);
        world.accepted(RUNA, new Command.EditTicket(Map.of("title", "Gate 2 stuck open"), null));
        assertThat(world.votes().round()).isEqualTo(2);
        assertThat(world.refused(TEO, onOldValues).code()).isEqualTo(Refusal.Code.STALE);
        world.accepted(TEO, world.vote(true, null));
        assertThat(world.open().waiting()).isInstanceOf(CallUnderWay.class);
    }

    @Test
    void anApprovalThatCannotBeMetStallsAndSaysSo() {
        world.publish(World.gateWorkflow(new ApprovalRule.AtLeast(3)), byHand());
        world.raise();
        world.accepted(RUNA, new Command.StartRun(World.GATE, Map.of()));
        world.lookDone("Close the lane");
        assertThat(world.open().stall().code()).isEqualTo("cannot be met");
        world.publish(World.gateWorkflow(new ApprovalRule.AtLeast(2)), byHand());
        world.accepted(
                TEO,
                new Command.Intervene(
                        world.open().id().run(), world.open().id(), Intervention.RETRY, null, "rule mended"));
        assertThat(world.open().stall()).isNull();
        assertThat(world.votes().needed()).isEqualTo(2);
    }

    @Test
    void aDefiniteFailureIsTriedAgainUnderANewKeyThenStalls() {
        closing();
        world.call(new CallOutcome.Failed("409"));
        assertThat(call().betweenAttempts()).isTrue();
        world.pass(Duration.ofSeconds(15));
        assertThat(call().attempt()).isEqualTo(2);
        assertThat(call().key()).isEqualTo("I-1.1.3.2");
        assertThat(call().call().headers()).containsEntry("Idempotency-Key", "I-1.1.3.2");
        world.call(new CallOutcome.Failed("409"));
        assertThat(world.open().stall().code()).isEqualTo("failed");
        world.accepted(
                TEO,
                new Command.Intervene(
                        world.open().id().run(), world.open().id(), Intervention.RETRY, null, "controller is back"));
        world.callDone();
        assertThat(world.ticket.open()).isEmpty();
    }

    private void retryAnew() {
        world.accepted(
                TEO,
                new Command.Intervene(
                        world.open().id().run(), world.open().id(), Intervention.RETRY_ANEW, null, "it is mended"));
    }

    /** M19: as another call, under a key of its own; a plain retry sends what was sent. */
    @Test
    void inputsAreTakenAnewWhereAPersonSaysSo() {
        world.publish(
                World.workflow(
                        World.gateWorkflow(new ApprovalRule.AnyOne()).step(new StepId("close")),
                        new Step.End(World.id("note"), "End", "end", null, false)),
                byHand());
        world.raise();
        world.accepted(RUNA, new Command.StartRun(World.GATE, Map.of()));
        world.call(new CallOutcome.Failed("409"));
        world.pass(Duration.ofSeconds(15));
        world.call(new CallOutcome.Failed("409"));
        world.accepted(RUNA, new Command.EditTicket(Map.of("title", "Gate is bent"), null));
        world.accepted(
                TEO,
                new Command.Intervene(
                        world.open().id().run(), world.open().id(), Intervention.RETRY, null, "as it was"));
        assertThat(call().call().body()).doesNotContain("Gate is bent");
        world.call(new CallOutcome.Failed("409"));
        assertThat(world.open().stall().code()).isEqualTo("failed");
        retryAnew();
        assertThat(world.open().stall()).isNull();
        assertThat(call().attempt()).isEqualTo(4);
        assertThat(call().key()).isEqualTo("I-1.1.1.4");
        assertThat(call().call().body()).contains("Gate is bent");
        world.callDone();
        assertThat(world.ticket.open()).isEmpty();
    }

    /** D19: what was approved bound the first attempt; no other one may go out with anything else. */
    @Test
    void whereSomebodyDecidedNothingElseGoesOutThanWhatWentOutThen() {
        closing();
        world.call(new CallOutcome.Failed("409"));
        world.pass(Duration.ofSeconds(15));
        world.call(new CallOutcome.Failed("409"));
        world.accepted(RUNA, new Command.EditTicket(Map.of("title", "Gate is bent"), null));
        assertThat(world.refused(
                                TEO,
                                new Command.Intervene(
                                        world.open().id().run(),
                                        world.open().id(),
                                        Intervention.RETRY_ANEW,
                                        null,
                                        "again"))
                        .message())
                .contains("re-run from the step");
        assertThat(call().attempt()).as("nothing went out").isEqualTo(2);
        world.accepted(RUNA, new Command.EditTicket(Map.of("title", "Gate 1 stuck open"), null));
        retryAnew();
        assertThat(call().attempt()).isEqualTo(3);
    }

    @Test
    void whatIsInDoubtOrWasNeverSentTakesNothingAnew() {
        closing();
        world.call(new CallOutcome.Unknown("the line broke"));
        world.pass(Duration.ofMinutes(5));
        assertThat(world.refused(
                                TEO,
                                new Command.Intervene(
                                        world.open().id().run(),
                                        world.open().id(),
                                        Intervention.RETRY_ANEW,
                                        null,
                                        "again"))
                        .where())
                .isEqualTo("kind");
    }

    /** M4: a limit holds wherever the value comes from. Nothing goes out, and the step says why. */
    @Test
    void aValueBeyondItsLimitIsNotSent() {
        Action close = World.closeLane(Action.Repeat.KEYED);
        String input = close.inputs().getFirst().name();
        Limit lifts = new Limit(null, null, "LIFT-.*", null, null);
        world.put(new LookupKey.OfAction(close.key()), close.limited(Map.of(input, lifts)));
        closing();
        assertThat(world.open().stall().code()).isEqualTo("input missing");
        assertThat(world.record.getLast().event()).isInstanceOfSatisfying(Event.Stalled.class, e -> assertThat(e.why())
                .contains("must match LIFT-.*"));
        assertThat(world.record).noneMatch(r -> r.event() instanceof CallingEvents.CallRequested);
        world.put(new LookupKey.OfAction(close.key()), close);
        world.accepted(TEO, intervene(Intervention.RETRY));
        assertThat(world.open().stall().code())
                .as("what was approved had the limit: without it, it is another action")
                .isEqualTo("approval outdated");
        assertThat(world.record).noneMatch(r -> r.event() instanceof CallingEvents.CallRequested);
    }

    /** D13: wherever the key stands, the next attempt carries its own; what only looks like it stays. */
    @Test
    void theNextAttemptCarriesItsKeyInPathAndBodyToo() {
        Action close = World.closeLane(Action.Repeat.KEYED);
        world.put(
                new LookupKey.OfAction(close.key()),
                new Action(
                        close.key(),
                        close.name(),
                        close.description(),
                        close.connection(),
                        new Action.HttpCall(
                                "POST",
                                "/lanes/{{ call.key }}/close?once={{ call.key }}",
                                Map.of("X-Once", "once {{ call.key }}"),
                                "{\"key\":\"{{ call.key }}\",\"not\":\"x{{ call.key }}-5\"}",
                                null),
                        close.inputs(),
                        close.outputs(),
                        close.results(),
                        close.repeat(),
                        close.changesWorld(),
                        close.timeLimit(),
                        close.tries(),
                        close.pause()));
        closing();
        world.call(new CallOutcome.Failed("409"));
        world.pass(Duration.ofSeconds(15));
        assertThat(call().call().path()).isEqualTo("/lanes/I-1.1.3.2/close?once=I-1.1.3.2");
        assertThat(call().call().headers()).containsEntry("X-Once", "once I-1.1.3.2");
        assertThat(call().call().body()).isEqualTo("{\"key\":\"I-1.1.3.2\",\"not\":\"xI-1.1.3.1-5\"}");
    }

    @Test
    void anUnknownOutcomeOfAKeyedCallRepeatsUnderItsKey() {
        closing();
        world.call(new CallOutcome.Unknown("connection lost"));
        world.pass(Duration.ofSeconds(15));
        assertThat(call().attempt()).isEqualTo(2);
        assertThat(call().key()).isEqualTo("I-1.1.3.1");
    }

    @Test
    void anUnknownOutcomeOfANeverRepeatCallAsksAPerson() {
        world.put(new LookupKey.OfAction(new ActionKey("close-lane")), World.closeLane(Action.Repeat.NEVER));
        closing();
        world.call(new CallOutcome.Unknown("connection lost"));
        assertThat(world.open().stall().code()).isEqualTo("unsure");
        assertThat(world.refused(TEO, intervene(Intervention.RETRY)).where()).isEqualTo("kind");
        world.accepted(TEO, intervene(Intervention.HAPPENED));
        assertThat(world.ticket.open()).isEmpty();
    }

    @Test
    void aLateResultIsEnteredAndMovesNothing() {
        closing();
        VisitId visit = world.open().id();
        world.accepted(TEO, new Command.Intervene(visit.run(), null, Intervention.STOP_RUN, null, "gate was removed"));
        Case stopped = world.ticket;
        world.accepted(
                new Actor.OfAction(new ActionKey("close-lane")),
                new CallResult(visit, 1, new CallOutcome.Done("ok", Map.of(), null, null, "", 1, 0)));
        assertThat(world.record.getLast().event())
                .isInstanceOfSatisfying(
                        Event.LateResult.class, e -> assertThat(e.owner()).isEqualTo(World.TEO));
        assertThat(world.ticket.late()).hasSize(1);
        VisitId late = world.ticket.late().firstKey();
        world.accepted(TEO, new Command.SettleLate(late, "opened it again by hand"));
        assertThat(world.ticket.late()).isEmpty();
        assertThat(world.handle(TEO, new Command.SettleLate(late, null))).isInstanceOf(Decision.Refused.class);
        assertThat(world.ticket.fields()).isEqualTo(stopped.fields());
    }

    /** D19: an approval binds until the guarded call starts; afterwards somebody decides. */
    @Test
    void whatWasApprovedIsComparedOnceMoreBeforeTheCall() {
        world.publish(
                World.workflow(
                        World.gateWorkflow(new ApprovalRule.AnyOne()).step(new StepId("look")),
                        approvalLeadingTo("pause"),
                        new Wait(
                                World.id("pause"),
                                "Wait",
                                Span.parse("5 min"),
                                null,
                                Map.of("done", World.id("close")),
                                null),
                        World.gateWorkflow(new ApprovalRule.AnyOne()).step(new StepId("close")),
                        new Step.End(World.id("note"), "End", "end", null, false),
                        new Step.End(World.id("cleared"), "Cleared", "cleared", null, false)),
                byHand());
        world.raise();
        world.accepted(RUNA, new Command.StartRun(World.GATE, Map.of()));
        world.lookDone("Close the lane");
        world.accepted(TEO, world.vote(true, null));
        world.accepted(RUNA, new Command.EditTicket(Map.of("title", "Another gate"), null));
        world.pass(Duration.ofMinutes(5));
        assertThat(world.open().stall().code()).isEqualTo("approval outdated");
        world.accepted(TEO, intervene(Intervention.ASK_AGAIN));
        world.accepted(PRIYA, world.vote(true, null));
        world.pass(Duration.ofMinutes(5));
        assertThat(world.open().waiting()).isInstanceOf(CallUnderWay.class);
    }

    private static Step approvalLeadingTo(String step) {
        var a = (Approval) World.gateWorkflow(new ApprovalRule.AnyOne()).step(new StepId("approve"));
        return new Approval(
                a.id(),
                a.name(),
                a.question(),
                a.setsOff(),
                a.asked(),
                a.rule(),
                a.notRequester(),
                a.notDoersOf(),
                a.shown(),
                a.commentOnDecline(),
                a.within(),
                a.ladder(),
                Map.of("approved", World.id(step), "declined", World.id("cleared")),
                null);
    }

    /** Law 9. */
    @Test
    void aLoopWithoutAnEndStallsAtItsLimit() {
        world.publish(
                World.workflow(new Update(
                        World.id("a"),
                        "Again",
                        null,
                        List.of(new Assignment("ticket.category", "'x'", null)),
                        Map.of("done", World.id("a")),
                        null)),
                byHand());
        world.raise();
        world.accepted(RUNA, new Command.StartRun(World.GATE, Map.of()));
        assertThat(world.record.size()).isLessThan(250);
        for (int i = 0; i < 10; i++) {
            world.pass(Duration.ofSeconds(1));
        }
        assertThat(world.open().stall().code()).isEqualTo("too many visits");
    }

    @Test
    void aTaskWhoseGroupHasEmptiedStallsAtTheNextRecheckAndIsOfferedAgainOnRetry() {
        world.raise();
        world.group(World.TECHNICIANS, "Pier technicians");
        world.accepted(Actor.CLOCK, new Command.Recheck());
        assertThat(world.open().stall().code()).isEqualTo("nobody");

        world.group(World.TECHNICIANS, "Pier technicians", World.RUNA);
        Visit stalled = world.open();
        world.accepted(
                Actor.of(World.TEO),
                new Command.Intervene(stalled.id().run(), stalled.id(), Intervention.RETRY, null, "Runa is back"));
        assertThat(world.open().stall()).isNull();
        assertThat(world.open().waiting()).isInstanceOf(OpenTask.class);
    }

    @Test
    void anApprovalThatCanNoLongerBeMetStallsAtTheNextRecheck() {
        world.raise();
        world.lookDone("Close the lane");
        world.put(
                new LookupKey.OfPerson(World.TEO),
                new dastur.core.people.Person(World.TEO, "Teo", "t@kestrel.example", java.util.Set.of(), false));
        world.accepted(Actor.CLOCK, new Command.Recheck());
        assertThat(world.open().stall()).isNull();
        world.put(
                new LookupKey.OfPerson(World.PRIYA),
                new dastur.core.people.Person(World.PRIYA, "Priya", "p@kestrel.example", java.util.Set.of(), false));
        world.accepted(Actor.CLOCK, new Command.Recheck());
        assertThat(world.open().stall().code()).isEqualTo("cannot be met");
    }

    @Test
    void anApprovalLearnsOfAChangedCiAtTheRecheck() {
        world.publish(
                World.workflow(
                        new Approval(
                                World.id("ask"),
                                "Close?",
                                null,
                                null,
                                List.of(new dastur.core.people.Party.OfGroup(World.MANAGERS)),
                                new ApprovalRule.AnyOne(),
                                false,
                                null,
                                List.of("ci.lane"),
                                false,
                                null,
                                null,
                                Map.of("approved", World.id("end"), "declined", World.id("end")),
                                null),
                        new dastur.core.workflow.Step.End(World.id("end"), "End", "end", null, false)),
                new dastur.core.workflow.Trigger(
                        new dastur.core.workflow.TriggerId("t"),
                        true,
                        new dastur.core.workflow.Trigger.Created(null),
                        List.of(),
                        null));
        world.raise();
        world.put(
                new LookupKey.OfCi(new dastur.core.ticket.CiId("ALD-G1")),
                World.gate(Map.of("lane", "closed by another ticket")));
        world.accepted(Actor.CLOCK, new Command.Recheck());
        assertThat(world.kinds()).contains("ApprovalVoided");
        assertThat(world.votes().round()).isEqualTo(2);
    }

    private void closing() {
        world.raise();
        world.lookDone("Close the lane");
        world.accepted(TEO, world.vote(true, null));
    }

    private CallUnderWay call() {
        return (CallUnderWay) world.open().waiting();
    }

    private Command.Intervene intervene(Intervention kind) {
        return new Command.Intervene(world.open().id().run(), world.open().id(), kind, null, "looked at it");
    }
}
