package dastur.store;

import dastur.core.record.Mac;
import java.util.Optional;
import org.jspecify.annotations.Nullable;

/** A password's hash with a code that shows whose it is and that the application wrote it (K14). */
final class StoredPassword {
    /** Between the hash and its code; stands in neither. */
    static final char SEPARATOR = '|';

    private StoredPassword() {}

    static @Nullable String of(Mac mac, String person, @Nullable String hash) {
        return hash == null ? null : hash + SEPARATOR + mac.over("password", person, hash);
    }

    /** The hash; empty when there is none, or its code is not that of this person's. */
    static Optional<String> hash(Mac mac, String person, @Nullable String stored) {
        int at = stored == null ? -1 : stored.indexOf(SEPARATOR);
        if (at < 0) {
            return Optional.empty();
        }
        String hash = stored.substring(0, at);
        return mac.holds(stored.substring(at + 1), "password", person, hash) ? Optional.of(hash) : Optional.empty();
    }
}
