package dastur.connectors;

import com.fasterxml.jackson.annotation.JsonValue;
import java.util.Collections;
import java.util.List;
import java.util.function.UnaryOperator;
import org.jspecify.annotations.Nullable;

/**
 * What is found out over a connection without doing anything there (M6).
 *
 * @param reached whether somebody answered
 * @param letIn whether we were let in with the connection's secret
 * @param why not; null where all is well or nothing is known
 * @param given whether what each call needs is given, in the order of the calls
 */
public record Greeted(Says reached, Says letIn, @Nullable String why, List<Given> given) {
    /** What is known. */
    public enum Says {
        YES("yes"),
        NO("no"),
        CANNOT_SAY("cannot say");

        private final String word;

        Says(String word) {
            this.word = word;
        }

        @JsonValue
        public String word() {
            return word;
        }
    }

    /** Whether a right is given. @param why not, or why that cannot be said; null where there is nothing to say */
    public record Given(Says says, @Nullable String why) {
        static final Given YES = new Given(Says.YES, null);

        static Given no(String why) {
            return new Given(Says.NO, why);
        }

        static Given cannotSay(String why) {
            return new Given(Says.CANNOT_SAY, why);
        }
    }

    public Greeted {
        given = List.copyOf(given);
    }

    /** Somebody has let us in. */
    static Greeted in(List<Given> given) {
        return new Greeted(Says.YES, Says.YES, null, given);
    }

    /** It could not be tried. */
    static Greeted untried(String why, int calls) {
        return new Greeted(Says.CANNOT_SAY, Says.CANNOT_SAY, why, unsaid(calls));
    }

    /** It went no further than this. */
    static Greeted broken(Answers.Definite e, UnaryOperator<String> scrub, int calls) {
        return new Greeted(
                e.isOurs() ? Says.CANNOT_SAY : e.isUnreached() ? Says.NO : Says.YES,
                e.isOurs() || e.isUnreached() ? Says.CANNOT_SAY : Says.NO,
                scrub.apply(String.valueOf(e.getMessage())),
                unsaid(calls));
    }

    private static List<Given> unsaid(int calls) {
        return Collections.nCopies(calls, Given.cannotSay("It went no further."));
    }
}
