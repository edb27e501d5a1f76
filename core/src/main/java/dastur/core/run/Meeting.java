package dastur.core.run;

import com.fasterxml.jackson.annotation.JsonIgnore;
import java.time.Instant;
import org.jspecify.annotations.Nullable;

/**
 * What people are invited to, as their calendars keep it (RFC 5545, RFC 5546).
 *
 * @param key names it: what is said of it later is said of the same entry
 * @param sequence counts what was said of it; the higher holds
 * @param from when it begins; null where it is called off
 * @param until when it ends, after it begins; null where it is called off
 */
public record Meeting(
        String key,
        int sequence,
        @Nullable Instant from,
        @Nullable Instant until,
        @Nullable String place) {
    /** Whether it does not take place. */
    @JsonIgnore
    public boolean isOff() {
        return from == null;
    }
}
