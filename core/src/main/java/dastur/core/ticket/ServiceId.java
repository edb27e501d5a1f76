package dastur.core.ticket;

import com.fasterxml.jackson.annotation.JsonCreator;
import com.fasterxml.jackson.annotation.JsonValue;
import dastur.core.json.Texts;

/** Names a service. */
public record ServiceId(@JsonValue String value) implements Comparable<ServiceId> {
    @JsonCreator(mode = JsonCreator.Mode.DELEGATING)
    public ServiceId {
        Texts.checkId("service's key", value);
    }

    @Override
    public int compareTo(ServiceId other) {
        return value.compareTo(other.value);
    }

    @Override
    public String toString() {
        return value;
    }
}
