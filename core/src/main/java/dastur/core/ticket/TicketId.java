package dastur.core.ticket;

import com.fasterxml.jackson.annotation.JsonCreator;
import com.fasterxml.jackson.annotation.JsonValue;
import dastur.core.json.Texts;

/** A ticket's number, such as {@code I-1042}; the letter says the kind. */
public record TicketId(@JsonValue String value) implements Comparable<TicketId> {
    @JsonCreator(mode = JsonCreator.Mode.DELEGATING)
    public TicketId {
        Texts.checkId("ticket's number", value);
    }

    @Override
    public int compareTo(TicketId other) {
        return value.compareTo(other.value);
    }

    @Override
    public String toString() {
        return value;
    }
}
