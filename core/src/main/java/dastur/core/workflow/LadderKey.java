package dastur.core.workflow;

import com.fasterxml.jackson.annotation.JsonCreator;
import com.fasterxml.jackson.annotation.JsonValue;
import dastur.core.json.Texts;

/** Names a ladder. */
public record LadderKey(@JsonValue String value) implements Comparable<LadderKey> {
    @JsonCreator(mode = JsonCreator.Mode.DELEGATING)
    public LadderKey {
        Texts.checkId("ladder's key", value);
    }

    @Override
    public int compareTo(LadderKey other) {
        return value.compareTo(other.value);
    }

    @Override
    public String toString() {
        return value;
    }
}
