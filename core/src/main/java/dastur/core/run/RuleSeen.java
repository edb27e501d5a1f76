package dastur.core.run;

import com.fasterxml.jackson.annotation.JsonValue;
import org.jspecify.annotations.Nullable;

/**
 * What one rule of a check saw (N22).
 *
 * @param value what was judged; null when absent
 * @param against what it was compared with; null when absent or not needed
 * @param ageSeconds how old the measurement was; null when its age does not count
 * @param why a sentence with the numbers
 */
public record RuleSeen(
        String name,
        boolean holds,
        Sense sense,
        @Nullable Object value,
        @Nullable Object against,
        @Nullable Long ageSeconds,
        String why) {
    /** Something that should have stayed as it was has changed for the worse. */
    public boolean sideEffect() {
        return !holds && sense == Sense.STAY;
    }

    /** What a rule is about: something meant to get better, or something that must not get worse. */
    public enum Sense {
        TURN_GOOD("should turn good"),
        STAY("should stay");

        private final String word;

        Sense(String word) {
            this.word = word;
        }

        @JsonValue
        public String word() {
            return word;
        }
    }
}
