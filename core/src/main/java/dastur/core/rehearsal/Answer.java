package dastur.core.rehearsal;

import com.fasterxml.jackson.annotation.JsonInclude;
import com.fasterxml.jackson.annotation.JsonValue;
import dastur.core.time.Span;
import dastur.core.workflow.StepId;
import java.util.Map;
import org.jspecify.annotations.Nullable;

/**
 * What somebody or something answers in a rehearsal.
 *
 * @param step the step that waits; its oldest open visit is meant
 * @param says the kind of answer
 * @param exit the outcome of a task, the exit of a machine, or the verdict of a review; null for the expected one
 * @param values form values of a task, outputs of a machine, values of a signal; null for none
 * @param after how long it takes; null for a typical time
 */
@JsonInclude(JsonInclude.Include.NON_NULL)
public record Answer(
        StepId step,
        Says says,
        @Nullable String exit,
        @Nullable Map<String, Object> values,
        @Nullable Span after) {
    /** Kinds of answers. */
    public enum Says {
        /** Does the task, or brings the machine's result, by an exit. */
        DOES("does"),
        APPROVES("approves"),
        DECLINES("declines"),
        /** The machine fails. */
        FAILS("fails"),
        /** Nobody answers until the clock does something. */
        NOTHING("nothing"),
        /** The signal comes. */
        SIGNALS("signals"),
        /** Somebody writes the reply; its text is the value {@code text}. */
        REPLIES("replies"),
        /** A reviewer's verdict, as exit. */
        REVIEWS("reviews"),
        /** Comes when called in. */
        ACCEPTS("accepts"),
        /** Cannot come. */
        CANNOT("cannot"),
        /** Leaves an optional task out. */
        LEAVES_OUT("leaves out");

        private final String word;

        Says(String word) {
            this.word = word;
        }

        @JsonValue
        public String word() {
            return word;
        }
    }

    public static Answer of(StepId step, Says says) {
        return new Answer(step, says, null, null, null);
    }

    public static Answer does(StepId step, String exit) {
        return new Answer(step, Says.DOES, exit, null, null);
    }

    /** The values it gives; none where it gives none. */
    public Map<String, Object> given() {
        return values == null ? Map.of() : values;
    }

    /** The answer in words, for lists of what leads to an ending. */
    public String words() {
        return step + ": " + says.word() + (exit == null ? "" : " “" + exit + "”");
    }
}
