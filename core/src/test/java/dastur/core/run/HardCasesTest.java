package dastur.core.run;

import static org.assertj.core.api.Assertions.assertThat;

import dastur.core.notation.Names;
import dastur.core.notation.Notation;
import dastur.core.people.Actor;
import dastur.core.people.Party;
import dastur.core.step.approval.ApprovalCommands.Vote;
import dastur.core.step.approval.ApprovalEvents.ApprovalClosed;
import dastur.core.step.approval.ApprovalEvents.VoteCast;
import dastur.core.step.calling.CallingCommands.CallOutcome;
import dastur.core.step.calling.CallingEvents.CallRequested;
import dastur.core.step.task.TaskCommands.ClaimTask;
import dastur.core.step.task.TaskCommands.CompleteTask;
import dastur.core.ticket.TicketKind;
import dastur.core.time.Span;
import dastur.core.workflow.Ladder;
import dastur.core.workflow.LadderKey;
import dastur.core.workflow.Rung;
import dastur.core.workflow.Trigger;
import dastur.core.workflow.TriggerId;
import java.time.Duration;
import java.util.List;
import java.util.Map;
import java.util.Set;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;

/** Cases in which an approval, a cancelled ticket or a trigger once went wrong. */
class HardCasesTest extends WrittenWorkflows {
    private static final Actor TEO = Actor.of(World.TEO);
    private static final Actor PRIYA = Actor.of(World.PRIYA);

    private void asked(String rule, String more) {
        publish("go: approve \"Go?\" by " + rule + " group managers within 1 h\n  shows ticket.impact, ticket.urgency\n"
                + more + "  declined -> bad\ngood: done \"good\"\nbad: done \"bad\"\n");
    }

    private void impact(long impact) {
        world.accepted(RUNA, new Command.EditTicket(Map.of("impact", impact), null));
    }

    // --- approvals

    /** E1: nobody approves values that have changed behind a stalled decision. */
    @Test
    void aStalledApprovalTakesNoVoteOnValuesThatHaveChanged() {
        asked("any one of", "");
        Vote seen = world.vote(true, null);
        world.pass(Duration.ofHours(2));
        assertThat(last(Event.Stalled.class).orElseThrow().code()).isEqualTo("lapsed");
        impact(1);
        assertThat(world.refused(TEO, seen).code()).isEqualTo(Refusal.Code.STALE);
        assertThat(all(VoteCast.class)).isEmpty();
        // Asked again, it is decided on what is so now.
        world.accepted(
                TEO, new Command.Intervene(run().id(), world.open().id(), Intervention.RETRY, null, "ask them again"));
        assertThat(world.refused(TEO, seen).code()).isEqualTo(Refusal.Code.STALE);
        world.accepted(TEO, world.vote(true, null));
        assertThat(last(Event.RunEnded.class).orElseThrow().result()).isEqualTo("good");
    }

    @Test
    void aStalledApprovalWhoseValuesStandTakesAVote() {
        asked("any one of", "");
        world.pass(Duration.ofHours(2));
        world.accepted(TEO, world.vote(true, null));
        assertThat(last(Event.RunEnded.class).orElseThrow().result()).isEqualTo("good");
    }

    /** E1: after the fifth round votes of before count as little as after any other. */
    @Test
    void votesOfBeforeDoNotCountWhereItKeepsChanging() {
        asked("everyone of", "");
        for (long round = 1; round <= 5; round++) {
            world.accepted(TEO, world.vote(true, null));
            impact(round % 2 == 0 ? 2 : 1);
        }
        assertThat(last(Event.Stalled.class).orElseThrow().code()).isEqualTo("keeps changing");
        assertThat(world.votes().cast()).isEmpty();
        assertThat(world.refused(PRIYA, world.vote(true, null)).code()).isEqualTo(Refusal.Code.STALE);
        assertThat(all(ApprovalClosed.class)).isEmpty();
    }

    /** E4: whoever is added decides as well, and as many as the rule says of all of them must say yes. */
    @ParameterizedTest
    @CsvSource({
        "everyone of, 2, 4",
        "a majority of, 2, 3",
        "at least 60 percent of, 2, 3",
        "at least 2 of, 2, 2",
        "any one of, 1, 1"
    })
    void addedPeopleWidenWhatIsNeededAsTheRuleSays(String rule, int before, int after) {
        world.put(
                new LookupKey.OfLadder(new LadderKey("l")),
                new Ladder(
                        new LadderKey("l"),
                        "L",
                        List.of(new Rung(
                                Span.parse("10 min"), new Rung.Add(List.of(new Party.OfGroup(World.TECHNICIANS)))))));
        asked(rule, "  ladder l\n");
        assertThat(world.votes().needed()).isEqualTo(before);
        world.pass(Duration.ofMinutes(11));
        assertThat(world.votes().electorate()).hasSize(4);
        assertThat(world.votes().needed()).isEqualTo(after);
        if (after == 4) {
            // The two that were added cannot approve for the two that were asked.
            world.accepted(RUNA, world.vote(true, null));
            world.accepted(Actor.of(World.SEM), world.vote(true, null));
            assertThat(all(ApprovalClosed.class)).isEmpty();
        }
    }

    // --- cancelling

    /** E9: with a ticket its runs end: nothing stays on desks, nothing rings, and no clock says that it is in time. */
    @Test
    void aCancelledTicketEndsItsRuns() {
        publish("""
                look: ask group technicians "Look": "Done"
                end: done "done"
                """);
        VisitId look = world.open().id();
        world.accepted(RUNA, new ClaimTask(look));
        world.accepted(TEO, new Command.EditTicket(Map.of("state", "cancelled"), "raised twice"));
        assertThat(world.ticket.open()).isEmpty();
        assertThat(last(Event.Withdrawn.class).orElseThrow().why()).contains("the ticket was cancelled");
        assertThat(last(Event.RunEnded.class).orElseThrow().stopped()).isTrue();
        // Who had it in hand is told.
        assertThat(last(Event.MessageQueued.class).orElseThrow().people()).containsExactly(World.RUNA);
        assertThat(world.ticket.targets().values()).noneMatch(Target::rings);
        assertThat(Engine.nextAlarm(world.ticket, world.upSince)).isEmpty();
    }

    @Test
    void theRunThatCancelsItsTicketGoesOnToItsEndAndTheOthersStop() {
        publish("other", "look: ask group technicians \"Look\": \"Done\"\nend: done \"done\"\n");
        publish("""
                wait: ask group technicians "Wait for it": "Cancel it"
                cancel: update "Cancel"
                  set ticket.state = 'cancelled'
                end: done "cancelled it"
                """);
        world.put(
                new LookupKey.LiveTriggers(),
                new Lookups.TriggerList(List.of(new Trigger.Live(
                        new dastur.core.workflow.WorkflowKey("other"),
                        1,
                        "Other",
                        new Trigger(new TriggerId("hand"), true, new Trigger.ByHand(null), List.of(), null)))));
        world.accepted(RUNA, new Command.StartRun(new dastur.core.workflow.WorkflowKey("other"), Map.of()));
        done(open("wait").getFirst(), "Cancel it");
        assertThat(world.ticket.open()).isEmpty();
        assertThat(all(Event.RunEnded.class))
                .extracting(Event.RunEnded::result)
                .containsExactlyInAnyOrder("stopped", "cancelled it");
    }

    @Test
    void whatIsStartedBecauseATicketWasCancelledGoesOn() {
        String text = "workflow gate \"W\" for incident\n  owner teo\n"
                + "look: ask group technicians \"Put it away\": \"Done\"\nend: done \"done\"\n";
        world.publish(
                dastur.core.notation.Notation.read(text, 1, dastur.core.notation.Names.NONE)
                        .version(),
                new Trigger(
                        new TriggerId("t"),
                        true,
                        new Trigger.FieldReaches(null, "state", "cancelled"),
                        List.of(),
                        null));
        world.raise();
        world.accepted(TEO, new Command.EditTicket(Map.of("state", "cancelled"), null));
        assertThat(world.ticket.open()).hasSize(1);
        assertThat(open("look")).hasSize(1);
    }

    // --- triggers

    private void twoCauses(Boolean besides) {
        String text = "workflow gate \"W\" for incident\n  owner teo\n"
                + "look: ask group technicians \"Look\": \"Done\"\nend: done \"done\"\n";
        world.publish(
                dastur.core.notation.Notation.read(text, 1, dastur.core.notation.Names.NONE)
                        .version(),
                new Trigger(new TriggerId("new"), true, new Trigger.Created(TicketKind.INCIDENT), List.of(), null),
                new Trigger(
                        new TriggerId("grave"),
                        true,
                        new Trigger.FieldReaches(null, "impact", "1"),
                        List.of(),
                        null,
                        Trigger.Mode.STARTS,
                        null,
                        besides));
        world.raise();
    }

    /** E10: a trigger starts no second run of what is under way, and says so; afterwards it does. */
    @Test
    void aTriggerStartsNothingASecondTimeWhileItRuns() {
        twoCauses(null);
        impact(1);
        assertThat(world.ticket.open()).hasSize(1);
        assertThat(last(Event.TriggersLookedAt.class).orElseThrow().looks())
                .anySatisfy(look -> assertThat(look.why()).contains("under way here already: I-1.1"));
        done(open("look").getFirst(), "Done");
        impact(2);
        impact(1);
        assertThat(world.ticket.open()).hasSize(1);
        assertThat(world.ticket.runs().begun()).isEqualTo(2);
    }

    @Test
    void whereItIsAllowedToItRunsBesidesItself() {
        twoCauses(true);
        impact(1);
        assertThat(world.ticket.open()).hasSize(2);
    }

    /** U5: whoever had voted is told that it no longer counts; everybody is told what changed, from what to what, and by whom. */
    @Test
    void whoVotedIsToldWhatHasChangedAndThatTheVoteNoLongerCounts() {
        asked("everyone of", "");
        world.accepted(TEO, world.vote(true, null));
        int before = world.record.size();
        impact(1);
        List<Event.MessageQueued> told = world.record.subList(before, world.record.size()).stream()
                .map(Recorded::event)
                .filter(Event.MessageQueued.class::isInstance)
                .map(Event.MessageQueued.class::cast)
                .toList();
        assertThat(told).allSatisfy(m -> assertThat(m.text())
                .contains("Runa Feld has changed what was shown")
                .contains("Impact: 2 → 1"));
        assertThat(told)
                .filteredOn(m -> m.text().contains("Your vote no longer counts"))
                .singleElement()
                .satisfies(m -> assertThat(m.people()).containsExactly(World.TEO));
        assertThat(told).anySatisfy(m -> assertThat(m.people()).containsExactly(World.PRIYA));
    }

    // --- interventions

    /** E6: what was done before a step in the same instant is done before it all the same. */
    @Test
    void runAgainFromAStepKeepsWhatWasDoneBeforeItInTheSameInstant() {
        publish("""
                one: decide "One?"
                  when "high" if ticket.impact <= 2
                  "high" -> two
                  otherwise -> two
                two: update "Two"
                  set vars.count = 1
                pause: ask group technicians "Pause": "Done"
                end: done "done"
                """);
        Map<String, Object> one = run().steps().get("one");
        assertThat(one.get("at")).isEqualTo(run().steps().get("two").get("at"));
        world.accepted(
                TEO,
                new Command.Intervene(run().id(), null, Intervention.RERUN, null, "once more", World.id("two"), null));
        assertThat(run().steps().get("one")).isEqualTo(one);
        world.accepted(
                TEO,
                new Command.Intervene(run().id(), null, Intervention.RERUN, null, "all of it", World.id("one"), null));
        assertThat(run().steps().get("one")).isNotEqualTo(one);
        assertThat(open("pause")).hasSize(1);
    }

    /** E15: a run has as many visits as its workflow allows, and goes on in a version that allows more. */
    @Test
    void theLimitOfVisitsIsTheWorkflows() {
        String loop = "again: ask group technicians \"Again\": \"Done\"\n  \"Done\" -> again\n";
        publish("  at most 10 steps in a run\n" + loop);
        for (int i = 0; i < 10; i++) {
            done(open("again").getFirst(), "Done");
        }
        assertThat(last(Event.Stalled.class).orElseThrow().code()).isEqualTo("too many visits");
        String more =
                "workflow " + World.GATE + " \"W\" for incident\n  owner teo\n  at most 50 steps in a run\n" + loop;
        world.put(
                new LookupKey.OfVersion(World.GATE, 2),
                Notation.read(more, 2, Names.NONE).version());
        world.accepted(TEO, new Command.Intervene(run().id(), null, Intervention.MOVE, null, "it is meant", null, 2));
        world.accepted(
                TEO, new Command.Intervene(run().id(), world.open().id(), Intervention.RETRY, null, "it is meant"));
        done(open("again").getFirst(), "Done");
        assertThat(world.open().stall()).isNull();
    }

    /** E7: an item that fails on hold ends, and nothing goes on from it until somebody resumes. */
    @Test
    void aHeldRunBeginsNoFurtherItemAndLeavesNoBracket() {
        publish("""
                each: for each gate in ["a", "b"], in order as "Each"
                  call: run close-lane "Close" at most 1 tries
                    with gate = gate
                  closed: done "closed"
                end: done "all"
                """);
        world.accepted(TEO, new Command.Intervene(run().id(), null, Intervention.HOLD, null, "wait"));
        int before = world.record.size();
        answer(open("call").getFirst(), new CallOutcome.Failed("the gate says no"));
        assertThat(world.record.subList(before, world.record.size()))
                .extracting(r -> r.event().getClass().getSimpleName())
                .doesNotContain("LineBegan", "CallRequested", "BracketLeft");
        world.accepted(TEO, new Command.Intervene(run().id(), null, Intervention.RESUME, null, "go"));
        assertThat(all(CallRequested.class)).hasSize(2);
    }

    /** E8: whoever was asked is told who was first; whoever was not learns nothing and leaves nothing. */
    @Test
    void whoWasNeverAskedLearnsNothingOfWhatIsOver() {
        publish("look: ask group technicians \"Look\": \"Done\"\npause: ask group managers \"Pause\": \"Done\"\n"
                + "end: done \"done\"\n");
        Visit look = open("look").getFirst();
        done(look, "Done");
        Assigned asked = new Assigned(List.of(World.TECHNICIANS), List.of());
        world.put(
                new LookupKey.ClosedVisit(look.id()),
                new Lookups.VisitEnd("Runa Feld", world.now, "ended with 'Done'", Set.of(), List.of(asked)));
        Command late = new CompleteTask(look.id(), "Done", Map.of(), null);
        Refusal stranger = world.refused(TEO, late);
        assertThat(stranger.code()).isEqualTo(Refusal.Code.NOT_FOUND);
        assertThat(stranger.message()).doesNotContain("Runa").doesNotContain("ended");
        assertThat(all(Event.CameTooLate.class)).isEmpty();
        assertThat(world.refused(Actor.of(World.SEM), late).message()).contains("Runa Feld");
        assertThat(all(Event.CameTooLate.class)).hasSize(1);
    }
}
