package dastur.core.run;

import static org.assertj.core.api.Assertions.assertThat;

import dastur.core.people.Actor;
import dastur.core.step.task.TaskCommands.ClaimTask;
import dastur.core.step.task.TaskCommands.HandBackTask;
import dastur.core.ticket.Promised;
import dastur.core.ticket.Service;
import dastur.core.time.Span;
import dastur.core.workflow.ApprovalRule;
import dastur.core.workflow.Trigger;
import dastur.core.workflow.TriggerId;
import java.time.Duration;
import java.time.Instant;
import java.util.List;
import java.util.Map;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;

/** How soon tickets are to be responded to and restored: set, stopped, run on, met and missed. */
class TicketTargetsTest {
    private static final Actor RUNA = Actor.of(World.RUNA);

    private final World world = new World();

    @BeforeEach
    void promise() {
        world.promises(Map.of(
                "P1", new Service.Promise(Span.parse("5 min"), Span.parse("1 h")),
                "P2", new Service.Promise(Span.parse("15 min"), Span.parse("4 h"))));
        world.put(new LookupKey.LiveTriggers(), new Lookups.TriggerList(List.of()));
    }

    @AfterEach
    void theCaseIsTheFoldOfItsRecord() {
        assertThat(dastur.core.json.Json.write(Engine.fold(World.TICKET, world.record)))
                .isEqualTo(dastur.core.json.Json.write(world.ticket));
    }

    private Target respond() {
        return world.ticket.targets().get(Promised.RESPOND);
    }

    private Target restore() {
        return world.ticket.targets().get(Promised.RESTORE);
    }

    private void edit(String field, Object value) {
        world.accepted(RUNA, new Command.EditTicket(Map.of(field, value), null));
    }

    private long missed() {
        return world.record.stream()
                .filter(r -> r.event() instanceof Event.TargetMissed)
                .count();
    }

    @Test
    void theServicePromisesByPriorityAndTheAlarmIsSet() {
        Instant raised = world.now;
        world.raise();
        assertThat(world.ticket.text("priority")).contains("P2");
        assertThat(respond().due()).isEqualTo(raised.plus(Duration.ofMinutes(15)));
        assertThat(restore().due()).isEqualTo(raised.plus(Duration.ofHours(4)));
        assertThat(Engine.nextAlarm(world.ticket, raised)).contains(raised.plus(Duration.ofMinutes(15)));
    }

    @Test
    void anotherPriorityCountsFromTheBeginning() {
        Instant raised = world.now;
        world.raise();
        world.pass(Duration.ofMinutes(2));
        world.accepted(RUNA, new Command.EditTicket(Map.of("impact", 1L, "urgency", 1L), null));
        assertThat(world.ticket.text("priority")).contains("P1");
        assertThat(respond().due()).isEqualTo(raised.plus(Duration.ofMinutes(5)));
        edit("impact", 4L);
        edit("urgency", 4L);
        assertThat(world.ticket.targets()).isEmpty();
        assertThat(Engine.nextAlarm(world.ticket, raised)).isEmpty();
    }

    @ParameterizedTest
    @CsvSource({"assignee, runa", "state, diagnosing"})
    void whoeverTakesItRespondsAndThatIsKept(String field, String value) {
        world.raise();
        world.pass(Duration.ofMinutes(3));
        edit(field, value);
        assertThat(respond().metAt()).isEqualTo(world.now);
        assertThat(respond().missed()).isFalse();
        world.pass(Duration.ofHours(1));
        assertThat(missed()).isZero();
    }

    @Test
    void whoeverTakesUpATaskResponds() {
        world.publish(
                World.gateWorkflow(new ApprovalRule.AnyOne()),
                new Trigger(new TriggerId("t"), true, new Trigger.Created(null), List.of(), null));
        world.raise();
        assertThat(respond().metAt()).isNull();
        VisitId look = world.open().id();
        world.accepted(RUNA, new ClaimTask(look));
        assertThat(respond().metAt()).isEqualTo(world.now);
        world.accepted(RUNA, new HandBackTask(look));
        assertThat(respond().metAt()).isNotNull();
    }

    @Test
    void itStandsStillWhileTheTicketWaitsAndRunsOnWithWhatWasLeft() {
        world.raise();
        edit("state", "diagnosing");
        world.pass(Duration.ofHours(1));
        edit("state", "waiting");
        assertThat(restore().due()).isNull();
        assertThat(restore().rest()).isEqualTo(Span.parse("180 min"));
        world.pass(Duration.ofDays(3));
        assertThat(missed()).isZero();
        edit("state", "diagnosing");
        assertThat(restore().due()).isEqualTo(world.now.plus(Duration.ofHours(3)));
    }

    /** N87: who waited outside is not charged for it again when the priority changes, while it waits or later. */
    @ParameterizedTest
    @CsvSource({"true", "false"})
    void whatWasWaitedIsGivenBackWhenThePriorityChanges(boolean whileItWaits) {
        Instant raised = world.now;
        world.raise();
        edit("state", "diagnosing");
        world.pass(Duration.ofMinutes(30));
        edit("state", "waiting");
        world.pass(Duration.ofDays(2));
        if (!whileItWaits) {
            edit("state", "diagnosing");
        }
        world.accepted(RUNA, new Command.EditTicket(Map.of("impact", 1L, "urgency", 1L), null));
        assertThat(world.ticket.text("priority")).contains("P1");
        if (whileItWaits) {
            assertThat(restore().rest()).isEqualTo(Span.parse("30 min"));
            world.pass(Duration.ofHours(1));
            edit("state", "diagnosing");
            assertThat(restore().due()).isEqualTo(world.now.plus(Duration.ofMinutes(30)));
        } else {
            assertThat(restore().due())
                    .isEqualTo(raised.plus(Duration.ofDays(2)).plus(Duration.ofHours(1)));
        }
    }

    @Test
    void whatIsMissedIsSaidOnceAndWhoeverHasItIsTold() {
        world.raise();
        edit("assignee", "sem");
        world.pass(Duration.ofHours(5));
        world.pass(Duration.ofHours(5));
        assertThat(missed()).isEqualTo(1);
        assertThat(restore().missed()).isTrue();
        assertThat(world.record.stream()
                        .filter(r -> r.event() instanceof Event.MessageQueued)
                        .map(r -> (Event.MessageQueued) r.event())
                        .map(m -> m.purpose() + " " + m.people()))
                .containsExactly("task [sem]", "escalation [sem]");
        edit("state", "restored");
        assertThat(restore().metAt()).isEqualTo(world.now);
        assertThat(restore().missed()).isTrue();
    }

    @Test
    void whatIsRestoredTooSoonRunsOnWhenItIsTakenUpAgain() {
        world.raise();
        edit("state", "restored");
        Span left = restore().rest();
        world.pass(Duration.ofDays(1));
        edit("state", "diagnosing");
        assertThat(left).isEqualTo(Span.parse("240 min"));
        assertThat(restore().metAt()).isNull();
        assertThat(restore().due()).isEqualTo(world.now.plus(Duration.ofHours(4)));
    }

    @Test
    void workingTimeCountsInTheCalendarOfTheService() {
        world.officeHours();
        world.promises(Map.of("P2", new Service.Promise(null, Span.parse("8 working h"))));
        // Monday, eleven in the morning in Oslo: six hours are left today, two follow tomorrow.
        world.raise();
        assertThat(world.ticket.targets()).containsOnlyKeys(Promised.RESTORE);
        assertThat(restore().due()).isEqualTo(Instant.parse("2026-03-03T09:00:00Z"));
        world.pass(Duration.ofHours(5));
        edit("state", "waiting");
        assertThat(restore().rest()).isEqualTo(Span.parse("180 working min"));
        world.now = Instant.parse("2026-03-06T15:00:00Z");
        edit("state", "diagnosing");
        assertThat(restore().due()).isEqualTo(Instant.parse("2026-03-09T09:00:00Z"));
    }
}
