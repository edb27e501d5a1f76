package dastur.core.run;

import static org.assertj.core.api.Assertions.assertThat;

import dastur.core.partner.PartnerKey;
import dastur.core.people.Actor;
import dastur.core.run.Command.Disagreement;
import dastur.core.run.Command.Taken;
import dastur.core.run.Event.DifferenceSettled;
import dastur.core.run.Event.DifferenceSettled.Way;
import dastur.core.ticket.TicketKind;
import java.util.List;
import java.util.Map;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;

/** A ticket that is followed at a partner's desk: what they change, and what people say of it (I16). */
class AtPartnersTest {
    private static final PartnerKey SUPPLIER = new PartnerKey("supplier");
    private static final Actor THEY = new Actor.Outside("supplier");
    private static final Actor RUNA = Actor.of(World.RUNA);

    private final World world = new World();

    @BeforeEach
    void raise() {
        world.accepted(
                RUNA,
                new Command.RaiseTicket(
                        TicketKind.INCIDENT,
                        Map.of("title", "Hinge worn", "impact", 3L, "urgency", 3L, "group", "technicians"),
                        null));
        world.accepted(THEY, new Command.JoinPartner(SUPPLIER, "F-1", null, false));
    }

    /** What the record folds to is what was decided on. */
    @AfterEach
    void folded() {
        Case folded = Case.none(World.TICKET);
        for (Recorded r : world.record) {
            folded = Fold.apply(folded, r);
        }
        assertThat(folded).isEqualTo(world.ticket);
    }

    private AtPartner at() {
        return world.ticket.partners().get("supplier");
    }

    private static Disagreement impact(String word, Object theirs) {
        return new Disagreement("impact", "3", word, theirs, "Both have said something of it.");
    }

    private void hear(Map<String, Taken> takes, Disagreement... differences) {
        world.accepted(THEY, new Command.HearPartner(SUPPLIER, takes, List.of(differences)));
    }

    private Command settles(boolean theirs, String word) {
        return new Command.SettleDifference(SUPPLIER, "impact", theirs, "3", word, null);
    }

    @Test
    void whatTheyChangeIsTakenAndTheSameAgainChangesNothing() {
        hear(Map.of("impact", new Taken("A", 1L)));
        assertThat(world.ticket.fields()).containsEntry("impact", 1L).containsEntry("priority", "P2");
        long seq = world.ticket.seq();
        hear(Map.of("impact", new Taken("A", 1L)));
        assertThat(world.ticket.seq()).isEqualTo(seq);
    }

    @Test
    void whatOurRulesRefuseIsAskedOnceAndTheRestIsTaken() {
        Map<String, Taken> takes = Map.of("state", new Taken("odd", "done"), "impact", new Taken("A", 1L));
        hear(takes);
        assertThat(world.ticket.fields()).containsEntry("impact", 1L).containsEntry("state", "logged");
        assertThat(at().differences()).containsOnlyKeys("state");
        assertThat(at().differences().get("state").why()).contains("cannot become 'done'");
        long seq = world.ticket.seq();
        hear(takes);
        assertThat(world.ticket.seq()).isEqualTo(seq);
    }

    /** What comes together is one change: closing asks for what came with it. */
    @Test
    void whatComesTogetherIsTakenTogether() {
        long seq = world.ticket.seq();
        hear(Map.of(
                "state", new Taken("shut", "closed"),
                "cause", new Taken("worn", "worn"),
                "done", new Taken("new", "new"),
                "answer", new Taken("ok", "ok")));
        assertThat(world.ticket.state()).isEqualTo("closed");
        assertThat(at().differences()).isEmpty();
        assertThat(world.record.stream().filter(r -> r.seq() > seq && r.event() instanceof Event.TicketChanged))
                .hasSize(1);
    }

    @Test
    void aDifferenceStandsBeforeWhoeverHasTheTicketUntilItIsSettled() {
        hear(Map.of(), impact("A", 1L));
        assertThat(world.items())
                .singleElement()
                .satisfies(i -> assertThat(i.id()).isEqualTo("I-1/supplier/impact"))
                .satisfies(i -> assertThat(i.who()).containsExactly("g:technicians"));
        assertThat(world.record.stream().map(Recorded::event).filter(Event.MessageQueued.class::isInstance))
                .hasSize(1);
        world.accepted(RUNA, settles(true, "A"));
        assertThat(world.ticket.fields()).containsEntry("impact", 1L);
        assertThat(world.items()).isEmpty();
        assertThat(world.refused(Actor.of(World.SEM), settles(false, "A")).code())
                .isEqualTo(Refusal.Code.TOO_LATE);
    }

    @Test
    void whatWasShownMustStillBeSo() {
        hear(Map.of(), impact("A", 1L));
        hear(Map.of(), impact("B", 2L));
        assertThat(at().differences().get("impact").word()).isEqualTo("B");
        assertThat(world.refused(RUNA, settles(true, "A")).message()).contains("they say B");
        assertThat(world.ticket.fields()).containsEntry("impact", 3L);
    }

    @Test
    void oursIsKeptByNameAndTheWordItIsHeldToAgainstIsRemembered() {
        hear(Map.of(), impact("A", 1L));
        world.accepted(RUNA, settles(false, "A"));
        assertThat(world.ticket.fields()).containsEntry("impact", 3L);
        assertThat(at().kept().get("impact")).isEqualTo(new AtPartner.Kept("A", world.ticket.seq()));
        assertThat(world.record.getLast().event())
                .isEqualTo(new DifferenceSettled(SUPPLIER, "impact", Way.OURS, "A", null));
    }

    @Test
    void aWordThatMeansNothingCannotBeTaken() {
        hear(Map.of(), impact("melted", null));
        assertThat(world.refused(RUNA, settles(true, "melted")).message()).contains("means nothing here");
        hear(Map.of());
        assertThat(world.record.getLast().event())
                .isEqualTo(new DifferenceSettled(SUPPLIER, "impact", Way.GONE, null, null));
    }

    @Test
    void ofATicketThatHasEndedNothingIsTakenAndNobodyIsAsked() {
        hear(Map.of(), impact("A", 1L));
        world.accepted(RUNA, new Command.EditTicket(Map.of("state", "cancelled"), "Asked twice."));
        assertThat(world.items()).isEmpty();
        hear(Map.of("impact", new Taken("A", 1L)), impact("B", 2L));
        assertThat(world.ticket.fields()).containsEntry("impact", 3L);
        assertThat(at().differences()).isEmpty();
    }

    @Test
    void onlyWhatIsFollowedIsHeardAndOnlyTheApplicationSaysWhatIs() {
        PartnerKey other = new PartnerKey("other");
        assertThat(world.refused(THEY, new Command.HearPartner(other, Map.of(), List.of()))
                        .code())
                .isEqualTo(Refusal.Code.NOT_FOUND);
        assertThat(world.refused(RUNA, new Command.SayToPartner(other, "Hello")).where())
                .isEqualTo("partner");
        assertThat(world.refused(RUNA, new Command.JoinPartner(other, "F-2", null, false))
                        .code())
                .isEqualTo(Refusal.Code.NOT_YOURS);
        assertThat(world.refused(THEY, new Command.JoinPartner(SUPPLIER, "F-2", null, false))
                        .message())
                .contains("as 'F-1' already");
        world.accepted(THEY, new Command.LeavePartner(SUPPLIER, "Too many changes."));
        assertThat(at().over()).isTrue();
        assertThat(at().why()).isEqualTo("Too many changes.");
        assertThat(world.refused(RUNA, new Command.SayToPartner(SUPPLIER, "Hello"))
                        .where())
                .isEqualTo("partner");
        world.accepted(THEY, new Command.JoinPartner(SUPPLIER, "F-2", null, false));
        assertThat(at().over()).isFalse();
        assertThat(at().why()).isNull();
    }
}
