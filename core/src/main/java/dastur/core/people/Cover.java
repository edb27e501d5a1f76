package dastur.core.people;

import com.fasterxml.jackson.annotation.JsonValue;
import java.time.Instant;

/**
 * Who acts for a person who is away (N42).
 *
 * @param until the first moment at which it no longer counts
 */
public record Cover(PersonId person, PersonId cover, Instant from, Instant until, Scope scope) {
    /** What a cover takes over. */
    public enum Scope {
        ALL("all"),
        TASKS("tasks"),
        DECISIONS("decisions");

        private final String word;

        Scope(String word) {
            this.word = word;
        }

        @JsonValue
        public String word() {
            return word;
        }

        /** Whether the two have something in common. */
        public boolean meets(Scope other) {
            return this == ALL || other == ALL || this == other;
        }
    }

    public boolean countsAt(Instant moment) {
        return !moment.isBefore(from) && moment.isBefore(until);
    }
}
