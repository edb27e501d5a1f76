package dastur.core.run;

import static org.assertj.core.api.Assertions.assertThat;

import dastur.core.people.Actor;
import dastur.core.people.Party;
import dastur.core.run.Event.TicketChanged;
import dastur.core.step.task.HumanTask;
import dastur.core.step.task.TaskCommands.CompleteTask;
import dastur.core.ticket.Field;
import dastur.core.ticket.FieldType;
import dastur.core.ticket.TicketKind;
import dastur.core.time.Rhythm;
import dastur.core.workflow.Level;
import dastur.core.workflow.Step;
import dastur.core.workflow.StepId;
import dastur.core.workflow.Trigger;
import dastur.core.workflow.TriggerId;
import dastur.core.workflow.WorkflowKey;
import dastur.core.workflow.WorkflowVersion;
import java.time.Instant;
import java.time.LocalDateTime;
import java.time.ZoneId;
import java.util.List;
import java.util.Map;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;

/** What is started without anybody having asked: it opens a routine, gives the start form, and the routine ends as its runs do. */
class RoutinesTest {
    private static final TriggerId NIGHTLY = new TriggerId("nightly");
    private static final Instant PLANNED = Instant.parse("2026-03-02T03:15:00Z");
    private static final Cause CAUSE = new Cause.TimeCame(NIGHTLY, PLANNED, null);

    private final World world = new World();

    private static StepId id(String id) {
        return new StepId(id);
    }

    private static WorkflowVersion nightly() {
        return new WorkflowVersion(
                new WorkflowKey("nightly"),
                1,
                "Look at night",
                null,
                World.TEO,
                TicketKind.ROUTINE,
                List.of(
                        Field.of("day", "Day", FieldType.TEXT).asRequired(),
                        Field.of("count", "Count", FieldType.WHOLE)),
                List.of(),
                new Level(List.of(
                        new HumanTask(
                                id("look"),
                                "Look",
                                "Look.",
                                new Party.OfGroup(World.TECHNICIANS),
                                null,
                                List.of("fine", "broken"),
                                List.of(),
                                null,
                                null,
                                Map.of("fine", id("good"), "broken", id("bad")),
                                null),
                        new Step.End(id("good"), "Good", "all is well", null, Step.Ending.RUN),
                        new Step.End(id("bad"), "Bad", "it is broken", null, Step.Ending.FAILED))));
    }

    private Trigger.Live live(Map<String, String> inputs) {
        Rhythm rhythm = new Rhythm(
                "FREQ=DAILY", LocalDateTime.parse("2026-03-01T04:15"), ZoneId.of("Europe/Berlin"), null, null);
        Trigger trigger = new Trigger(
                NIGHTLY, true, new Trigger.TimeComes(null, rhythm, null, inputs, null, null), List.of(), null);
        world.publish(nightly(), trigger);
        return world.lookups().liveTriggers().getFirst();
    }

    private Decision raise(Map<String, String> inputs) {
        return world.handle(Actor.CLOCK, new Command.RaiseByCause(CAUSE, live(inputs), "Look at night", Map.of()));
    }

    private void answer(String outcome) {
        Visit visit = world.ticket
                .open()
                .values()
                .iterator()
                .next()
                .open()
                .values()
                .iterator()
                .next();
        assertThat(world.handle(Actor.of(World.RUNA), new CompleteTask(visit.id(), outcome, Map.of(), null)))
                .isInstanceOf(Decision.Accepted.class);
    }

    @BeforeEach
    void begun() {
        assertThat(raise(Map.of("day", "string(now)", "count", "1 + 1"))).isInstanceOf(Decision.Accepted.class);
    }

    @Test
    void itOpensARoutineThatNobodyWaitsFor() {
        assertThat(world.ticket.kind()).isEqualTo(TicketKind.ROUTINE);
        assertThat(world.ticket.state()).isEqualTo("under way");
        assertThat(world.ticket.fields()).doesNotContainKeys("priority", "impact", "urgency");
        assertThat(world.ticket.targets()).isEmpty();
        assertThat(world.record)
                .extracting(r -> r.event().getClass().getSimpleName())
                .startsWith("TicketRaised", "Caused", "TriggersLookedAt", "RunStarted");
    }

    @Test
    void whatItGivesIsAsOfThePlannedMoment() {
        Run run = world.ticket.open().values().iterator().next();
        assertThat(run.inputs()).containsEntry("day", "2026-03-02T03:15:00Z").containsEntry("count", 2L);
    }

    @Test
    void itIsFinishedWhenItsRunIs() {
        answer("fine");
        assertThat(world.ticket.state()).isEqualTo("finished");
        Recorded last = world.record.getLast();
        assertThat(last.event()).isInstanceOf(TicketChanged.class);
        assertThat(last.actor()).as("nobody chose it").isEqualTo(Actor.SYSTEM);
    }

    @Test
    void itHasFailedWhenItsRunEndedSo() {
        answer("broken");
        assertThat(world.ticket.state()).isEqualTo("failed");
    }

    @Test
    void whoStopsItStopsWhatRunsOnIt() {
        assertThat(world.handle(Actor.of(World.RUNA), new Command.EditTicket(Map.of("state", "stopped"), null)))
                .isInstanceOf(Decision.Accepted.class);
        assertThat(world.ticket.open()).isEmpty();
        assertThat(world.ticket.state()).isEqualTo("stopped");
    }

    @Test
    void nobodySaysThatItIsFinished() {
        assertThat(world.handle(Actor.of(World.RUNA), new Command.EditTicket(Map.of("state", "finished"), null)))
                .isInstanceOf(Decision.Refused.class);
        assertThat(world.handle(Actor.of(World.RUNA), new Command.EditTicket(Map.of("impact", 1L), null)))
                .isInstanceOf(Decision.Refused.class);
    }

    @Test
    void nobodyRaisesOne() {
        World other = new World();
        assertThat(other.handle(
                        Actor.of(World.RUNA),
                        new Command.RaiseTicket(TicketKind.ROUTINE, Map.of("title", "By hand"), null)))
                .isInstanceOf(Decision.Refused.class);
        assertThat(other.handle(
                        Actor.of(World.RUNA), new Command.RaiseByCause(CAUSE, live(Map.of()), "By hand", Map.of())))
                .isInstanceOf(Decision.Refused.class);
    }

    @Test
    void whatTheStartFormNeedsMustBeGiven() {
        World other = new World();
        Trigger.Live live = live(Map.of("count", "1"));
        other.values.putAll(world.values);
        Decision refused = other.handle(Actor.CLOCK, new Command.RaiseByCause(CAUSE, live, "Look", Map.of()));
        assertThat(refused).isInstanceOfSatisfying(Decision.Refused.class, r -> assertThat(
                        r.refusal().where())
                .isEqualTo("inputs.day"));
        assertThat(other.record).as("nothing is written").isEmpty();
    }

    @Test
    void triggersOnAnyTicketLeaveItAlone() {
        World other = new World();
        Trigger.Live live = live(Map.of("day", "'x'"));
        other.values.putAll(world.values);
        Trigger any = new Trigger(new TriggerId("any"), true, new Trigger.Created(null), List.of(), null);
        WorkflowVersion gate = World.gateWorkflow(new dastur.core.workflow.ApprovalRule.AnyOne());
        other.publish(gate, any);
        other.handle(Actor.CLOCK, new Command.RaiseByCause(CAUSE, live, "Look", Map.of()));
        assertThat(other.ticket.open()).hasSize(1);
    }
}
