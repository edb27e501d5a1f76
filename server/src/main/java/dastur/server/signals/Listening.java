package dastur.server.signals;

import dastur.core.signal.Silence;
import dastur.core.signal.Source;
import dastur.core.signal.SourceKey;
import dastur.store.Incoming;
import dastur.store.Matters;
import dastur.store.Matters.Held;
import dastur.store.Sources;
import java.time.Duration;
import java.time.Instant;
import java.time.InstantSource;
import java.util.HashMap;
import java.util.HashSet;
import java.util.Map;
import java.util.Set;

/** Notices that nothing comes from a source any more (I2), on the node that routes signals. */
final class Listening {
    private static final Duration EVERY = Duration.ofSeconds(15);

    private final Sources sources;
    private final Incoming incoming;
    private final Matters matters;
    private final Intake intake;
    private final InstantSource clock;
    /** Since when this node hears what each of them sends: before, nothing may have come because nobody was there to take it. */
    private final Map<SourceKey, Instant> since = new HashMap<>();

    private Instant lastLooked = Instant.MIN;

    Listening(Sources sources, Incoming incoming, Matters matters, Intake intake, InstantSource clock) {
        this.sources = sources;
        this.incoming = incoming;
        this.matters = matters;
        this.intake = intake;
        this.clock = clock;
    }

    /** Looks now and then. @param here whether it is this node that says so */
    void look(boolean here) {
        if (!here) {
            since.clear();
            return;
        }
        Instant now = clock.instant();
        if (lastLooked.plus(EVERY).isAfter(now) && !lastLooked.isAfter(now)) {
            return;
        }
        lastLooked = now;
        Set<SourceKey> open = new HashSet<>();
        for (Source source : sources.all()) {
            if (source.open() && source.silentAfterMinutes() != null) {
                open.add(source.key());
            }
            look(source, now);
        }
        since.keySet().retainAll(open);
    }

    private void look(Source source, Instant now) {
        boolean asked = source.open() && source.silentAfterMinutes() != null;
        Instant listening = asked ? since.computeIfAbsent(source.key(), k -> now) : now;
        Silence.said(
                        source,
                        asked
                                ? incoming.lastTimes(source.key(), 1).stream()
                                        .findFirst()
                                        .orElse(null)
                                : null,
                        listening,
                        matters.find(Silence.matter(source.key()))
                                .map(Held::matter)
                                .orElse(null),
                        now)
                .ifPresent(said -> intake.keep(source.key(), now, said));
    }
}
