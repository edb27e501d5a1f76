package dastur.core.run;

import static org.assertj.core.api.Assertions.assertThat;

import dastur.core.partner.PartnerKey;
import dastur.core.people.Actor;
import dastur.core.run.Command.JoinPartner;
import dastur.core.run.Command.TakeOver;
import dastur.core.run.Command.Taken;
import dastur.core.ticket.TicketKind;
import dastur.core.workflow.Trigger;
import java.util.List;
import java.util.Map;
import org.junit.jupiter.api.Test;

/** One of a partner's tickets that was open before the desks were joined: taken over, and nobody is disturbed (I15). */
class TakenOverTest {
    private static final PartnerKey SUPPLIER = new PartnerKey("supplier");
    private static final Actor THEY = new Actor.Outside("supplier");
    private static final Actor RUNA = Actor.of(World.RUNA);

    private final World world = new World();

    private static TakeOver takeOver(Map<String, Taken> takes, Map<String, String> unknown) {
        return new TakeOver(
                new JoinPartner(SUPPLIER, "F-1", null, true),
                Map.of("title", "Hinge worn", "group", "technicians"),
                takes,
                unknown);
    }

    private <T extends Event> List<T> entered(Class<T> kind) {
        return world.record.stream()
                .map(Recorded::event)
                .filter(kind::isInstance)
                .map(kind::cast)
                .toList();
    }

    @Test
    void itSaysWhatTheySayAndIsFollowedThere() {
        world.accepted(
                THEY,
                takeOver(Map.of("impact", new Taken("A", 1L), "state", new Taken("looking", "diagnosing")), Map.of()));

        assertThat(world.ticket.fields())
                .containsEntry("title", "Hinge worn")
                .containsEntry("impact", 1L)
                .containsEntry("priority", "P2")
                .containsEntry("state", "diagnosing");
        AtPartner at = world.ticket.partners().get("supplier");
        assertThat(at.id()).isEqualTo("F-1");
        assertThat(at.theirs()).isTrue();
        assertThat(at.over()).isFalse();
        assertThat(at.differences()).isEmpty();
    }

    @Test
    void noTriggerLooksAtItAndTheNextChangeIsLookedAtAsEver() {
        String steps = "end: done \"x\"\n";
        world.publishAlso("raised", "incident", steps, new Trigger.Created(TicketKind.INCIDENT));
        world.publishAlso(
                "diagnosed", "incident", steps, new Trigger.FieldReaches(TicketKind.INCIDENT, "state", "diagnosing"));

        world.accepted(THEY, takeOver(Map.of("state", new Taken("looking", "diagnosing")), Map.of()));
        assertThat(entered(Event.RunStarted.class)).isEmpty();
        assertThat(entered(Event.TriggersLookedAt.class)).isEmpty();

        world.accepted(RUNA, new Command.EditTicket(Map.of("state", "waiting"), null));
        world.accepted(RUNA, new Command.EditTicket(Map.of("state", "diagnosing"), null));
        assertThat(entered(Event.RunStarted.class)).hasSize(1);
    }

    @Test
    void whatMeansNothingHereOrIsRefusedStandsOnItAndNobodyIsTold() {
        world.accepted(THEY, takeOver(Map.of("impact", new Taken("Z", 99L)), Map.of("state", "on the bench")));

        AtPartner at = world.ticket.partners().get("supplier");
        assertThat(at.differences()).containsOnlyKeys("impact", "state");
        assertThat(at.differences().get("state").ours()).isEqualTo("logged");
        assertThat(at.differences().get("state").why()).isEqualTo("Their word 'on the bench' means nothing here.");
        assertThat(at.differences().get("impact").ours()).isEqualTo("3");
        assertThat(entered(Event.MessageQueued.class)).isEmpty();

        // What the next comparison asks in the same words was asked already.
        long seq = world.ticket.seq();
        world.accepted(
                THEY,
                new Command.HearPartner(
                        SUPPLIER,
                        Map.of("impact", new Taken("Z", 99L)),
                        List.of(new Command.Disagreement(
                                "state",
                                "logged",
                                "on the bench",
                                null,
                                "Their word 'on the bench' means nothing here."))));
        assertThat(world.ticket.seq()).isEqualTo(seq);
    }

    @Test
    void onlyTheApplicationTakesOverAndNothingIsHalfDone() {
        assertThat(world.refused(RUNA, takeOver(Map.of(), Map.of())).code()).isEqualTo(Refusal.Code.NOT_YOURS);
        TakeOver untitled = new TakeOver(new JoinPartner(SUPPLIER, "F-1", null, true), Map.of(), Map.of(), Map.of());
        assertThat(world.refused(THEY, untitled).where()).isEqualTo("title");
        assertThat(world.ticket.exists()).isFalse();
        assertThat(world.record).isEmpty();
    }
}
