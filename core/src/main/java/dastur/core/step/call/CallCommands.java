package dastur.core.step.call;

import dastur.core.run.Command;
import dastur.core.run.Here;
import dastur.core.run.Refusal;
import dastur.core.run.RunId;
import dastur.core.run.VisitId;
import java.util.Map;
import java.util.Optional;

/** What other tickets say of runs that were sent there. */
public final class CallCommands {
    private CallCommands() {}

    /** Tells a visit that what it sent has begun. */
    public record SentBegan(VisitId visit, RunId run) implements Command.Returning {
        @Override
        public Optional<Refusal> treat(Here here) {
            return new SentCalls(here).began(this);
        }
    }

    /** Tells a visit that what it sent could not begin. */
    public record SentRefused(VisitId visit, String why) implements Command.Returning {
        @Override
        public Optional<Refusal> treat(Here here) {
            return new SentCalls(here).refused(this);
        }
    }

    /** Tells a visit how the run that it sent has ended. */
    public record SentEnded(VisitId visit, RunId run, String result, boolean stopped, Map<String, Object> results)
            implements Command.Returning {
        @Override
        public Optional<Refusal> treat(Here here) {
            return new SentCalls(here).ended(this);
        }
    }
}
