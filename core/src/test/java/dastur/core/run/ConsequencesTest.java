package dastur.core.run;

import static org.assertj.core.api.Assertions.assertThat;

import dastur.core.people.Actor;
import dastur.core.signal.Severity;
import dastur.core.signal.SourceKey;
import dastur.core.signal.Turn;
import dastur.core.ticket.CiId;
import dastur.core.ticket.LinkKind;
import dastur.core.ticket.TicketId;
import dastur.core.ticket.TicketKind;
import java.util.List;
import java.util.Map;
import java.util.stream.Stream;
import org.jspecify.annotations.Nullable;
import org.junit.jupiter.api.Test;

/** Incidents whose cause came to light after them: folded under it while nobody is at them, and never out of reach (I22). */
class ConsequencesTest {
    private static final TicketId CAUSE = new TicketId("I-77");
    private static final Actor RUNA = Actor.of(World.RUNA);

    private final World world = new World();

    private void raise() {
        world.handle(
                new Actor.Outside("gates"),
                new Command.RaiseBySignal(
                        TicketKind.INCIDENT,
                        Map.of("title", "Gate 1 is stuck", "ci", "ALD-G1", "impact", 3L, "urgency", 3L),
                        new Event.SignalsHeard(
                                new SourceKey("gates"),
                                Turn.BEGINS,
                                1,
                                world.now,
                                world.now,
                                "s1",
                                Severity.MINOR,
                                new CiId("ALD-G1"),
                                null,
                                "ald-g1/stuck",
                                "Gate 1 is stuck",
                                null,
                                null,
                                Map.of()),
                        List.of(),
                        List.of(),
                        true));
    }

    private Decision find(TicketId cause) {
        return world.handle(Actor.SYSTEM, new Command.FindCause(cause, true));
    }

    private Decision byHand() {
        return world.handle(RUNA, new Command.StandByItself());
    }

    private @Nullable TicketId under() {
        return Standing.Listed.of(world.ticket).under();
    }

    @Test
    void whatNobodyIsAtIsFoldedAndLinked() {
        raise();
        assertThat(world.ticket.matters()).containsExactly("ald-g1/stuck");
        assertThat(find(CAUSE)).isInstanceOf(Decision.Accepted.class);
        assertThat(under()).isEqualTo(CAUSE);
        assertThat(world.ticket.links()).containsExactly(new Case.Link(CAUSE, LinkKind.CAUSED_BY));
    }

    @Test
    void whatSomebodyHasTouchedIsOnlyToldOf() {
        raise();
        world.handle(RUNA, new Command.AddNote("I am on my way.", false));
        find(CAUSE);
        assertThat(world.record.getLast().event()).isEqualTo(new Event.CauseFound(CAUSE, false));
        assertThat(under()).isNull();
        assertThat(world.ticket.links()).isEmpty();
    }

    /** Whoever takes it up is not to look for it under another. */
    @Test
    void whoeverTakesItUpTakesItOut() {
        raise();
        find(CAUSE);
        world.handle(RUNA, new Command.EditTicket(Map.of("assignee", "runa"), null));
        assertThat(under()).isNull();
        assertThat(world.ticket.links()).hasSize(1);
        assertThat(byHand()).as("it is out already").isInstanceOf(Decision.Refused.class);
    }

    @Test
    void itStandsByItselfAgainWhenThatIsSaid() {
        raise();
        find(CAUSE);
        assertThat(world.handle(Actor.SYSTEM, new Command.StandByItself())).isInstanceOf(Decision.Accepted.class);
        assertThat(under()).isNull();
        assertThat(world.ticket.ticket().touched()).isFalse();
        find(new TicketId("I-78"));
        assertThat(under()).isEqualTo(new TicketId("I-78"));
        assertThat(byHand()).isInstanceOf(Decision.Accepted.class);
        assertThat(world.record.getLast().event()).isInstanceOf(Event.StandsByItself.class);
        assertThat(world.ticket.ticket().touched()).isTrue();
    }

    @Test
    void nothingExplainsItselfOrTwiceOrWhatIsOver() {
        raise();
        Stream.of(world.ticket.id(), CAUSE).forEach(this::find);
        assertThat(under()).isEqualTo(CAUSE);
        int entries = world.record.size();
        assertThat(find(new TicketId("I-78"))).isInstanceOf(Decision.Refused.class);
        assertThat(world.record).hasSize(entries);

        world.handle(Actor.SYSTEM, new Command.StandByItself());
        world.handle(Actor.SYSTEM, new Command.EditTicket(Map.of("state", "restored"), "It is well."));
        assertThat(find(CAUSE)).isInstanceOf(Decision.Refused.class);
    }

    @Test
    void noPersonSaysWhatTheNetworkOfCisSays() {
        raise();
        assertThat(world.handle(RUNA, new Command.FindCause(CAUSE, true))).isInstanceOf(Decision.Refused.class);
        assertThat(under()).isNull();
    }
}
