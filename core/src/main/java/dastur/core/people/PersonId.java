package dastur.core.people;

import com.fasterxml.jackson.annotation.JsonCreator;
import com.fasterxml.jackson.annotation.JsonValue;
import dastur.core.json.Texts;

/** Names a person: a short word such as {@code runa}. */
public record PersonId(@JsonValue String value) implements Comparable<PersonId> {
    @JsonCreator(mode = JsonCreator.Mode.DELEGATING)
    public PersonId {
        Texts.checkId("person's key", value);
    }

    @Override
    public int compareTo(PersonId other) {
        return value.compareTo(other.value);
    }

    @Override
    public String toString() {
        return value;
    }
}
