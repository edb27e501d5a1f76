package dastur.core.run;

import dastur.core.step.check.Check;
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
        Check.Sense sense,
        @Nullable Object value,
        @Nullable Object against,
        @Nullable Long ageSeconds,
        String why) {
    /** Something that should have stayed as it was has changed for the worse. */
    public boolean sideEffect() {
        return !holds && sense == Check.Sense.STAY;
    }
}
