package dastur.core.workflow;

import com.fasterxml.jackson.annotation.JsonCreator;
import com.fasterxml.jackson.annotation.JsonValue;
import dastur.core.json.Texts;

/** Names a workflow across its versions. */
public record WorkflowKey(@JsonValue String value) implements Comparable<WorkflowKey> {
    @JsonCreator(mode = JsonCreator.Mode.DELEGATING)
    public WorkflowKey {
        Texts.checkId("workflow's key", value);
    }

    @Override
    public int compareTo(WorkflowKey other) {
        return value.compareTo(other.value);
    }

    @Override
    public String toString() {
        return value;
    }
}
