package dastur.core.feed;

import com.fasterxml.jackson.annotation.JsonCreator;
import com.fasterxml.jackson.annotation.JsonValue;
import dastur.core.json.Texts;

/** Names a subscription. */
public record SubscriptionKey(@JsonValue String value) implements Comparable<SubscriptionKey> {
    @JsonCreator(mode = JsonCreator.Mode.DELEGATING)
    public SubscriptionKey {
        Texts.checkId("subscription's key", value);
    }

    @Override
    public int compareTo(SubscriptionKey other) {
        return value.compareTo(other.value);
    }

    @Override
    public String toString() {
        return value;
    }
}
