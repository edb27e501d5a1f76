package dastur.core.ticket;

import com.fasterxml.jackson.annotation.JsonValue;
import java.util.Arrays;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import org.jspecify.annotations.Nullable;

/** What a ticket is, with its own states and the moves between them (glossary). */
public enum TicketKind {
    INCIDENT(
            "incident",
            'I',
            "restored",
            List.of("logged", "diagnosing", "waiting", "restored", "closed", "cancelled"),
            Map.of(
                    "logged", Set.of("diagnosing", "waiting", "restored", "closed", "cancelled"),
                    "diagnosing", Set.of("waiting", "restored", "closed", "cancelled"),
                    "waiting", Set.of("diagnosing", "restored", "closed", "cancelled"),
                    "restored", Set.of("diagnosing", "closed"))),
    CHANGE(
            "change",
            'C',
            "reviewing",
            List.of(
                    "drafted",
                    "assessing",
                    "authorised",
                    "scheduled",
                    "implementing",
                    "reviewing",
                    "closed",
                    "refused",
                    "backed out",
                    "cancelled"),
            Map.of(
                    "drafted", Set.of("assessing", "authorised", "refused", "cancelled"),
                    "assessing", Set.of("authorised", "refused", "cancelled"),
                    "authorised", Set.of("scheduled", "implementing", "cancelled"),
                    "scheduled", Set.of("implementing", "cancelled"),
                    "implementing", Set.of("reviewing", "backed out", "closed"),
                    "reviewing", Set.of("closed", "backed out"))),
    REQUEST(
            "request",
            'R',
            "done",
            List.of("asked", "in hand", "waiting", "done", "closed", "refused", "cancelled"),
            Map.of(
                    "asked", Set.of("in hand", "waiting", "done", "closed", "refused", "cancelled"),
                    "in hand", Set.of("waiting", "done", "closed", "refused", "cancelled"),
                    "waiting", Set.of("in hand", "done", "closed", "refused", "cancelled"),
                    "done", Set.of("in hand", "closed"))),
    /** What was started without anybody having asked for it: its record, ended by its runs (I6). */
    ROUTINE(
            "routine",
            'T',
            "finished",
            List.of("under way", "finished", "failed", "stopped"),
            Map.of("under way", Set.of("finished", "failed", "stopped")));

    /** The end of a ticket whose work was done. */
    public static final String CLOSED = "closed";

    /** The end of a routine that somebody has stopped, with what ran on it. */
    public static final String STOPPED = "stopped";

    private static final Set<String> ENDED =
            Set.of(CLOSED, "cancelled", "refused", "backed out", "finished", "failed", STOPPED);

    private final String word;
    private final char letter;
    private final String solved;
    private final List<String> states;
    private final Map<String, Set<String>> moves;

    TicketKind(String word, char letter, String solved, List<String> states, Map<String, Set<String>> moves) {
        this.word = word;
        this.letter = letter;
        this.solved = solved;
        this.states = states;
        this.moves = moves;
    }

    @JsonValue
    public String word() {
        return word;
    }

    /** The first letter of the ticket's number. */
    public char letter() {
        return letter;
    }

    public List<String> states() {
        return states;
    }

    /** Whether tickets of a kind can be in a state. @param kind null for any */
    public static boolean isState(@Nullable TicketKind kind, String state) {
        return Arrays.stream(values()).filter(k -> kind == null || k == kind).anyMatch(k -> k.states()
                .contains(state));
    }

    public String firstState() {
        return states.getFirst();
    }

    /** The state that says the work is done but not yet closed. */
    public String solvedState() {
        return solved;
    }

    /** The state to go on in where what was said to be done is not; empty for a kind that its requester does not judge. */
    public Optional<String> workedState() {
        return switch (this) {
            case INCIDENT -> Optional.of("diagnosing");
            case REQUEST -> Optional.of("in hand");
            case CHANGE, ROUTINE -> Optional.empty();
        };
    }

    /** Whether it has impact, urgency, priority and targets: somebody waits for it. */
    public boolean isWeighed() {
        return this != ROUTINE;
    }

    /** Whether people raise it. A routine comes of what starts it. */
    public boolean isRaisedByPeople() {
        return this != ROUTINE;
    }

    /** Where a ticket may go from a state; empty when the state is an end. */
    public Set<String> movesFrom(String state) {
        return moves.getOrDefault(state, Set.of());
    }

    /** Where people may move a ticket from a state: a routine ends as its runs do, or is stopped. */
    public Set<String> movesOfPeople(String state) {
        Set<String> all = movesFrom(state);
        return this == ROUTINE && all.contains(STOPPED) ? Set.of(STOPPED) : all;
    }

    /** Whether nothing more is expected in this state. */
    public static boolean ended(String state) {
        return ENDED.contains(state);
    }

    public static Optional<TicketKind> of(String word) {
        for (TicketKind kind : values()) {
            if (kind.word.equals(word)) {
                return Optional.of(kind);
            }
        }
        return Optional.empty();
    }
}
