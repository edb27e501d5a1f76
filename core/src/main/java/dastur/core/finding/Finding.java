package dastur.core.finding;

import com.fasterxml.jackson.annotation.JsonValue;
import dastur.core.workflow.StepId;
import java.util.List;
import org.jspecify.annotations.Nullable;

/**
 * A fault of a workflow, found before it runs. A value, never thrown.
 *
 * @param code names the kind of fault, stable for machines
 * @param step the step it is about; null for the whole
 * @param exit the exit it is about; null when it is about no exit
 * @param field the part of the step to mend; null for the whole step
 * @param message one sentence: the thing, what is wrong, the next move
 * @param path how a run comes to it; null where it does not depend on the way
 * @param repair what would mend it; null when nothing is clear enough
 */
public record Finding(
        String code,
        Severity severity,
        @Nullable StepId step,
        @Nullable String exit,
        @Nullable String field,
        String message,
        @Nullable List<PathStep> path,
        @Nullable Repair repair) {
    /** One move of a path that shows a fault. */
    public record PathStep(StepId step, String exit) {}

    /** A change that would mend it with one click. */
    public enum Repair {
        END_HERE("end here"),
        DELETE_STEP("delete step"),
        START_BY_HAND("start by hand");

        private final String word;

        Repair(String word) {
            this.word = word;
        }

        @JsonValue
        public String word() {
            return word;
        }
    }

    /** Whether it keeps a workflow from being published. */
    public enum Severity {
        BLOCKS("blocks"),
        WARNS("warns"),
        ADVISES("advises");

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
