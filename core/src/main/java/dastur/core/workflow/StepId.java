package dastur.core.workflow;

import com.fasterxml.jackson.annotation.JsonCreator;
import com.fasterxml.jackson.annotation.JsonValue;
import dastur.core.json.Texts;

/** Names a step within its workflow; what {@code steps.<id>} means in expressions. */
public record StepId(@JsonValue String value) implements Comparable<StepId> {
    @JsonCreator(mode = JsonCreator.Mode.DELEGATING)
    public StepId {
        Texts.checkWord("step's id", value);
    }

    @Override
    public int compareTo(StepId other) {
        return value.compareTo(other.value);
    }

    @Override
    public String toString() {
        return value;
    }
}
