package dastur.core.run;

import com.fasterxml.jackson.annotation.JsonCreator;
import com.fasterxml.jackson.annotation.JsonValue;
import dastur.core.json.Texts;
import dastur.core.ticket.TicketId;

/** A visit of a run, counted from 1: {@code I-1042.1.3}. Tasks and approvals are addressed by their visit (D3). */
public record VisitId(@JsonValue String value) implements Comparable<VisitId> {
    @JsonCreator(mode = JsonCreator.Mode.DELEGATING)
    public VisitId {
        Texts.checkId("step's number", value);
        if (value.split("\\.").length != 3) {
            throw new IllegalArgumentException(
                    "A visit's id is its run's id, a dot and a count, but was '" + value + "'.");
        }
    }

    public static VisitId of(RunId run, int number) {
        return new VisitId(run.value() + "." + number);
    }

    public RunId run() {
        return new RunId(value.substring(0, value.lastIndexOf('.')));
    }

    /** Its count in the run: what was opened later has a higher one. */
    public int number() {
        return Integer.parseInt(value.substring(value.lastIndexOf('.') + 1));
    }

    public TicketId ticket() {
        return run().ticket();
    }

    @Override
    public int compareTo(VisitId other) {
        return value.length() != other.value.length()
                ? Integer.compare(value.length(), other.value.length())
                : value.compareTo(other.value);
    }

    @Override
    public String toString() {
        return value;
    }
}
