package dastur.core.people;

import com.fasterxml.jackson.annotation.JsonCreator;
import com.fasterxml.jackson.annotation.JsonValue;
import dastur.core.json.Texts;

/** Names a group of people. */
public record GroupId(@JsonValue String value) implements Comparable<GroupId> {
    @JsonCreator(mode = JsonCreator.Mode.DELEGATING)
    public GroupId {
        Texts.checkId("group's key", value);
    }

    @Override
    public int compareTo(GroupId other) {
        return value.compareTo(other.value);
    }

    @Override
    public String toString() {
        return value;
    }
}
