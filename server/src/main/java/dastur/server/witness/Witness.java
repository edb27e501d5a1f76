package dastur.server.witness;

import dastur.core.record.Checkpoint;
import dastur.core.record.Witnessed;
import java.time.Duration;
import org.jspecify.annotations.Nullable;

/** Somebody outside who is given signed statements of how far the log reaches. */
interface Witness {
    /** It could not be given. The message says why, for people. */
    final class NotGiven extends Exception {
        private static final long serialVersionUID = 1;

        NotGiven(String message) {
            super(message);
        }

        NotGiven(String message, Throwable cause) {
            super(message, cause);
        }
    }

    Witnessed.Kind kind();

    /** As people know it; no two have the same. Stands in exports, so it holds no secret. */
    String name();

    /** How often it is given one. */
    Duration every();

    /**
     * Gives one away, within limits of time and bytes.
     *
     * @return what was given back, in base64; null where nothing is
     */
    @Nullable String give(Checkpoint checkpoint) throws NotGiven;
}
