package dastur.core.run;

import static org.assertj.core.api.Assertions.assertThat;

import dastur.core.json.Json;
import dastur.core.notation.Names;
import dastur.core.notation.Notation;
import dastur.core.people.Actor;
import dastur.core.step.call.CallCommands.SentBegan;
import dastur.core.step.call.CallCommands.SentEnded;
import dastur.core.step.call.CallCommands.SentRefused;
import dastur.core.step.task.TaskCommands.CompleteTask;
import dastur.core.step.waiting.ForReply;
import dastur.core.ticket.LinkKind;
import dastur.core.ticket.TicketId;
import dastur.core.ticket.TicketKind;
import dastur.core.workflow.Trigger;
import dastur.core.workflow.TriggerId;
import dastur.core.workflow.WorkflowVersion;
import java.time.Duration;
import java.util.List;
import java.util.Map;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.Test;

/** Workflows that run on another ticket (D11), links between tickets, and waiting for a reply. */
class SentRunsTest {
    private static final TicketId OTHER = new TicketId("C-7");
    private static final Actor RUNA = Actor.of(World.RUNA);

    private final World here = new World();
    private final World there = new World();

    private static final String CHILD = """
            workflow child "Child" for change
              owner teo
              gives lock: text "Lock" = "L-2"
            look: ask group technicians "Child's task": "Done"
            end: done "child done"
            """;

    private static WorkflowVersion read(String text) {
        Notation.Read read = Notation.read(text, 1, Names.NONE);
        assertThat(read.problems()).isEmpty();
        return read.version();
    }

    private void caller(String sentence) {
        there.ticket = Case.none(OTHER);
        for (World world : List.of(here, there)) {
            WorkflowVersion child = read(CHILD);
            world.put(new LookupKey.OfVersion(child.key(), 1), child);
            world.put(new LookupKey.LiveVersion(child.key()), 1);
        }
        here.publish(
                read("workflow gate \"W\" for incident\n  owner teo\n" + sentence),
                new Trigger(new TriggerId("t"), true, new Trigger.Created(TicketKind.INCIDENT), List.of(), null));
        there.put(new LookupKey.LiveTriggers(), new Lookups.TriggerList(List.of()));
        here.raise();
    }

    private static final String ON_NEW = """
            sub: call child on a new change "Order a gate"
              set ticket.title = "For " + ticket.title
              "child done" -> told
              stopped -> stopped
            told: update "Note it"
              set ticket.lockNumber = steps.sub.lock
              set ticket.category = steps.sub.ticket
            ended: done "parent done"
            stopped: done "child was stopped"
            """;

    private Visit sub() {
        return here.open();
    }

    private <T extends Event> T last(World world, Class<T> type) {
        return world.record.reversed().stream()
                .map(Recorded::event)
                .filter(type::isInstance)
                .map(type::cast)
                .findFirst()
                .orElseThrow();
    }

    /** What a worker does: raises the other ticket, starts there, and tells the caller. */
    private RunId carryOut() {
        Event.WorkflowSent sent = last(here, Event.WorkflowSent.class);
        there.accepted(Actor.SYSTEM, new Command.RaiseTicket(TicketKind.CHANGE, sent.fields(), null));
        there.accepted(
                Actor.SYSTEM,
                new Command.StartSent(sent.workflow(), sent.version(), sub().id(), sent.depth(), Map.of()));
        RunId run = RunId.of(OTHER, 1);
        here.accepted(Actor.SYSTEM, new SentBegan(sub().id(), run));
        return run;
    }

    private void bringBack() {
        Event.RunEnded ended = last(there, Event.RunEnded.class);
        here.accepted(
                Actor.SYSTEM,
                new SentEnded(
                        ended.answers(),
                        RunId.of(OTHER, 1),
                        ended.result(),
                        ended.stopped(),
                        ended.results() == null ? Map.of() : ended.results()));
    }

    @AfterEach
    void bothCasesAreTheFoldOfTheirRecords() {
        for (World world : List.of(here, there)) {
            assertThat(Json.write(Engine.fold(world.ticket.id(), world.record))).isEqualTo(Json.write(world.ticket));
        }
    }

    @Test
    void aWorkflowRunsOnANewTicketAndItsResultComesBack() {
        caller(ON_NEW);
        Event.WorkflowSent sent = last(here, Event.WorkflowSent.class);
        assertThat(sent.raises()).isEqualTo(TicketKind.CHANGE);
        assertThat(sent.fields())
                .containsEntry("title", "For Gate 1 stuck open")
                .containsEntry("requester", "jonas")
                .containsEntry("ci", "ALD-G1");
        RunId run = carryOut();
        assertThat(sub().waiting()).isEqualTo(new Waiting.Called(run, false, null, false, Map.of()));
        assertThat(here.ticket.links()).containsExactly(new Case.Link(OTHER, LinkKind.SENT_TO));
        assertThat(there.ticket.links()).containsExactly(new Case.Link(World.TICKET, LinkKind.SENT_FROM));
        there.accepted(RUNA, new CompleteTask(there.open().id(), "Done", Map.of(), null));
        assertThat(last(there, Event.RunEnded.class).answers()).isEqualTo(sub().id());
        bringBack();
        assertThat(here.ticket.text("lockNumber")).contains("L-2");
        assertThat(here.ticket.text("category")).contains("C-7");
        assertThat(here.ticket.open()).isEmpty();
    }

    @Test
    void whatComesTwiceChangesNothing() {
        caller(ON_NEW);
        carryOut();
        Event.WorkflowSent sent = last(here, Event.WorkflowSent.class);
        there.accepted(
                Actor.SYSTEM,
                new Command.StartSent(sent.workflow(), sent.version(), sub().id(), sent.depth(), Map.of()));
        here.accepted(Actor.SYSTEM, new SentBegan(sub().id(), RunId.of(OTHER, 1)));
        assertThat(there.ticket.runs().begun()).isEqualTo(1);
        assertThat(here.ticket.links()).hasSize(1);
        there.accepted(RUNA, new CompleteTask(there.open().id(), "Done", Map.of(), null));
        bringBack();
        long seq = here.ticket.seq();
        bringBack();
        assertThat(here.ticket.seq()).isEqualTo(seq);
    }

    @Test
    void stoppingTheCallerRecallsTheRunOnTheOtherTicket() {
        caller(ON_NEW);
        RunId run = carryOut();
        RunId parent = here.ticket.open().firstKey();
        here.accepted(Actor.of(World.TEO), new Command.Intervene(parent, null, Intervention.STOP_RUN, null, "enough"));
        Event.SentRunRecalled recalled = last(here, Event.SentRunRecalled.class);
        assertThat(recalled.run()).isEqualTo(run);
        there.accepted(Actor.SYSTEM, new Command.RecallSent(run, recalled.why()));
        assertThat(there.ticket.open()).isEmpty();
        assertThat(last(there, Event.RunEnded.class).stopped()).isTrue();
    }

    @Test
    void aRunThatBeginsAfterItsCallerIsOverIsRecalled() {
        caller(ON_NEW);
        VisitId visit = sub().id();
        here.accepted(
                Actor.of(World.TEO),
                new Command.Intervene(here.ticket.open().firstKey(), null, Intervention.STOP_RUN, null, "enough"));
        here.accepted(Actor.SYSTEM, new SentBegan(visit, RunId.of(OTHER, 1)));
        assertThat(last(here, Event.SentRunRecalled.class).why()).contains("is over");
    }

    @Test
    void aTicketThatHasEndedOrIsOfAnotherKindTakesNothingAndTheCallerStallsWithTheReason() {
        caller("sub: call child on ticket \"C-7\" as \"Work there\"\n  \"child done\" -> e\ne: done \"e\"\n");
        assertThat(last(here, Event.WorkflowSent.class).ticket()).isEqualTo(OTHER);
        there.ticket = Case.none(new TicketId("I-9"));
        there.raise();
        Refusal refusal = there.refused(
                Actor.SYSTEM,
                new Command.StartSent(new dastur.core.workflow.WorkflowKey("child"), 1, sub().id(), 1, Map.of()));
        assertThat(refusal.message()).contains("for tickets of kind change");
        here.accepted(Actor.SYSTEM, new SentRefused(sub().id(), refusal.message()));
        assertThat(sub().stall().code()).isEqualTo("not taken");
        here.accepted(
                Actor.of(World.TEO),
                new Command.Intervene(
                        here.ticket.open().firstKey(), sub().id(), Intervention.RETRY, null, "there is one now"));
        assertThat(sub().waiting()).isInstanceOf(Waiting.Sent.class);
        assertThat(sub().stall()).isNull();
    }

    @Test
    void linksStandOncePerKindAndFollowFromBothSides() {
        here.raise();
        here.accepted(RUNA, new Command.LinkTicket(OTHER, LinkKind.CAUSED_BY, false));
        assertThat(LinkKind.CAUSED_BY.back()).isEqualTo(LinkKind.CAUSES);
        assertThat(here.refused(RUNA, new Command.LinkTicket(OTHER, LinkKind.CAUSED_BY, false))
                        .message())
                .contains("already linked");
        assertThat(here.refused(RUNA, new Command.LinkTicket(World.TICKET, LinkKind.RELATED, false))
                        .message())
                .contains("itself");
        assertThat(here.refused(RUNA, new Command.LinkTicket(OTHER, LinkKind.SENT_TO, false))
                        .message())
                .contains("follows from");
        here.accepted(RUNA, new Command.UnlinkTicket(OTHER, LinkKind.CAUSED_BY, false));
        assertThat(here.ticket.links()).isEmpty();
    }

    @Test
    void onlyWhoIsWaitedForRepliesAndTheirWordsAreValues() {
        here.publish(
                read("""
                workflow gate "W" for incident
                  owner teo
                wait: wait for a reply of requester within 2 h as "What the requester says"
                  timed out -> late
                note: update "Note it"
                  set ticket.category = steps.wait.text
                good: done "replied"
                late: done "no reply"
                """),
                new Trigger(new TriggerId("t"), true, new Trigger.Created(TicketKind.INCIDENT), List.of(), null));
        here.raise();
        here.accepted(RUNA, new Command.AddNote("Is it open still?", true));
        assertThat(here.open().waiting()).isInstanceOf(ForReply.class);
        here.accepted(Actor.of(World.JONAS), new Command.AddNote("It is.", true));
        assertThat(here.ticket.text("category")).contains("It is.");
        assertThat(last(here, Event.RunEnded.class).result()).isEqualTo("replied");
    }

    @Test
    void aReplyThatDoesNotComeTimesOut() {
        here.publish(
                read("""
                workflow gate "W" for incident
                  owner teo
                wait: wait for a reply of requester within 2 h as "What the requester says"
                  timed out -> late
                good: done "replied"
                late: done "no reply"
                """),
                new Trigger(new TriggerId("t"), true, new Trigger.Created(TicketKind.INCIDENT), List.of(), null));
        here.raise();
        here.pass(Duration.ofHours(3));
        assertThat(last(here, Event.RunEnded.class).result()).isEqualTo("no reply");
    }
}
