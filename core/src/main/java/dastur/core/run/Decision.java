package dastur.core.run;

import java.util.List;
import java.util.Set;

/** What the engine says to a command. */
public sealed interface Decision {
    /** Accepted: these events follow, and the case is then this. */
    record Accepted(List<Recorded> events, Case after) implements Decision {}

    /**
     * Refused. Events may follow all the same: clocks that had come due, an approval that became void, a note that
     * somebody came too late.
     */
    record Refused(Refusal refusal, List<Recorded> events, Case after) implements Decision {}

    /** Values are missing; load them and ask again. */
    record Needs(Set<LookupKey> keys) implements Decision {}
}
