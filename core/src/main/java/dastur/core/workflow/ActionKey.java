package dastur.core.workflow;

import com.fasterxml.jackson.annotation.JsonCreator;
import com.fasterxml.jackson.annotation.JsonValue;
import dastur.core.json.Texts;

/** Names an action of the catalogue. */
public record ActionKey(@JsonValue String value) implements Comparable<ActionKey> {
    @JsonCreator(mode = JsonCreator.Mode.DELEGATING)
    public ActionKey {
        Texts.checkId("action's key", value);
    }

    @Override
    public int compareTo(ActionKey other) {
        return value.compareTo(other.value);
    }

    @Override
    public String toString() {
        return value;
    }
}
