package dastur.server.api;

import dastur.core.people.Right;
import dastur.core.record.Export;
import dastur.core.record.Signer;
import dastur.core.run.Case;
import dastur.server.http.Problem;
import dastur.server.http.Request;
import dastur.server.http.Route;
import dastur.server.http.WebServer;
import dastur.store.RecordLog;
import dastur.store.Records;
import java.security.KeyPair;
import java.time.Instant;
import java.time.InstantSource;
import java.util.stream.Stream;

/** A ticket's record, read and given out. */
final class RecordRoutes {
    private static final String NDJSON = "application/x-ndjson";

    private final OnTickets on;
    private final RecordViews views;
    private final Records records;
    private final RecordLog log;
    private final KeyPair signingKey;
    private final InstantSource clock;

    private RecordRoutes(
            OnTickets on, RecordViews views, Records records, RecordLog log, KeyPair signingKey, InstantSource clock) {
        this.on = on;
        this.views = views;
        this.records = records;
        this.log = log;
        this.signingKey = signingKey;
        this.clock = clock;
    }

    static Stream<Route> of(
            OnTickets on, RecordViews views, Records records, RecordLog log, KeyPair signingKey, InstantSource clock) {
        RecordRoutes r = new RecordRoutes(on, views, records, log, signingKey, clock);
        return Stream.of(Route.get(
                "/api/tickets/{number}/record",
                Right.SEE,
                "The record; as NDJSON when asked by Accept",
                Views.RecordView.class,
                r::record,
                "after"));
    }

    private Object record(Request q) {
        Case c = on.found(q);
        String accept = q.context().header("Accept");
        return accept != null && accept.contains("ndjson")
                ? new WebServer.Raw(NDJSON, export(c))
                : views.of(c, after(q));
    }

    private static long after(Request q) {
        try {
            return Math.max(0, q.query("after").map(Long::parseLong).orElse(0L));
        } catch (NumberFormatException e) {
            throw Problem.malformed("after", "'after' is the number of an entry.")
                    .end();
        }
    }

    /**
     * All entries, and a signed trailer with what shows that the log holds them (D23). What was written a moment ago is entered
     * and signed first; a record that is not what was written is not given out.
     */
    private String export(Case c) {
        Instant now = clock.instant();
        log.catchUp();
        try {
            log.sign(now);
        } catch (Signer.NotAnExtension e) {
            throw Problem.conflict(e.getMessage() + " Nothing is signed or given out until that is looked into.")
                    .end();
        }
        Records.Checked checked = records.checked(c.id());
        checked.problem().ifPresent(broken -> {
            throw Problem.conflict("The record of " + c.id() + " is broken at entry " + broken.seq() + ": "
                            + broken.message() + ". It is not signed and not given out.")
                    .end();
        });
        RecordLog.Covered covered = log.covered(c.id()).orElseThrow();
        StringBuilder out = new StringBuilder();
        // Not what was written since: the log would not show it yet.
        checked.entries().stream().filter(e -> e.seq() <= covered.seq()).forEach(e -> out.append(Export.line(e))
                .append('\n'));
        return out.append(Export.trailer(c.id(), covered.seq(), covered.hash(), covered.proof(), now, signingKey))
                .append('\n')
                .toString();
    }
}
