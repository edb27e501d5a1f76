package dastur.core.partner;

import com.fasterxml.jackson.annotation.JsonCreator;
import com.fasterxml.jackson.annotation.JsonValue;
import dastur.core.json.Texts;
import dastur.core.signal.SourceKey;

/** Names a partner, and the source of the signals that its new tickets are. */
public record PartnerKey(@JsonValue String value) implements Comparable<PartnerKey> {
    @JsonCreator(mode = JsonCreator.Mode.DELEGATING)
    public PartnerKey {
        Texts.checkId("partner's key", value);
    }

    public SourceKey source() {
        return new SourceKey(value);
    }

    @Override
    public int compareTo(PartnerKey other) {
        return value.compareTo(other.value);
    }

    @Override
    public String toString() {
        return value;
    }
}
