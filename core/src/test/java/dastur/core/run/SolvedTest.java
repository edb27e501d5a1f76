package dastur.core.run;

import static org.assertj.core.api.Assertions.assertThat;

import dastur.core.people.Actor;
import dastur.core.run.Solved.Said;
import dastur.core.ticket.TicketKind;
import java.time.Duration;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Set;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;

/** What those who ask say of what is said to be done (O4). */
class SolvedTest {
    private static final Actor ADA = Actor.of(World.TEO);
    private static final Actor ASKED = Actor.of(World.JONAS);
    private static final Map<String, Object> CLOSING =
            Map.of("cause", "A stone", "done", "Taken away", "answer", "It works again.");

    private World world;

    @BeforeEach
    void begin() {
        world = new World();
    }

    private void raised(TicketKind kind, String state, Map<String, Object> more) {
        world.accepted(
                ADA,
                new Command.RaiseTicket(
                        kind, Map.of("title", "Gate 1 stuck open", "requester", "jonas", "assignee", "teo"), null));
        Map<String, Object> fields = new HashMap<>(more);
        fields.put("state", state);
        world.accepted(ADA, new Command.EditTicket(fields, null));
    }

    private Refusal refused(Actor by, boolean solved, String text) {
        Decision decision = world.handle(by, new Command.SaySolved(solved, text));
        assertThat(decision).isInstanceOf(Decision.Refused.class);
        return ((Decision.Refused) decision).refusal();
    }

    private Set<Said> may() {
        return Solved.open(world.ticket, world.ticket.lastAt());
    }

    @Test
    void solvedClosesWhatHasAllThatClosingAsksFor() {
        raised(TicketKind.INCIDENT, "restored", CLOSING);
        assertThat(may()).containsExactlyInAnyOrder(Said.SOLVED, Said.NOT_SOLVED);
        world.accepted(ASKED, new Command.SaySolved(true, null));
        assertThat(world.ticket.state()).isEqualTo("closed");
        assertThat(may()).containsExactly(Said.NOT_SOLVED);
    }

    @Test
    void solvedIsOnTheRecordAndLeavesClosingToThoseWhoHaveItWhereTheCauseIsMissing() {
        raised(TicketKind.INCIDENT, "restored", Map.of());
        long before = world.ticket.seq();
        world.accepted(ASKED, new Command.SaySolved(true, "Thank you."));
        assertThat(world.ticket.state()).isEqualTo("restored");
        assertThat(world.ticket.seq()).isGreaterThan(before);
    }

    @ParameterizedTest
    @CsvSource({"INCIDENT, restored, diagnosing", "REQUEST, done, in hand"})
    void notSolvedTakesItUpAgainAndTellsWhoHasIt(TicketKind kind, String done, String again) {
        raised(kind, done, Map.of());
        world.accepted(ASKED, new Command.SaySolved(false, "It hangs again."));
        assertThat(world.ticket.state()).isEqualTo(again);
        assertThat(world.record.stream()
                        .map(Recorded::event)
                        .filter(Event.MessageQueued.class::isInstance)
                        .map(Event.MessageQueued.class::cast)
                        .filter(m -> "It hangs again.".equals(m.text()))
                        .map(Event.MessageQueued::people))
                .containsExactly(List.of(World.TEO));
    }

    @Test
    void whatWasClosedIsTakenUpAgainWithinAWeekAndNotLater() {
        raised(TicketKind.INCIDENT, "closed", CLOSING);
        assertThat(may()).containsExactly(Said.NOT_SOLVED);
        assertThat(Solved.open(world.ticket, world.ticket.lastAt().plus(Solved.REOPENS)))
                .isEmpty();
        assertThat(refused(ASKED, true, null).code()).isEqualTo(Refusal.Code.TOO_LATE);
        world.pass(Solved.REOPENS.minus(Duration.ofMinutes(1)));
        world.accepted(ASKED, new Command.SaySolved(false, "It hangs again."));
        assertThat(world.ticket.state()).isEqualTo("diagnosing");
        world.accepted(ADA, new Command.EditTicket(Map.of("state", "closed"), null));
        world.pass(Solved.REOPENS.plus(Duration.ofMinutes(1)));
        assertThat(refused(ASKED, false, "And again.").message()).contains("Ask anew, and name " + world.ticket.id());
    }

    @Test
    void notSolvedSaysWhatIsNot() {
        raised(TicketKind.INCIDENT, "restored", Map.of());
        assertThat(refused(ASKED, false, " ").where()).isEqualTo("text");
        assertThat(world.ticket.state()).isEqualTo("restored");
    }

    @Test
    void nothingIsSaidOfWhatIsStillWorkedOnOrWasCancelledOrIsAChange() {
        raised(TicketKind.INCIDENT, "diagnosing", Map.of());
        assertThat(may()).isEmpty();
        assertThat(refused(ASKED, false, "Well?").code()).isEqualTo(Refusal.Code.TOO_LATE);
        world.accepted(ADA, new Command.EditTicket(Map.of("state", "cancelled"), null));
        assertThat(may()).isEmpty();
        begin();
        raised(TicketKind.CHANGE, "cancelled", Map.of());
        assertThat(may()).isEmpty();
    }

    @Test
    void onlyWhoAskedSaysIt() {
        raised(TicketKind.INCIDENT, "restored", CLOSING);
        assertThat(refused(ADA, true, null).code()).isEqualTo(Refusal.Code.NOT_YOURS);
        assertThat(world.ticket.state()).isEqualTo("restored");
    }
}
