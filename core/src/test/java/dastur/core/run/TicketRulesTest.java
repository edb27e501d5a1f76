package dastur.core.run;

import static org.assertj.core.api.Assertions.assertThat;

import dastur.core.json.Texts;
import dastur.core.people.Actor;
import dastur.core.ticket.TicketKind;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.stream.Stream;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.Arguments;
import org.junit.jupiter.params.provider.CsvSource;
import org.junit.jupiter.params.provider.MethodSource;
import org.junit.jupiter.params.provider.ValueSource;

/** Raising, editing, moving and closing tickets: what is taken, and how a no is said (N1, N7, N8, N9). */
class TicketRulesTest {
    private static final Actor ADA = Actor.of(World.JONAS);
    private static final Map<String, Object> CLOSING =
            Map.of("cause", "A stone", "done", "Taken away", "answer", "It works again.");

    private World world;

    @BeforeEach
    void begin() {
        world = new World();
        world.publish(World.gateWorkflow(new dastur.core.workflow.ApprovalRule.AnyOne()));
    }

    private Command.RaiseTicket raise(TicketKind kind, Map<String, Object> fields, String reason) {
        return new Command.RaiseTicket(kind, fields, reason);
    }

    private void raised(TicketKind kind) {
        world.accepted(ADA, raise(kind, Map.of("title", "Gate 1 stuck open", "requester", "jonas"), null));
    }

    private static Command.EditTicket edit(Map<String, Object> fields) {
        return new Command.EditTicket(fields, null);
    }

    /** Every move the glossary allows is taken, and no other. */
    static Stream<Arguments> moves() {
        return Stream.of(TicketKind.values())
                .filter(TicketKind::isRaisedByPeople)
                .flatMap(kind -> kind.states().stream().flatMap(from -> kind.states().stream()
                        .filter(to -> !to.equals(from))
                        .map(to -> Arguments.of(kind, from, to))));
    }

    @ParameterizedTest
    @MethodSource
    void moves(TicketKind kind, String from, String to) {
        raised(kind);
        List<String> way = way(kind, from);
        for (String state : way) {
            Map<String, Object> fields = new HashMap<>(CLOSING);
            fields.put("state", state);
            world.accepted(ADA, edit(fields));
        }
        assertThat(world.ticket.state()).isEqualTo(from);
        boolean allowed = kind.movesFrom(from).contains(to);
        Map<String, Object> fields = new HashMap<>(CLOSING);
        fields.put("state", to);
        Decision decision = world.handle(ADA, edit(fields));
        assertThat(decision instanceof Decision.Accepted).isEqualTo(allowed);
        assertThat(world.ticket.state()).isEqualTo(allowed ? to : from);
        if (decision instanceof Decision.Refused refused) {
            assertThat(refused.refusal().message()).contains("'" + from + "'").contains("'" + to + "'");
            assertThat(refused.refusal().message())
                    .contains(kind.movesFrom(from).isEmpty() ? "has ended" : "can become");
        }
    }

    /** The shortest way from where a ticket begins to a state. */
    private static List<String> way(TicketKind kind, String to) {
        Map<String, List<String>> ways = new HashMap<>(Map.of(kind.firstState(), List.of()));
        boolean more = true;
        while (!ways.containsKey(to) && more) {
            more = false;
            for (String from : List.copyOf(ways.keySet())) {
                for (String next : kind.movesFrom(from)) {
                    List<String> longer = Stream.concat(ways.get(from).stream(), Stream.of(next))
                            .toList();
                    more |= ways.putIfAbsent(next, longer) == null;
                }
            }
        }
        return ways.get(to);
    }

    @ParameterizedTest
    @CsvSource({"cause", "done", "answer"})
    void closingAsksForWhatItWasWhatWasDoneAndTheAnswer(String missing) {
        raised(TicketKind.INCIDENT);
        Map<String, Object> fields = new HashMap<>(CLOSING);
        fields.put("state", "closed");
        fields.remove(missing);
        assertThat(world.refused(ADA, edit(fields)).where()).isEqualTo(missing);
        assertThat(world.ticket.state()).isEqualTo("logged");
        fields.put(missing, "  ");
        assertThat(world.refused(ADA, edit(fields)).where()).isEqualTo(missing);
    }

    @ParameterizedTest
    @CsvSource({
        "1, 1, P1", "1, 2, P1", "1, 3, P2", "1, 4, P3",
        "2, 1, P1", "2, 2, P2", "2, 3, P3", "2, 4, P3",
        "3, 1, P2", "3, 2, P3", "3, 3, P3", "3, 4, P4",
        "4, 1, P3", "4, 2, P3", "4, 3, P4", "4, 4, P4"
    })
    void priorityFollowsFromImpactAndUrgency(long impact, long urgency, String priority) {
        Map<String, Object> fields = Map.of("title", "Gate", "impact", impact, "urgency", urgency);
        world.accepted(ADA, raise(TicketKind.INCIDENT, fields, null));
        String usual = dastur.core.ticket.PriorityMatrix.USUAL.priority(impact, urgency);
        assertThat(world.ticket.text("priority")).contains(usual);
        assertThat(usual).isEqualTo(priority);
    }

    @Test
    void anotherPriorityNeedsAReasonWhichStandsOnTheRecord() {
        Map<String, Object> fields = Map.of("title", "Gate", "impact", 4L, "urgency", 4L, "priority", "P1");
        Refusal refused = world.refused(ADA, raise(TicketKind.INCIDENT, fields, " "));
        assertThat(refused.where()).isEqualTo("priorityReason");
        assertThat(refused.message()).contains("P4");
        world.accepted(ADA, raise(TicketKind.INCIDENT, fields, "The minister is on board"));
        assertThat(world.ticket.text("priority")).contains("P1");
        Event.TicketRaised raised = (Event.TicketRaised) world.record.getFirst().event();
        assertThat(raised.priorityReason()).isEqualTo("The minister is on board");
    }

    /** An override stays until impact or urgency are weighed anew. */
    @Test
    void weighingAnewComputesThePriorityAgain() {
        raised(TicketKind.INCIDENT);
        world.accepted(ADA, new Command.EditTicket(Map.of("priority", "P1"), "The boat leaves"));
        assertThat(world.ticket.text("priority")).contains("P1");
        world.accepted(ADA, edit(Map.of("title", "Another title")));
        assertThat(world.ticket.text("priority")).contains("P1");
        world.accepted(ADA, edit(Map.of("urgency", 4L)));
        assertThat(world.ticket.text("priority")).contains("P4");
    }

    @Test
    void theServiceFollowsFromTheCiUnlessItIsNamed() {
        world.accepted(ADA, raise(TicketKind.INCIDENT, Map.of("title", "Gate", "ci", "ALD-G1"), null));
        assertThat(world.ticket.text("service")).contains("gates");
    }

    static Stream<Arguments> refusedFields() {
        return Stream.of(
                Arguments.of(Map.of(), "title"),
                Arguments.of(Map.of("title", "  "), "title"),
                Arguments.of(Map.of("title", 7L), "title"),
                Arguments.of(Map.of("title", "x".repeat(Texts.MAX_TEXT + 1)), "title"),
                Arguments.of(Map.of("title", "Gate", "state", "closed"), "state"),
                Arguments.of(Map.of("title", "Gate", "impact", 0L), "impact"),
                Arguments.of(Map.of("title", "Gate", "impact", 5L), "impact"),
                Arguments.of(Map.of("title", "Gate", "urgency", "high"), "urgency"),
                Arguments.of(Map.of("title", "Gate", "priority", "P0"), "priority"),
                Arguments.of(Map.of("title", "Gate", "requester", "nobody"), "requester"),
                Arguments.of(Map.of("title", "Gate", "requester", "no id at all!"), "requester"),
                Arguments.of(Map.of("title", "Gate", "group", "gone"), "group"),
                Arguments.of(Map.of("title", "Gate", "service", "gone"), "service"),
                Arguments.of(Map.of("title", "Gate", "ci", "ALD-G99"), "ci"),
                Arguments.of(Map.of("title", "Gate", "colour", "red"), "colour"));
    }

    @ParameterizedTest
    @MethodSource
    void refusedFields(Map<String, Object> fields, String where) {
        Refusal refused = world.refused(ADA, raise(TicketKind.INCIDENT, fields, null));
        assertThat(refused.where()).isEqualTo(where);
        assertThat(refused.message()).isNotBlank();
        assertThat(world.record).isEmpty();
    }

    @Test
    void blankFieldsAreAbsentAndNullClears() {
        world.accepted(
                ADA,
                raise(TicketKind.INCIDENT, Map.of("title", "Gate", "description", " ", "lockNumber", "L-1"), null));
        assertThat(world.ticket.fields()).doesNotContainKey("description").containsEntry("lockNumber", "L-1");
        Map<String, Object> cleared = new HashMap<>();
        cleared.put("lockNumber", null);
        world.accepted(ADA, edit(cleared));
        assertThat(world.ticket.fields()).doesNotContainKey("lockNumber");
    }

    @ParameterizedTest
    @ValueSource(strings = {"title", "impact", "urgency", "state"})
    void whatATicketAlwaysHasCannotBeTakenAway(String field) {
        raised(TicketKind.INCIDENT);
        int before = world.record.size();
        for (Object nothing : new Object[] {null, "", "  "}) {
            Map<String, Object> cleared = new HashMap<>();
            cleared.put(field, nothing);
            assertThat(world.refused(ADA, edit(cleared)).where()).isEqualTo(field);
        }
        assertThat(world.record).hasSize(before);
    }

    @Test
    void aPriorityTakenAwayIsTheOneTheWeightsGive() {
        raised(TicketKind.INCIDENT);
        String computed = world.ticket.text("priority").orElseThrow();
        world.accepted(ADA, new Command.EditTicket(Map.of("priority", "P1"), "The boat leaves"));
        world.accepted(ADA, edit(Map.of("priority", "")));
        assertThat(world.ticket.text("priority")).contains(computed);
    }

    @Test
    void whatChangesNothingIsNoEntry() {
        raised(TicketKind.INCIDENT);
        int before = world.record.size();
        world.accepted(ADA, edit(Map.of("title", "Gate 1 stuck open")));
        assertThat(world.record).hasSize(before);
    }

    @ParameterizedTest
    @CsvSource(
            nullValues = "-",
            value = {
                "log.txt, 10, aa, false",
                "-, 10, GOOD, false",
                "'  ', 10, GOOD, false",
                "log.txt, 0, GOOD, false",
                "log.txt, 10, GOOD, true"
            })
    void aFileNeedsANameBytesAndAFingerprint(String name, long size, String hash, boolean taken) {
        raised(TicketKind.INCIDENT);
        String fingerprint = hash.equals("GOOD") ? "0123456789abcdef".repeat(4) : hash;
        Decision decision = world.handle(
                ADA, new Command.AttachFile(null, name == null ? "" : name, "text/plain", size, fingerprint, false));
        assertThat(decision instanceof Decision.Accepted).isEqualTo(taken);
        assertThat(world.ticket.files()).hasSize(taken ? 1 : 0);
    }

    @Test
    void aNoteNeedsWordsAndNotTooMany() {
        raised(TicketKind.INCIDENT);
        assertThat(world.refused(ADA, new Command.AddNote(" ", false)).where()).isEqualTo("text");
        assertThat(world.refused(ADA, new Command.AddNote("x".repeat(Texts.MAX_TEXT + 1), false))
                        .where())
                .isEqualTo("text");
        assertThat(world.refused(ADA, new Command.AddNote("half a sign: \ud83c", false))
                        .where())
                .isEqualTo("text");
        world.accepted(ADA, new Command.AddNote("Called back.", false));
        assertThat(world.kinds()).contains("NoteAdded").doesNotContain("MessageQueued");
    }

    @Test
    void aTicketCannotBeRaisedTwice() {
        raised(TicketKind.INCIDENT);
        assertThat(world.refused(ADA, raise(TicketKind.INCIDENT, Map.of("title", "Again"), null))
                        .message())
                .contains("already");
    }
}
