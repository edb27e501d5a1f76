package dastur.core.workflow;

import com.fasterxml.jackson.annotation.JsonCreator;
import com.fasterxml.jackson.annotation.JsonValue;
import dastur.core.json.Texts;

/** Names a zone: a private network with its relays, such as {@code mooring-data-room} (M13). */
public record ZoneKey(@JsonValue String value) implements Comparable<ZoneKey> {
    @JsonCreator(mode = JsonCreator.Mode.DELEGATING)
    public ZoneKey {
        Texts.checkId("zone's key", value);
    }

    @Override
    public int compareTo(ZoneKey other) {
        return value.compareTo(other.value);
    }

    @Override
    public String toString() {
        return value;
    }
}
