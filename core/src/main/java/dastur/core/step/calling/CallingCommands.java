package dastur.core.step.calling;

import dastur.core.run.Command;
import dastur.core.run.Here;
import dastur.core.run.Refusal;
import dastur.core.run.VisitId;
import java.util.Map;
import java.util.Optional;
import org.jspecify.annotations.Nullable;

/** What workers bring back. */
public final class CallingCommands {
    private CallingCommands() {}

    /** What a worker brings back from a call. */
    public record CallResult(VisitId visit, int attempt, CallOutcome outcome) implements Command.Returning {
        @Override
        public Optional<Refusal> treat(Here here) {
            return new CallResults(here).result(this);
        }
    }

    /** How a call ended, as far as the worker knows. */
    public sealed interface CallOutcome {
        record Done(
                String exit,
                Map<String, Object> outputs,
                @Nullable String reference,
                @Nullable String link,
                String log,
                long tookMillis,
                int polls)
                implements CallOutcome {}

        /**
         * It certainly did not happen, or the other side said no.
         *
         * @param unreached whether nobody was there to say anything: enough of these, and calls over the connection are held
         *     back for a time (M6)
         */
        record Failed(String why, boolean unreached) implements CallOutcome {
            public Failed(String why) {
                this(why, false);
            }
        }

        /** Nobody knows. */
        record Unknown(String why) implements CallOutcome {}

        /**
         * A fault on this side: another try would meet it again, so there is none by itself.
         *
         * @param sent whether it may have gone out before the fault
         */
        record Fault(String why, boolean sent) implements CallOutcome {}
    }
}
