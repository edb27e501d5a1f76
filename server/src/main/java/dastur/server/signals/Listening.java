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
import java.util.Optional;
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

    /** Looks now and then. @param says whether it is this node that says what it notices; each hears what is sent to it */
    void look(boolean says) {
        Instant now = clock.instant();
        if (lastLooked.plus(EVERY).isAfter(now) && !lastLooked.isAfter(now)) {
            return;
        }
        lastLooked = now;
        Set<SourceKey> asked = new HashSet<>();
        for (Source source : sources.all()) {
            if (source.open() && source.silentAfterMinutes() != null) {
                asked.add(source.key());
                since.putIfAbsent(source.key(), now);
            }
            if (says) {
                said(source, now).ifPresent(said -> intake.keep(source.key(), now, said));
            }
        }
        since.keySet().retainAll(asked);
    }

    private Optional<Silence.Said> said(Source source, Instant now) {
        Instant listening = since.get(source.key());
        return Silence.said(
                source,
                listening == null
                        ? null
                        : incoming.lastTimes(source.key(), 1).stream()
                                .findFirst()
                                .orElse(null),
                listening == null ? now : listening,
                matters.find(Silence.matter(source.key())).map(Held::matter).orElse(null),
                now);
    }
}
