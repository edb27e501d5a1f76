package dastur.core.time;

import com.fasterxml.jackson.annotation.JsonCreator;
import com.fasterxml.jackson.annotation.JsonValue;
import dastur.core.json.Texts;

/** Names a working calendar. */
public record CalendarKey(@JsonValue String value) implements Comparable<CalendarKey> {
    @JsonCreator(mode = JsonCreator.Mode.DELEGATING)
    public CalendarKey {
        Texts.checkId("calendar's key", value);
    }

    @Override
    public int compareTo(CalendarKey other) {
        return value.compareTo(other.value);
    }

    @Override
    public String toString() {
        return value;
    }
}
