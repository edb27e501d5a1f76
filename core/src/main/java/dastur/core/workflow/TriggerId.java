package dastur.core.workflow;

import com.fasterxml.jackson.annotation.JsonCreator;
import com.fasterxml.jackson.annotation.JsonValue;
import dastur.core.json.Texts;

/** Names a trigger. */
public record TriggerId(@JsonValue String value) implements Comparable<TriggerId> {
    @JsonCreator(mode = JsonCreator.Mode.DELEGATING)
    public TriggerId {
        Texts.checkId("trigger's id", value);
    }

    @Override
    public int compareTo(TriggerId other) {
        return value.compareTo(other.value);
    }

    @Override
    public String toString() {
        return value;
    }
}
