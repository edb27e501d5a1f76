package dastur.server.api;

import dastur.core.signal.Reading;
import dastur.core.signal.Source;
import dastur.server.App.Signalling;
import dastur.server.http.Problem;
import dastur.store.Incoming;
import dastur.store.Samples;
import java.time.Instant;

/** What came from a source, or is kept of it by a name: what a mapping reads, both JSON. */
record Given(String headers, String raw) {
    /** The id of what has not come. */
    private static final String SAMPLE = "sample";

    /** One that came. */
    static Given came(Signalling signalling, Source source, String id) {
        Incoming.Whole whole = whole(signalling, source, id);
        return new Given(whole.headers(), whole.raw());
    }

    /** One that is kept by a name. */
    static Given kept(Signalling signalling, Source source, String name) {
        Samples.Sample sample = sample(signalling, source, name);
        return new Given(sample.headers(), sample.raw());
    }

    static Incoming.Whole whole(Signalling signalling, Source source, String id) {
        return signalling
                .incoming()
                .find(id)
                .filter(w -> w.line().source().equals(source.key()))
                .orElseThrow(() -> Problem.notFound("This signal is not kept, or of another source.")
                        .end());
    }

    static Samples.Sample sample(Signalling signalling, Source source, String name) {
        return signalling.samples().find(source.key(), name).orElseThrow(() -> Problem.notFound(
                        "No sample of this name is kept.")
                .end());
    }

    /** As it would be read if it came now. */
    Reading readAt(Signalling signalling, Source by, Instant now) {
        return signalling.understanding().read(by, SAMPLE, now, headers, raw);
    }
}
