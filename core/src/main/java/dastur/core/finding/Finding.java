package dastur.core.finding;

import com.fasterxml.jackson.annotation.JsonValue;
import dastur.core.workflow.StepId;
import org.jspecify.annotations.Nullable;

/**
 * A fault of a workflow, found before it runs. A value, never thrown.
 *
 * @param code names the kind of fault, stable for machines
 * @param step the step it is about; null for the whole
 * @param exit the exit it is about; null when it is about no exit
 * @param field the part of the step to mend; null for the whole step
 * @param message one sentence: the thing, what is wrong, the next move
 */
public record Finding(
        String code,
        Severity severity,
        @Nullable StepId step,
        @Nullable String exit,
        @Nullable String field,
        String message) {
    /** Whether it keeps a workflow from being published. */
    public enum Severity {
        BLOCKS("blocks"),
        WARNS("warns");

        private final String word;

        Severity(String word) {
            this.word = word;
        }

        @JsonValue
        public String word() {
            return word;
        }
    }

    public boolean blocks() {
        return severity == Severity.BLOCKS;
    }
}
