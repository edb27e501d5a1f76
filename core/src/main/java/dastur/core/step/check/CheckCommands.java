package dastur.core.step.check;

import dastur.core.run.Command;
import dastur.core.run.Here;
import dastur.core.run.Refusal;
import dastur.core.run.VisitId;
import java.util.Arrays;
import java.util.Optional;
import org.jspecify.annotations.Nullable;

/** What people say to checks. */
public final class CheckCommands {
    private CheckCommands() {}

    /** What a reviewer of a check says. */
    public enum ReviewVerdict {
        ACCEPT("accept"),
        MEASURE_AGAIN("measure again"),
        PUT_BACK("put back"),
        /** It does not hold, and the run goes on along that way. */
        REFUSE("does not hold");

        private final String word;

        ReviewVerdict(String word) {
            this.word = word;
        }

        @com.fasterxml.jackson.annotation.JsonValue
        public String word() {
            return word;
        }

        /** The verdict of that word; accepted where it is none. */
        static ReviewVerdict of(@Nullable String word) {
            return Arrays.stream(values())
                    .filter(v -> v.word.equals(word))
                    .findFirst()
                    .orElse(ACCEPT);
        }
    }

    public record ReviewCheck(
            VisitId visit, ReviewVerdict verdict, @Nullable String reason) implements Command.Answering {
        @Override
        public Optional<Refusal> treat(Here here) {
            return new CheckRules(here).review(this);
        }
    }
}
