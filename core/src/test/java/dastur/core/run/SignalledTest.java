package dastur.core.run;

import static org.assertj.core.api.Assertions.assertThat;

import dastur.core.people.Actor;
import dastur.core.signal.Matter;
import dastur.core.signal.Severity;
import dastur.core.signal.Sort;
import dastur.core.signal.SourceKey;
import dastur.core.signal.Turn;
import dastur.core.ticket.CiId;
import dastur.core.ticket.TicketKind;
import dastur.core.workflow.ApprovalRule;
import dastur.core.workflow.Trigger;
import dastur.core.workflow.TriggerId;
import java.time.Duration;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import org.jspecify.annotations.Nullable;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;

/** What signals do to a ticket: they open, join, take up again, raise its priority and restore it, and never more (I5, I20, I24, I25). */
class SignalledTest {
    private static final SourceKey GATES = new SourceKey("gates");
    private static final Actor MONITOR = new Actor.Outside("gates");
    private static final Actor RUNA = Actor.of(World.RUNA);
    private static final TriggerId BY_SIGNAL = new TriggerId("gate-signal");
    private static final Matter.Recovery RESTORES = new Matter.Recovery(true, 60, true);

    private final World world = new World();
    private Trigger.Live live;

    private Event.SignalsHeard heard(Turn turn, Severity severity) {
        return new Event.SignalsHeard(
                GATES,
                turn,
                1,
                world.now,
                world.now,
                "s1",
                severity,
                new CiId("ALD-G1"),
                null,
                "ald-g1/stuck",
                "Gate 1 is stuck",
                null,
                null,
                Map.of());
    }

    private Event.Look look() {
        return new Event.Look(BY_SIGNAL, World.GATE, "Gate lane stuck open", true, null, "a signal came", null);
    }

    private Decision raise(Map<String, Object> more) {
        world.publish(
                World.gateWorkflow(new ApprovalRule.AnyOne()),
                new Trigger(
                        BY_SIGNAL,
                        true,
                        new Trigger.SignalComes(null, GATES, Sort.FAULT, null, RESTORES),
                        List.of(),
                        null));
        live = world.lookups().liveTriggers().getFirst();
        Map<String, Object> fields =
                new HashMap<>(Map.of("title", "Gate 1 is stuck", "ci", "ALD-G1", "impact", 3L, "urgency", 3L));
        fields.putAll(more);
        return world.handle(
                MONITOR,
                new Command.RaiseBySignal(
                        TicketKind.INCIDENT,
                        fields,
                        heard(Turn.BEGINS, Severity.MINOR),
                        List.of(look()),
                        List.of(live),
                        true));
    }

    private Decision hear(Turn turn, Severity severity) {
        return world.handle(
                MONITOR, new Command.HearSignals(heard(turn, severity), List.of(look()), List.of(live), true));
    }

    private long runs() {
        return world.record.stream()
                .filter(r -> r.event() instanceof Event.RunStarted)
                .count();
    }

    @Test
    void itOpensATicketSaysWhatWasHeardAndStartsWhatTookItUp() {
        assertThat(raise(Map.of())).isInstanceOf(Decision.Accepted.class);
        assertThat(world.record)
                .extracting(r -> r.event().getClass().getSimpleName())
                .containsSubsequence("TicketRaised", "SignalsHeard", "TriggersLookedAt", "RunStarted");
        assertThat(world.record.getFirst().actor()).isEqualTo(MONITOR);
        assertThat(runs()).isEqualTo(1);
    }

    /** I2: neither the trigger on the signal nor one on what it made of the ticket starts by itself. */
    @Test
    void whatShowsNotWhoItIsStartsNothingByItself() {
        World other = new World();
        Trigger.SignalComes when = new Trigger.SignalComes(null, GATES, Sort.FAULT, null, RESTORES);
        other.publish(
                World.gateWorkflow(new ApprovalRule.AnyOne()),
                new Trigger(BY_SIGNAL, true, when, List.of(), null),
                new Trigger(new TriggerId("raised"), true, new Trigger.Created(TicketKind.INCIDENT), List.of(), null));
        Trigger.Live asking = other.lookups().liveTriggers().getFirst().asking();
        other.handle(
                MONITOR,
                new Command.RaiseBySignal(
                        TicketKind.INCIDENT,
                        Map.of("title", "Gate 1 is stuck", "ci", "ALD-G1"),
                        heard(Turn.BEGINS, Severity.MINOR),
                        List.of(look()),
                        List.of(asking),
                        false));
        assertThat(other.ticket.open()).isEmpty();
        assertThat(other.ticket.offers()).containsKeys(BY_SIGNAL.value(), "raised");
    }

    @Test
    void whatItMakesOfATicketLaterStartsNothingByItselfEither() {
        World other = new World();
        other.publish(
                World.gateWorkflow(new ApprovalRule.AnyOne()),
                new Trigger(
                        new TriggerId("graver"),
                        true,
                        new Trigger.FieldReaches(null, "urgency", "1"),
                        List.of(),
                        null));
        Map<String, Object> fields = Map.of("title", "Gate 1 is stuck", "ci", "ALD-G1", "impact", 3L, "urgency", 3L);
        Event.SignalsHeard begins = heard(Turn.BEGINS, Severity.MINOR);
        other.handle(
                MONITOR, new Command.RaiseBySignal(TicketKind.INCIDENT, fields, begins, List.of(), List.of(), false));
        other.handle(
                MONITOR, new Command.HearSignals(heard(Turn.WORSE, Severity.CRITICAL), List.of(), List.of(), false));
        assertThat(other.ticket.fields()).containsEntry("urgency", 1L);
        assertThat(other.ticket.open()).isEmpty();
        assertThat(other.ticket.offers()).containsOnlyKeys("graver");
    }

    /** I27: what comes from outside starts only so much; more stands together before people, and nothing is lost. */
    @ParameterizedTest
    @CsvSource({
        "9, 59, 299, starts",
        "10, 10, 10, 'it has started 10 runs within a minute'",
        "0, 60, 60, 'it has started 60 runs within an hour'",
        "0, 0, 300, 'triggers have started 300 runs within a minute'"
    })
    void whatStartsTooOftenIsHeldBack(long minute, long hour, long all, String comes) {
        world.put(new LookupKey.RecentStarts(BY_SIGNAL, world.now), new Lookups.RecentStarts(minute, hour, all));
        raise(Map.of());
        boolean starts = comes.equals("starts");
        assertThat(runs()).isEqualTo(starts ? 1 : 0);
        assertThat(held()).isEqualTo(starts ? List.of() : List.of("h:" + BY_SIGNAL));
        if (starts) {
            return;
        }
        assertThat(looks().getLast().why()).isEqualTo(comes + ", so that it is held back until somebody starts it");
        world.accepted(RUNA, new Command.AnswerOffer(BY_SIGNAL, true, Map.of(), null));
        assertThat(runs()).isEqualTo(1);
        assertThat(held()).isEmpty();
    }

    /** I27: whoever owns the workflow is told, once an hour as long as it goes on; the first time is the first. */
    @ParameterizedTest
    @CsvSource(
            nullValues = "-",
            value = {"-, 1", "61, 1", "59, 0"})
    void theOwnerIsToldOnceAnHourThatStartsAreHeldBack(@Nullable Integer minutesAgo, int times) {
        if (minutesAgo != null) {
            world.put(new LookupKey.HeldBackTold(BY_SIGNAL), world.now.minus(Duration.ofMinutes(minutesAgo)));
        }
        world.put(new LookupKey.RecentStarts(BY_SIGNAL, world.now), new Lookups.RecentStarts(10, 10, 10));
        raise(Map.of());
        List<Event.MessageQueued> told = world.record.stream()
                .map(Recorded::event)
                .filter(Event.MessageQueued.class::isInstance)
                .map(Event.MessageQueued.class::cast)
                .filter(m -> m.purpose().equals("keeper"))
                .toList();
        assertThat(told).hasSize(times);
        told.forEach(m -> {
            assertThat(m.people()).containsExactly(World.TEO);
            assertThat(m.subject()).startsWith("Starts of '").endsWith("' are held back");
            assertThat(m.text()).contains("it has started 10 runs within a minute", "I-1");
            assertThat(m.about()).isEqualTo(new LookupKey.HeldBackTold(BY_SIGNAL).about());
        });
    }

    @Test
    void whatIsHeldBackStandsThereOnceAndEndsWithTheTicket() {
        world.put(new LookupKey.RecentStarts(BY_SIGNAL, world.now), new Lookups.RecentStarts(10, 10, 10));
        raise(Map.of());
        hear(Turn.WORSE, Severity.MAJOR);
        assertThat(held()).hasSize(1);
        assertThat(looks().getLast().why()).isEqualTo("it is held back already");
        // Once the storm is over it does not start beside what a person has not answered yet.
        world.pass(Duration.ofMinutes(5));
        hear(Turn.WORSE, Severity.CRITICAL);
        assertThat(runs()).isZero();
        assertThat(held()).hasSize(1);
        world.accepted(RUNA, new Command.EditTicket(Map.of("state", "cancelled"), "By mistake."));
        assertThat(held()).isEmpty();
    }

    private List<Event.Look> looks() {
        return world.record.stream()
                .filter(r -> r.event() instanceof Event.TriggersLookedAt)
                .flatMap(r -> ((Event.TriggersLookedAt) r.event()).looks().stream())
                .toList();
    }

    /** Before whom starts are held back. */
    private List<String> held() {
        List<String> held = new ArrayList<>();
        Standing.changes(Case.none(World.TICKET), world.ticket, new Standing.Changes() {
            @Override
            public void run(Standing.@Nullable RunLine before, Standing.@Nullable RunLine after) {}

            @Override
            public void item(Standing.@Nullable Item before, Standing.@Nullable Item after) {
                if (after != null && after.kind().equals(Standing.HELD_BACK)) {
                    held.addAll(after.who());
                }
            }

            @Override
            public void wait(Standing.@Nullable Wait before, Standing.@Nullable Wait after) {}

            @Override
            public void call(Standing.@Nullable Call before, Standing.@Nullable Call after) {}
        });
        return held;
    }

    @Test
    void furtherTriggersThatHoldStartOnTheSameTicket() {
        World both = new World();
        Trigger.SignalComes when = new Trigger.SignalComes(null, GATES, Sort.FAULT, null, RESTORES);
        both.publish(
                World.gateWorkflow(new ApprovalRule.AnyOne()),
                new Trigger(BY_SIGNAL, true, when, List.of(), null),
                new Trigger(new TriggerId("second"), true, when, List.of(), null, Trigger.Mode.STARTS, null, true));
        List<Trigger.Live> all = both.lookups().liveTriggers();
        List<Event.Look> looks = all.stream()
                .map(l -> new Event.Look(l.trigger().id(), l.workflow(), l.name(), true, null, "a signal came", null))
                .toList();
        both.handle(
                MONITOR,
                new Command.RaiseBySignal(
                        TicketKind.INCIDENT,
                        Map.of("title", "Gate 1 is stuck"),
                        heard(Turn.BEGINS, Severity.MINOR),
                        looks,
                        all,
                        true));
        assertThat(both.ticket.open()).hasSize(2);
    }

    @Test
    void whatARaiseWouldRefuseIsRefusedAndNothingIsWritten() {
        assertThat(raise(Map.of("group", "nobody"))).isInstanceOf(Decision.Refused.class);
        assertThat(world.record).isEmpty();
    }

    @Test
    void aSecondTurnStartsNoSecondRunWhileOneIsUnderWay() {
        raise(Map.of());
        hear(Turn.WORSE, Severity.MAJOR);
        assertThat(runs()).isEqualTo(1);
        Event.TriggersLookedAt last = world.record.stream()
                .map(Recorded::event)
                .filter(Event.TriggersLookedAt.class::isInstance)
                .map(Event.TriggersLookedAt.class::cast)
                .filter(e -> e.looks().stream().anyMatch(l -> l.trigger().equals(BY_SIGNAL)))
                .toList()
                .getLast();
        assertThat(last.started()).isEmpty();
        assertThat(last.looks().getFirst().why()).contains("under way here already");
    }

    @Test
    void worseRaisesThePriorityAndBetterNeverLowersIt() {
        raise(Map.of());
        hear(Turn.WORSE, Severity.CRITICAL);
        assertThat(world.ticket.fields()).containsEntry("impact", 2L).containsEntry("urgency", 1L);
        hear(Turn.WORSE, Severity.WARNING);
        assertThat(world.ticket.fields()).containsEntry("impact", 2L).containsEntry("urgency", 1L);
    }

    @Test
    void aPriorityThatSomebodyChoseStays() {
        raise(Map.of());
        world.handle(Actor.of(World.RUNA), new Command.EditTicket(Map.of("priority", "P1"), "The mayor is here."));
        hear(Turn.WORSE, Severity.CRITICAL);
        assertThat(world.ticket.fields()).containsEntry("priority", "P1").containsEntry("impact", 3L);
    }

    @Test
    void whatComesBackIsTakenUpAgain() {
        raise(Map.of());
        world.handle(Actor.of(World.RUNA), new Command.EditTicket(Map.of("state", "restored"), null));
        hear(Turn.BEGINS, Severity.MINOR);
        assertThat(world.ticket.state()).isEqualTo("diagnosing");
    }

    @Test
    void anEndedTicketHearsNothingMore() {
        raise(Map.of());
        world.handle(Actor.of(World.RUNA), new Command.EditTicket(Map.of("state", "cancelled"), "A test."));
        int entries = world.record.size();
        assertThat(hear(Turn.BEGINS, Severity.MINOR)).isInstanceOf(Decision.Refused.class);
        assertThat(world.record).hasSize(entries);
    }

    @Test
    void aRecoveryRestoresAndStopsWhatSignalsStarted() {
        raise(Map.of());
        assertThat(world.handle(Actor.SYSTEM, new Command.Recover(RESTORES, world.now)))
                .isInstanceOf(Decision.Accepted.class);
        assertThat(world.ticket.state()).isEqualTo("restored");
        assertThat(world.ticket.open()).isEmpty();
        assertThat(world.handle(Actor.SYSTEM, new Command.Recover(RESTORES, world.now)))
                .isInstanceOf(Decision.Refused.class);
    }

    @Test
    void whatAPersonLooksIntoIsOnlyProposedToBeRestored() {
        raise(Map.of());
        world.handle(Actor.of(World.RUNA), new Command.EditTicket(Map.of("assignee", "runa"), null));
        world.handle(Actor.SYSTEM, new Command.Recover(RESTORES, world.now));
        assertThat(world.ticket.state()).isEqualTo("logged");
        assertThat(world.ticket.open()).hasSize(1);
        assertThat(world.record.getLast().event()).isEqualTo(new Event.RecoveryHeard(world.now, false));
    }

    @Test
    void aRecoveryThatOnlyProposesLeavesRunsAndStateAlone() {
        raise(Map.of());
        world.handle(Actor.SYSTEM, new Command.Recover(Matter.Recovery.USUAL, world.now));
        assertThat(world.ticket.state()).isEqualTo("logged");
        assertThat(world.ticket.open()).hasSize(1);
    }

    @Test
    void nobodySaysInPersonWhatASourceSays() {
        raise(Map.of());
        assertThat(world.handle(
                        Actor.of(World.RUNA),
                        new Command.HearSignals(heard(Turn.BEGINS, null), List.of(), List.of(), true)))
                .isInstanceOf(Decision.Refused.class);
        assertThat(world.handle(Actor.of(World.RUNA), new Command.Recover(RESTORES, world.now)))
                .isInstanceOf(Decision.Refused.class);
    }
}
