package dastur.core.run;

import static org.assertj.core.api.Assertions.assertThat;

import dastur.core.people.Actor;
import dastur.core.start.TriggerFigures;
import dastur.core.workflow.ApprovalRule;
import dastur.core.workflow.Trigger;
import dastur.core.workflow.TriggerId;
import java.util.List;
import java.util.Map;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.EnumSource;

/** A trigger starts alone, asks first, is only offered, or only notes what it would have done (N30). */
class TriggerModesTest {
    private static final TriggerId CREATED = new TriggerId("created");

    private static World world(Trigger.Mode mode) {
        World world = new World();
        world.publish(
                World.gateWorkflow(new ApprovalRule.AnyOne()),
                new Trigger(CREATED, true, new Trigger.Created(null), List.of(), null, mode));
        world.raise();
        return world;
    }

    private static Event.Look look(World world) {
        return world.record.stream()
                .filter(r -> r.event() instanceof Event.TriggersLookedAt)
                .map(r -> ((Event.TriggersLookedAt) r.event()).looks().getFirst())
                .findFirst()
                .orElseThrow();
    }

    private static Decision answer(World world, boolean start) {
        return world.handle(Actor.of(World.RUNA), new Command.AnswerOffer(CREATED, start, Map.of(), "seen"));
    }

    @ParameterizedTest
    @EnumSource(Trigger.Mode.class)
    void onlyOneModeStartsByItselfAndEachSaysWhatItDid(Trigger.Mode mode) {
        World world = world(mode);
        boolean starts = mode == Trigger.Mode.STARTS;
        assertThat(world.ticket.open()).hasSize(starts ? 1 : 0);
        assertThat(look(world).started()).isEqualTo(starts);
        assertThat(look(world).mode()).isEqualTo(starts ? null : mode);
        assertThat(look(world).why()).contains("the ticket was created");
        assertThat(world.ticket.offers()).hasSize(mode == Trigger.Mode.ASKS || mode == Trigger.Mode.OFFERS ? 1 : 0);
    }

    @Test
    void whoeverHasTheServiceIsAskedAndTheAnswerStartsTheRunInTheirName() {
        World world = world(Trigger.Mode.ASKS);
        assertThat(world.ticket.offers().get("created").asked().groups()).containsExactly(World.TECHNICIANS);
        assertThat(answer(world, true)).isInstanceOf(Decision.Accepted.class);
        assertThat(world.ticket.offers()).isEmpty();
        assertThat(world.record.stream().filter(r -> r.event() instanceof Event.RunStarted))
                .singleElement()
                .satisfies(r -> {
                    assertThat(r.actor()).isEqualTo(Actor.of(World.RUNA));
                    assertThat(((Event.RunStarted) r.event()).trigger()).isEqualTo(CREATED);
                });
    }

    @Test
    void aNoIsOnTheRecordWithItsReasonAndTheSecondAnswerComesTooLate() {
        World world = world(Trigger.Mode.OFFERS);
        assertThat(world.ticket.offers().get("created").asked().nobody()).isTrue();
        answer(world, false);
        assertThat(world.ticket.open()).isEmpty();
        assertThat(world.record.getLast().event()).isInstanceOfSatisfying(Event.StartAnswered.class, e -> {
            assertThat(e.starts()).isFalse();
            assertThat(e.reason()).isEqualTo("seen");
        });
        assertThat(answer(world, true)).isInstanceOfSatisfying(Decision.Refused.class, r -> assertThat(
                        r.refusal().code())
                .isEqualTo(Refusal.Code.TOO_LATE));
    }

    @Test
    void aProposalIsMadeOnceAndGoesWithTheTicket() {
        World world = new World();
        world.publish(
                World.gateWorkflow(new ApprovalRule.AnyOne()),
                new Trigger(
                        CREATED,
                        true,
                        new Trigger.FieldReaches(null, "impact", "1"),
                        List.of(),
                        null,
                        Trigger.Mode.ASKS));
        world.raise();
        for (long impact : new long[] {1, 2, 1}) {
            world.handle(Actor.of(World.RUNA), new Command.EditTicket(Map.of("impact", impact), null));
        }
        assertThat(world.record.stream().filter(r -> r.event() instanceof Event.StartOffered))
                .hasSize(1);
        world.handle(
                Actor.of(World.RUNA),
                new Command.EditTicket(Map.of("state", "cancelled", "answer", "not needed"), null));
        assertThat(world.ticket.offers()).isEmpty();
    }

    @Test
    void aTriggerThatGivesWayStartsNothingBehindOneThatHasStartedAndSaysSo() {
        World world = new World();
        Trigger first =
                new Trigger(CREATED, true, new Trigger.Created(null), List.of(), null, Trigger.Mode.STARTS, null, true);
        Trigger second = new Trigger(
                new TriggerId("second"), true, new Trigger.Created(null), List.of(), null, Trigger.Mode.STARTS, true);
        world.publish(World.gateWorkflow(new ApprovalRule.AnyOne()), first, second);
        world.raise();
        assertThat(world.ticket.open()).hasSize(1);
        List<Event.Look> looks = world.record.stream()
                .filter(r -> r.event() instanceof Event.TriggersLookedAt)
                .flatMap(r -> ((Event.TriggersLookedAt) r.event()).looks().stream())
                .toList();
        assertThat(looks).extracting(Event.Look::started).containsExactly(true, false);
        assertThat(looks.get(1).why()).contains("gives way").contains("Gate lane stuck open");
        assertThat(TriggerFigures.of(List.of(
                        new Event.TriggersLookedAt(2, List.of(CREATED), looks),
                        new Event.TriggersLookedAt(2, List.of(), null),
                        new Event.TriggersLookedAt(2, List.of(CREATED), looks))))
                .containsExactly(
                        new TriggerFigures(CREATED, 2, 2, List.of()),
                        new TriggerFigures(
                                new TriggerId("second"), 2, 0, List.of(new TriggerFigures.Earlier(CREATED, 2))));

        World other = new World();
        other.publish(World.gateWorkflow(new ApprovalRule.AnyOne()), second, first);
        other.raise();
        assertThat(other.ticket.open()).hasSize(2);
    }
}
