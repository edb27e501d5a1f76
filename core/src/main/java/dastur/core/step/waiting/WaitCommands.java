package dastur.core.step.waiting;

import dastur.core.run.Command;
import dastur.core.run.Here;
import dastur.core.run.Refusal;
import dastur.core.run.VisitId;
import java.util.Map;
import java.util.Optional;

/** What comes for waits. */
public final class WaitCommands {
    private WaitCommands() {}

    /** A signal has come for a visit that waits for it. */
    public record SignalCame(VisitId visit, String signalId, Map<String, Object> values) implements Command.Returning {
        @Override
        public Optional<Refusal> treat(Here here) {
            return new WaitRules(here).signalCame(this);
        }

        /** Whoever works on tickets may give a signal by hand. */
        @Override
        public boolean byPeople() {
            return true;
        }
    }
}
