package dastur.core.signal;

import com.fasterxml.jackson.annotation.JsonValue;
import org.jspecify.annotations.Nullable;

/**
 * A connected sender.
 *
 * @param open whether it is listened to; one that is shut refuses what comes
 * @param proof how its senders show who they are
 * @param otherwise what becomes of a fault that no trigger takes up
 * @param neverQuiet whether its faults are told in planned work too (I21)
 * @param group who gets the incidents that it opens by itself; null for the owner of the service
 */
public record Source(
        SourceKey key,
        String name,
        boolean open,
        Proof proof,
        Mapping mapping,
        Otherwise otherwise,
        boolean neverQuiet,
        @Nullable String group) {
    public Source {
        if (name == null || name.isBlank() || name.length() > 200) {
            throw new IllegalArgumentException("A source has a name of at most 200 characters.");
        }
    }

    /** How senders show who they are. */
    public enum Proof {
        /** A token in the Authorization header (RFC 6750). */
        TOKEN("token"),
        /** HMAC-SHA-256 over id, time and body, as Standard Webhooks describes it. */
        SIGNATURE("signature");

        private final String word;

        Proof(String word) {
            this.word = word;
        }

        @JsonValue
        public String word() {
            return word;
        }
    }

    /** What becomes of a fault that no trigger takes up (I5). */
    public enum Otherwise {
        KEPT("kept"),
        INCIDENT("incident");

        private final String word;

        Otherwise(String word) {
            this.word = word;
        }

        @JsonValue
        public String word() {
            return word;
        }
    }
}
