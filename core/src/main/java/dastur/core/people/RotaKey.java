package dastur.core.people;

import com.fasterxml.jackson.annotation.JsonCreator;
import com.fasterxml.jackson.annotation.JsonValue;
import dastur.core.json.Texts;

/** Names a rota of people. */
public record RotaKey(@JsonValue String value) implements Comparable<RotaKey> {
    @JsonCreator(mode = JsonCreator.Mode.DELEGATING)
    public RotaKey {
        Texts.checkId("rota's key", value);
    }

    @Override
    public int compareTo(RotaKey other) {
        return value.compareTo(other.value);
    }

    @Override
    public String toString() {
        return value;
    }
}
