package dastur.core.ticket;

import com.fasterxml.jackson.annotation.JsonCreator;
import com.fasterxml.jackson.annotation.JsonValue;
import dastur.core.json.Texts;

/** Names a configuration item, such as {@code GNQ-03}. */
public record CiId(@JsonValue String value) implements Comparable<CiId> {
    @JsonCreator(mode = JsonCreator.Mode.DELEGATING)
    public CiId {
        Texts.checkId("CI's id", value);
    }

    @Override
    public int compareTo(CiId other) {
        return value.compareTo(other.value);
    }

    @Override
    public String toString() {
        return value;
    }
}
