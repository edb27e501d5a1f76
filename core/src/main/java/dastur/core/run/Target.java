package dastur.core.run;

import dastur.core.time.Span;
import java.time.Instant;
import org.jspecify.annotations.Nullable;

/**
 * How soon a ticket is to be responded to, or restored.
 *
 * @param due until when; null while it stands still
 * @param rest what is left of it while it stands still; null otherwise
 * @param working whether it counts in working time
 * @param metAt when it was responded to or restored; null before
 * @param missed whether that was too late, or is by now
 * @param promise what was promised, from when the ticket was raised; null in records from before it was kept
 */
public record Target(
        @Nullable Instant due,
        @Nullable Span rest,
        boolean working,
        @Nullable Instant metAt,
        boolean missed,
        @Nullable Span promise) {
    /** Which of the two. */
    public enum Kind {
        RESPOND("respond"),
        RESTORE("restore");

        private final String word;

        Kind(String word) {
            this.word = word;
        }

        @com.fasterxml.jackson.annotation.JsonValue
        public String word() {
            return word;
        }
    }

    /** Whether it runs: it is neither met nor does it stand still. */
    boolean runs() {
        return due != null && metAt == null;
    }

    /** Whether the clock has something to say about it. */
    boolean rings() {
        return runs() && !missed;
    }

    Target tooLate() {
        return new Target(due, rest, working, metAt, true, promise);
    }
}
