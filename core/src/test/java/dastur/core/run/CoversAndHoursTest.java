package dastur.core.run;

import static org.assertj.core.api.Assertions.assertThat;

import dastur.core.people.Actor;
import dastur.core.people.Cover;
import dastur.core.people.Group;
import dastur.core.people.Party;
import dastur.core.people.PersonId;
import dastur.core.step.approval.Approval;
import dastur.core.step.task.TaskCommands.ClaimTask;
import dastur.core.ticket.TicketKind;
import dastur.core.time.CalendarKey;
import dastur.core.time.Span;
import dastur.core.time.WorkingCalendar;
import dastur.core.workflow.ApprovalRule;
import dastur.core.workflow.Step;
import dastur.core.workflow.Trigger;
import dastur.core.workflow.TriggerId;
import java.time.DayOfWeek;
import java.time.Duration;
import java.time.Instant;
import java.time.LocalTime;
import java.time.ZoneId;
import java.util.List;
import java.util.Map;
import java.util.Set;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;

/** Who may not vote because of whom they act for or what they do, and whose hours count (N12, N20, N42; decision 24). */
class CoversAndHoursTest {
    private static final Party MANAGERS = new Party.OfGroup(World.MANAGERS);

    /** The gate's workflow with a decision of everybody on the given terms. */
    private static void publish(World world, boolean notRequester, Approval.Terms terms) {
        Step[] steps = World.gateWorkflow(new ApprovalRule.Everyone()).body().steps().stream()
                .map(s -> s instanceof Approval a
                        ? new Approval(
                                a.id(),
                                a.name(),
                                a.question(),
                                a.setsOff(),
                                a.asked(),
                                a.rule(),
                                notRequester,
                                a.notDoersOf(),
                                a.shown(),
                                false,
                                Span.parse("2 working h"),
                                null,
                                a.ways(),
                                null,
                                terms)
                        : s)
                .toArray(Step[]::new);
        world.publish(
                World.workflow(steps),
                new Trigger(new TriggerId("created"), true, new Trigger.Created(null), List.of(), null));
    }

    private static World gate(World world, Approval.Terms terms) {
        publish(world, true, terms);
        world.raise();
        world.lookDone("Close the lane");
        return world;
    }

    private static void covers(World world, PersonId person, PersonId by, Cover.Scope scope, Duration from) {
        Instant begin = world.now.plus(from);
        world.put(
                new LookupKey.CoversOf(person),
                new Lookups.CoverList(List.of(new Cover(person, by, begin, begin.plus(Duration.ofDays(1)), scope))));
    }

    /** Jonas asked for it; whoever decides in his place just now may not decide about it. */
    @ParameterizedTest
    @CsvSource({"ALL, 0, false", "DECISIONS, -23, false", "TASKS, 0, true", "DECISIONS, 1, true", "DECISIONS, -25, true"
    })
    void whoDecidesForTheRequesterMayNotVote(Cover.Scope scope, long fromHours, boolean mayVote) {
        World world = new World();
        covers(world, World.JONAS, World.TEO, scope, Duration.ofHours(fromHours));
        gate(world, null);
        assertThat(world.votes().electorate().contains(World.TEO)).isEqualTo(mayVote);
        assertThat(world.votes().excluded().contains(World.TEO)).isNotEqualTo(mayVote);
    }

    /** Whoever has the ticket is to carry the change out, and does not decide about it. */
    @Test
    void whoImplementsItMayNotVote() {
        Approval.Terms terms =
                new Approval.Terms(List.of(), false, false, List.of(new Party.Computed("ticket.assignee")));
        World unassigned = gate(new World(), terms);
        assertThat(unassigned.votes().electorate()).containsExactly(World.PRIYA, World.TEO);

        World assigned = new World();
        publish(assigned, false, terms);
        Map<String, Object> fields = Map.of("title", "Gate 1 stuck open", "ci", "ALD-G1", "assignee", "teo");
        assigned.accepted(Actor.of(World.JONAS), new Command.RaiseTicket(TicketKind.INCIDENT, fields, null));
        assigned.lookDone("Close the lane");
        assertThat(assigned.votes().electorate()).containsExactly(World.PRIYA);
        assertThat(assigned.refused(Actor.of(World.TEO), assigned.vote(true, null))
                        .message())
                .contains("excludes you");
    }

    @Test
    void withEverybodyLeftOutItStallsAndSaysSo() {
        World world = gate(new World(), new Approval.Terms(List.of(), false, false, List.of(MANAGERS)));
        assertThat(world.open().stall()).isNotNull();
        assertThat(world.open().stall().code()).isEqualTo("cannot be met");
    }

    private static void hours(World world, String key, int from, int to) {
        world.put(
                new LookupKey.OfCalendar(new CalendarKey(key)),
                new WorkingCalendar(
                        new CalendarKey(key),
                        key,
                        ZoneId.of("Europe/Oslo"),
                        Map.of(
                                DayOfWeek.MONDAY,
                                List.of(new WorkingCalendar.Hours(LocalTime.of(from, 0), LocalTime.of(to, 0))),
                                DayOfWeek.TUESDAY,
                                List.of(new WorkingCalendar.Hours(LocalTime.of(from, 0), LocalTime.of(to, 0)))),
                        Set.of()));
    }

    /** Monday, 2 March 2026, 10:00 UTC is 11:00 in Oslo. */
    @ParameterizedTest
    @CsvSource({
        // The managers' own hours: 11 to 12, then on Tuesday from 8 to 9.
        "8, 12, 2026-03-03T08:00:00Z",
        // They work until 17: two hours from 11.
        "8, 17, 2026-03-02T12:00:00Z",
        // They begin at 14.
        "14, 20, 2026-03-02T15:00:00Z"
    })
    void workingTimeOfOneGroupCountsInItsOwnHours(int from, int to, Instant due) {
        World world = new World();
        world.now = Instant.parse("2026-03-02T10:00:00Z");
        hours(world, "managers", from, to);
        world.put(
                new LookupKey.OfGroup(World.MANAGERS),
                new Group(
                        World.MANAGERS, "Duty managers", List.of(World.TEO, World.PRIYA), new CalendarKey("managers")));
        gate(world, null);
        assertThat(world.votes().due()).isEqualTo(due);
    }

    @Test
    void withoutHoursOfItsOwnTheServicesOrElseTheUsualCount() {
        World world = new World();
        world.now = Instant.parse("2026-03-02T15:30:00Z");
        world.officeHours();
        gate(world, null);
        // Half an hour until 17:00 in Oslo, the rest on Tuesday from 8:00.
        assertThat(world.votes().due()).isEqualTo(Instant.parse("2026-03-03T08:30:00Z"));
    }

    private static List<Event.MessageQueued> told(World world, PersonId person) {
        return world.record.stream()
                .map(Recorded::event)
                .filter(e -> e instanceof Event.MessageQueued m && m.people().contains(person))
                .map(e -> (Event.MessageQueued) e)
                .toList();
    }

    /** A decision asked of somebody who is away is told to who acts for them, unless that one may not or has a vote. */
    @ParameterizedTest
    @CsvSource({"sem, DECISIONS, true", "sem, ALL, true", "sem, TASKS, false", "teo, ALL, false", "runa, ALL, false"})
    void whoActsForThemIsToldOfADecision(String cover, Cover.Scope scope, boolean isTold) {
        World world = new World();
        covers(world, World.PRIYA, new PersonId(cover), scope, Duration.ZERO);
        gate(world, null);
        List<Event.MessageQueued> told = told(world, new PersonId(cover)).stream()
                .filter(m -> m.subject().startsWith("For Priya Lund, who is away: "))
                .toList();
        assertThat(told).hasSize(isTold ? 1 : 0);
        assertThat(told(world, World.PRIYA)).isNotEmpty();
    }

    /** A task of a group is everybody's; only what somebody has claimed, or was asked by name, goes to their cover. */
    @Test
    void aReminderGoesToTheCoverOfWhoeverClaimedTheTask() {
        World world = new World();
        covers(world, World.RUNA, World.JONAS, Cover.Scope.TASKS, Duration.ZERO);
        world.raise();
        world.pass(Duration.ofMinutes(11));
        assertThat(told(world, World.RUNA)).isNotEmpty();
        assertThat(told(world, World.JONAS)).isEmpty();

        World claimed = new World();
        covers(claimed, World.RUNA, World.JONAS, Cover.Scope.TASKS, Duration.ZERO);
        claimed.raise();
        claimed.accepted(Actor.of(World.RUNA), new ClaimTask(claimed.open().id()));
        claimed.pass(Duration.ofMinutes(11));
        assertThat(told(claimed, World.JONAS)).singleElement().satisfies(m -> assertThat(m.subject())
                .startsWith("For Runa Feld, who is away: Reminder"));
    }
}
