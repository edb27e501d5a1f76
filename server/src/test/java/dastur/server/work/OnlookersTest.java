package dastur.server.work;

import static org.assertj.core.api.Assertions.assertThat;

import dastur.core.people.PersonId;
import dastur.core.ticket.TicketId;
import java.time.Instant;
import java.util.List;
import java.util.stream.IntStream;
import org.junit.jupiter.api.Test;

class OnlookersTest {
    private static final TicketId TICKET = new TicketId("I-1");
    private static final PersonId ADA = new PersonId("ada");
    private static final PersonId RUNA = new PersonId("runa");
    private static final PersonId TEO = new PersonId("teo");

    private final Onlookers onlookers = new Onlookers();
    private Instant now = Instant.parse("2026-03-02T08:00:00Z");

    private List<PersonId> others(PersonId person, boolean writes) {
        return onlookers.looks(TICKET, person, writes, now).stream()
                .map(Onlookers.Onlooker::person)
                .toList();
    }

    private void pass(long seconds) {
        now = now.plusSeconds(seconds);
    }

    @Test
    void oneSeesTheOthersAndNotOneself() {
        assertThat(others(ADA, false)).isEmpty();
        assertThat(others(RUNA, false)).containsExactly(ADA);
        assertThat(others(ADA, false)).containsExactly(RUNA);
        assertThat(onlookers.looks(new TicketId("I-2"), TEO, false, now)).isEmpty();
    }

    @Test
    void whoWritesStandsFirstAndTheLongestThereNext() {
        others(ADA, false);
        pass(5);
        others(RUNA, false);
        pass(5);
        others(RUNA, true);
        assertThat(others(TEO, false)).containsExactly(RUNA, ADA);
        assertThat(onlookers.looks(TICKET, TEO, false, now).getFirst().writes()).isTrue();
        others(RUNA, false);
        assertThat(others(TEO, false)).containsExactly(ADA, RUNA);
    }

    @Test
    void whoGivesNoSignIsForgottenAndWhoLeavesIsGoneAtOnce() {
        others(ADA, true);
        pass(29);
        assertThat(others(RUNA, false)).containsExactly(ADA);
        pass(2);
        assertThat(others(RUNA, false)).isEmpty();
        onlookers.leaves(TICKET, RUNA);
        assertThat(others(TEO, false)).isEmpty();
        onlookers.leaves(TICKET, new PersonId("nobody"));
    }

    /** Whoever sends numbers of a hundred thousand tickets fills no memory, and comes back once the others are gone. */
    @Test
    void itRemembersABoundedNumberOfTickets() {
        IntStream.range(0, 12_000).forEach(i -> onlookers.looks(new TicketId("I-" + i), ADA, false, now));
        TicketId late = new TicketId("C-1");
        onlookers.looks(late, ADA, false, now);
        assertThat(onlookers.looks(late, RUNA, false, now)).isEmpty();
        pass(31);
        onlookers.looks(late, ADA, false, now);
        assertThat(onlookers.looks(late, RUNA, false, now)).hasSize(1);
    }
}
