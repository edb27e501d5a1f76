package dastur.core.run;

import com.fasterxml.jackson.annotation.JsonCreator;
import com.fasterxml.jackson.annotation.JsonValue;
import dastur.core.json.Texts;
import dastur.core.ticket.TicketId;

/** A run of a ticket, counted from 1: {@code I-1042.1} (D3). */
public record RunId(@JsonValue String value) implements Comparable<RunId> {
    @JsonCreator(mode = JsonCreator.Mode.DELEGATING)
    public RunId {
        Texts.checkId("run's number", value);
        if (value.split("\\.").length != 2) {
            throw new IllegalArgumentException(
                    "A run's id is its ticket's number, a dot and a count, but was '" + value + "'.");
        }
    }

    public static RunId of(TicketId ticket, int number) {
        return new RunId(ticket.value() + "." + number);
    }

    public TicketId ticket() {
        return new TicketId(value.substring(0, value.indexOf('.')));
    }

    @Override
    public int compareTo(RunId other) {
        return value.length() != other.value.length()
                ? Integer.compare(value.length(), other.value.length())
                : value.compareTo(other.value);
    }

    @Override
    public String toString() {
        return value;
    }
}
