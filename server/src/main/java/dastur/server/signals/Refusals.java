package dastur.server.signals;

import dastur.core.json.Texts;
import dastur.core.signal.SourceKey;
import dastur.store.Incoming;
import java.time.Instant;
import java.time.temporal.ChronoUnit;
import java.util.HashMap;
import java.util.Map;

/** Counts what is refused at the door, so that a flood of it writes a row a minute (I1). */
public final class Refusals {
    /** More kinds of refusals a minute than that are one too many to tell apart. */
    private static final int MOST = 1_000;

    private record Of(SourceKey source, Instant minute, String reason) {}

    private record Count(long count, String words) {}

    private final Map<Of, Count> waiting = new HashMap<>();

    /** Counts one that was refused. @param reason a short word @param words what it was told */
    public synchronized void count(SourceKey source, String reason, String words, Instant now) {
        if (waiting.size() < MOST) {
            waiting.merge(
                    new Of(source, now.truncatedTo(ChronoUnit.MINUTES), reason),
                    new Count(1, Texts.clip(words, 500)),
                    (a, b) -> new Count(a.count() + 1, b.words()));
        }
    }

    /** Writes what was counted. */
    void write(Incoming incoming) {
        Map<Of, Count> all;
        synchronized (this) {
            all = Map.copyOf(waiting);
            waiting.clear();
        }
        all.forEach((of, c) ->
                incoming.refused(of.source(), new Incoming.Refused(of.minute(), of.reason(), c.count(), c.words())));
    }
}
