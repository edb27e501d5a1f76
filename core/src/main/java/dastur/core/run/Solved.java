package dastur.core.run;

import com.fasterxml.jackson.annotation.JsonValue;
import dastur.core.json.Texts;
import dastur.core.ticket.TicketKind;
import java.time.Duration;
import java.time.Instant;
import java.util.EnumSet;
import java.util.Map;
import java.util.Optional;
import java.util.Set;

/**
 * What the requester says of work that is said to be done (O4): solved closes the ticket where what closing asks for is there,
 * else leaves that to those who have it; not solved takes it up again.
 */
public final class Solved {
    /** How long after a ticket was closed its requester can still say that it is not solved. */
    public static final Duration REOPENS = Duration.ofDays(7);

    /** One of the two. */
    public enum Said {
        SOLVED("solved"),
        NOT_SOLVED("not solved");

        private final String word;

        Said(String word) {
            this.word = word;
        }

        @JsonValue
        public String word() {
            return word;
        }
    }

    private final Deciding d;

    Solved(Deciding d) {
        this.d = d;
    }

    /** What can be said of a ticket at a moment; nothing while it is worked on, or once it has ended for good. */
    public static Set<Said> open(Case c, Instant at) {
        Set<Said> said = EnumSet.noneOf(Said.class);
        if (c.kind() == null || c.kind().workedState().isEmpty()) {
            return said;
        }
        if (c.state().equals(c.kind().solvedState())) {
            said.addAll(EnumSet.allOf(Said.class));
        } else if (c.state().equals(TicketKind.CLOSED)
                && c.lastAt() != null
                && at.isBefore(c.lastAt().plus(REOPENS))) {
            said.add(Said.NOT_SOLVED);
        }
        return said;
    }

    Optional<Refusal> say(Command.SaySolved c) {
        Said said = c.solved() ? Said.SOLVED : Said.NOT_SOLVED;
        if (!open(d.now(), d.at()).contains(said)) {
            return Optional.of(new Refusal(
                    Refusal.Code.TOO_LATE,
                    TicketKind.ended(d.now().state())
                            ? "This has ended. Ask anew, and name " + d.now().id() + "."
                            : "Nobody has said yet that this is done. Write what you want to say as a note.",
                    "solved"));
        }
        if (!c.solved() && Texts.blank(c.text())) {
            return Optional.of(
                    Refusal.invalid("text", "Say what still does not work, so that somebody can go on with it."));
        }
        String from = d.now().state();
        TicketRules rules = new TicketRules(d);
        String text = Texts.blank(c.text()) ? "It is solved." : c.text();
        Optional<Refusal> refused = rules.note(new Command.AddNote(text, true));
        if (refused.isPresent()) {
            return refused;
        }
        if (!c.solved()) {
            String again = d.now().kind().workedState().orElseThrow();
            moved(from, again, "The requester says that it is not solved");
        } else if (rules.changes(Map.of("state", TicketKind.CLOSED)).refusal() == null) {
            moved(from, TicketKind.CLOSED, "The requester says that it is solved");
        }
        return Optional.empty();
    }

    private void moved(String from, String to, String reason) {
        d.emitTicket(new Event.TicketChanged(Map.of("state", new Event.Change(from, to)), null, reason));
    }
}
