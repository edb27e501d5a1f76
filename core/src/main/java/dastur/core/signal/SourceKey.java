package dastur.core.signal;

import com.fasterxml.jackson.annotation.JsonCreator;
import com.fasterxml.jackson.annotation.JsonValue;
import dastur.core.json.Texts;

/** Names a source, such as {@code board-monitor}; it stands in the address that its senders post to. */
public record SourceKey(@JsonValue String value) implements Comparable<SourceKey> {
    @JsonCreator(mode = JsonCreator.Mode.DELEGATING)
    public SourceKey {
        Texts.checkId("source's key", value);
    }

    @Override
    public int compareTo(SourceKey other) {
        return value.compareTo(other.value);
    }

    @Override
    public String toString() {
        return value;
    }
}
