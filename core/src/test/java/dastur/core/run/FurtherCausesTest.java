package dastur.core.run;

import static org.assertj.core.api.Assertions.assertThat;

import dastur.core.people.Actor;
import dastur.core.signal.Aside;
import dastur.core.signal.Severity;
import dastur.core.signal.Sort;
import dastur.core.signal.SourceKey;
import dastur.core.signal.Turn;
import dastur.core.step.approval.ApprovalCommands.Vote;
import dastur.core.step.approval.Votes;
import dastur.core.ticket.CiId;
import dastur.core.ticket.Promised;
import dastur.core.ticket.Service;
import dastur.core.ticket.TicketKind;
import dastur.core.time.Span;
import dastur.core.workflow.Trigger;
import java.time.Duration;
import java.time.Instant;
import java.util.List;
import java.util.Map;
import java.util.TreeMap;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;
import org.junit.jupiter.params.provider.EnumSource;

/** What happens to a ticket that no field of it shows: a vote ends, a clock runs, a signal is entered (I12). */
class FurtherCausesTest {
    private static final Actor RUNA = Actor.of(World.RUNA);
    private static final SourceKey GATES = new SourceKey("gate-monitor");
    private static final String NOTHING_MORE = "end: done \"x\"\n";

    private final World world = new World();

    @BeforeEach
    void promise() {
        promises("4 h");
        world.put(new LookupKey.LiveTriggers(), new Lookups.TriggerList(List.of()));
    }

    @AfterEach
    void theCaseIsTheFoldOfItsRecord() {
        assertThat(dastur.core.json.Json.write(Engine.fold(World.TICKET, world.record)))
                .isEqualTo(dastur.core.json.Json.write(world.ticket));
    }

    private void promises(String restore) {
        world.promises(Map.of(
                "P1", new Service.Promise(null, Span.parse("1 h")),
                "P2", new Service.Promise(null, Span.parse(restore))));
    }

    private void publish(String key, String steps, Trigger.When when) {
        world.publishAlso(key, "incident", steps, when);
    }

    private List<String> started() {
        return world.record.stream()
                .filter(r -> r.event() instanceof Event.RunStarted)
                .map(r -> ((Event.RunStarted) r.event()).workflow().value())
                .toList();
    }

    private String why() {
        return world.record.stream()
                .filter(r -> r.event() instanceof Event.TriggersLookedAt)
                .map(r -> ((Event.TriggersLookedAt) r.event()).looks().getLast().why())
                .reduce((a, b) -> b)
                .orElse("");
    }

    private TreeMap<Integer, Instant> ahead() {
        Target.Marks marks = world.ticket.targets().get(Promised.RESTORE).marks();
        return marks == null ? new TreeMap<>() : marks.ahead();
    }

    private static Trigger.ClockReaches restoreAt(int percent) {
        return new Trigger.ClockReaches(null, Promised.RESTORE, percent);
    }

    // --- votes

    private static final String ASKS =
            "look: approve \"May it be done?\" by any one of group managers\n  approved -> yes\n  declined -> no\n"
                    + "yes: done \"Yes\"\nno: done \"No\"\n";

    @ParameterizedTest
    @CsvSource({"true, approved, follows", "false, declined, follows", "true, declined, nothing"})
    void theEndOfAVoteStartsWhatListensToIt(boolean yes, String listens, String comes) {
        publish("asking", ASKS, new Trigger.Created(null));
        publish("following", NOTHING_MORE, new Trigger.ApprovalEnds(null, listens));
        world.raise();
        vote(yes);
        assertThat(started().contains("following")).isEqualTo(comes.equals("follows"));
        if (comes.equals("follows")) {
            assertThat(why()).isEqualTo("an approval ended as " + listens);
        }
    }

    private void vote(boolean yes) {
        Visit visit = world.open();
        Votes votes = (Votes) visit.waiting();
        world.accepted(
                Actor.of(World.TEO), new Vote(visit.id(), votes.round(), votes.digest(), yes, yes ? null : "No."));
    }

    @Test
    void aVoteOfItsOwnRunSetsNoWorkflowOff() {
        publish("asking", ASKS, new Trigger.ApprovalEnds(null, "approved"));
        publish("first", ASKS, new Trigger.Created(null));
        world.raise();
        vote(true);
        assertThat(started()).containsExactly("first", "asking");
        vote(true);
        assertThat(started()).hasSize(2);
        assertThat(why()).isEqualTo("the change was made by a run of this same workflow");
    }

    // --- clocks

    @Test
    void aClockStartsOnceWhatListensToAPartOfIt() {
        publish("hurry", NOTHING_MORE, restoreAt(75));
        Instant raised = world.now;
        world.raise();
        assertThat(ahead()).isEqualTo(new TreeMap<>(Map.of(75, raised.plus(Duration.ofHours(3)))));
        assertThat(Engine.nextAlarm(world.ticket, raised)).contains(raised.plus(Duration.ofHours(3)));
        world.pass(Duration.ofMinutes(179));
        assertThat(started()).isEmpty();
        world.pass(Duration.ofMinutes(1));
        assertThat(started()).containsExactly("hurry");
        assertThat(why()).isEqualTo("75 % of the time to restore had passed");
        world.pass(Duration.ofDays(1));
        assertThat(started()).hasSize(1);
    }

    @Test
    void whatWasWaitedDoesNotCount() {
        publish("hurry", NOTHING_MORE, restoreAt(50));
        world.raise();
        edit("state", "diagnosing");
        world.pass(Duration.ofHours(1));
        edit("state", "waiting");
        assertThat(ahead()).isEmpty();
        world.pass(Duration.ofDays(2));
        assertThat(started()).isEmpty();
        edit("state", "diagnosing");
        assertThat(ahead()).containsValue(world.now.plus(Duration.ofHours(1)));
        world.pass(Duration.ofHours(1));
        assertThat(started()).containsExactly("hurry");
    }

    /** A graver priority makes the time shorter, and the part that is listened to is over already: at once, but only once. */
    @Test
    void aShorterTimeMayHavePassedItAlready() {
        publish("hurry", NOTHING_MORE, restoreAt(50));
        world.raise();
        world.pass(Duration.ofMinutes(45));
        world.accepted(RUNA, new Command.EditTicket(Map.of("impact", 1L, "urgency", 1L), null));
        assertThat(ahead()).isEqualTo(new TreeMap<>(Map.of(50, world.now)));
        world.pass(Duration.ZERO);
        assertThat(started()).containsExactly("hurry");
        world.accepted(RUNA, new Command.EditTicket(Map.of("impact", 2L, "urgency", 2L), null));
        world.pass(Duration.ofDays(1));
        assertThat(started()).hasSize(1);
    }

    @Test
    void whatIsRestoredInTimeStartsNothing() {
        publish("hurry", NOTHING_MORE, restoreAt(50));
        world.raise();
        edit("state", "restored");
        world.pass(Duration.ofDays(1));
        assertThat(started()).isEmpty();
        assertThat(Engine.nextAlarm(world.ticket, world.now)).isEmpty();
    }

    /** A trigger that is made while a ticket is open counts for it from the next that happens to it. */
    @Test
    void whatIsListenedToLaterCountsFromTheNextChange() {
        world.raise();
        publish("hurry", NOTHING_MORE, restoreAt(100));
        assertThat(ahead()).isEmpty();
        world.accepted(RUNA, new Command.AddNote("Looking.", false));
        assertThat(ahead()).containsOnlyKeys(100);
        long entries = world.record.size();
        world.accepted(RUNA, new Command.AddNote("Still looking.", false));
        assertThat(world.record).hasSize((int) entries + 1);
        world.pass(Duration.ofHours(4));
        assertThat(started()).containsExactly("hurry");
    }

    @Test
    void inWorkingTimeAPartIsCountedInWorkingTime() {
        world.officeHours();
        promises("8 working h");
        publish("hurry", NOTHING_MORE, restoreAt(75));
        // Monday, eleven in the morning in Oslo: six hours are left today.
        world.raise();
        assertThat(ahead()).containsValue(world.now.plus(Duration.ofHours(6)));
    }

    // --- signals

    private void hear(Turn turn, boolean noted, boolean proved) {
        Event.SignalsHeard heard = new Event.SignalsHeard(
                GATES,
                turn,
                1,
                world.now,
                world.now,
                "s" + world.record.size(),
                Severity.MINOR,
                new CiId("ALD-G1"),
                noted ? Aside.Because.PLANNED_WORK : null,
                "ald-g1/stuck",
                "Gate 1 is stuck",
                null,
                null,
                null);
        world.accepted(new Actor.Outside(GATES.value()), new Command.HearSignals(heard, List.of(), List.of(), proved));
    }

    @ParameterizedTest
    @EnumSource(Turn.class)
    void onlyATurnThatIsListenedToStarts(Turn turn) {
        publish("faults", NOTHING_MORE, new Trigger.SignalEntered(null, GATES, Sort.FAULT));
        publish("recoveries", NOTHING_MORE, new Trigger.SignalEntered(null, null, Sort.RECOVERED));
        publish("news", NOTHING_MORE, new Trigger.SignalEntered(TicketKind.INCIDENT, null, Sort.NEWS));
        publish("others", NOTHING_MORE, new Trigger.SignalEntered(null, new SourceKey("other"), Sort.FAULT));
        publish("changes", NOTHING_MORE, new Trigger.SignalEntered(TicketKind.CHANGE, null, Sort.FAULT));
        world.raise();
        hear(turn, turn != Turn.NEWS, true);
        assertThat(started())
                .isEqualTo(
                        switch (turn) {
                            case BEGINS, WORSE -> List.of("faults");
                            case RECOVERED -> List.of("recoveries");
                            case NEWS -> List.of("news");
                            case REPEATS, STILL, NOTHING, OUT_OF_ORDER, UNSTEADY -> List.of();
                        });
    }

    @Test
    void whatShowsNotWhoItIsIsAskedAbout() {
        publish("faults", NOTHING_MORE, new Trigger.SignalEntered(null, null, Sort.FAULT));
        world.raise();
        hear(Turn.BEGINS, true, false);
        assertThat(started()).isEmpty();
        assertThat(world.ticket.offers()).containsOnlyKeys("of-faults");
    }

    private void edit(String field, Object value) {
        world.accepted(RUNA, new Command.EditTicket(Map.of(field, value), null));
    }
}
