package dastur.server.api;

import dastur.core.people.PersonId;
import dastur.core.people.Right;
import dastur.core.record.Export;
import dastur.core.record.Seal;
import dastur.core.record.Signer;
import dastur.core.run.Assigned;
import dastur.core.run.Case;
import dastur.core.run.Engine;
import dastur.core.run.Recorded;
import dastur.core.ticket.TicketKind;
import dastur.server.http.Problem;
import dastur.server.http.Request;
import dastur.server.http.Route;
import dastur.server.http.WebServer;
import dastur.store.RecordLog;
import dastur.store.Records;
import dastur.store.Tickets;
import java.security.KeyPair;
import java.time.Instant;
import java.time.InstantSource;
import java.util.List;
import java.util.Map;
import java.util.TreeMap;
import java.util.stream.Stream;
import org.jspecify.annotations.Nullable;

/** A ticket's record, read and given out. */
final class RecordRoutes {
    private static final String NDJSON = "application/x-ndjson";

    private final OnTickets on;
    private final RecordViews views;
    private final Records records;
    private final Tickets tickets;
    private final RecordLog log;
    private final KeyPair signingKey;
    private final InstantSource clock;

    private RecordRoutes(
            OnTickets on,
            RecordViews views,
            Records records,
            Tickets tickets,
            RecordLog log,
            KeyPair signingKey,
            InstantSource clock) {
        this.on = on;
        this.views = views;
        this.records = records;
        this.tickets = tickets;
        this.log = log;
        this.signingKey = signingKey;
        this.clock = clock;
    }

    /** Something that was asked at that moment. */
    record AskedThen(
            String kind,
            String name,
            Assigned to,
            @Nullable PersonId claimedBy,
            @Nullable Instant due) {}

    /**
     * A ticket as it stood (O10): the fold of its entries up to one of them.
     *
     * @param at when that entry was made
     */
    record ThenView(
            long seq,
            Instant at,
            String state,
            boolean ended,
            Map<String, Object> fields,
            List<Views.RunView> runs,
            List<AskedThen> asked,
            Map<String, List<PersonId>> parts) {}

    static Stream<Route> of(
            OnTickets on,
            RecordViews views,
            Records records,
            Tickets tickets,
            RecordLog log,
            KeyPair signingKey,
            InstantSource clock) {
        RecordRoutes r = new RecordRoutes(on, views, records, tickets, log, signingKey, clock);
        return Stream.of(
                Route.get(
                        "/api/tickets/{number}/then/{seq}",
                        Right.SEE,
                        "A ticket as it stood after an entry of its record",
                        ThenView.class,
                        r::then),
                Route.get(
                        "/api/tickets/{number}/record",
                        Right.SEE,
                        "The record; as NDJSON when asked by Accept",
                        Views.RecordView.class,
                        r::record,
                        "after"));
    }

    private Object then(Request q) {
        Case now = on.found(q);
        long seq = q.path("seq", text -> {
            try {
                return Long.parseLong(text);
            } catch (NumberFormatException e) {
                throw new IllegalArgumentException("An entry's number is a whole number.", e);
            }
        });
        if (seq < 1 || seq > now.seq()) {
            throw Problem.notFound("The record of " + now.id() + " has entries 1 to " + now.seq() + ".")
                    .end();
        }
        Records.Checked checked = records.checked(now.id());
        checked.problem().filter(broken -> broken.seq() <= seq).ifPresent(broken -> {
            throw Problem.conflict("The record of " + now.id() + " is broken at entry " + broken.seq()
                            + "; how it stood cannot be said from there on.")
                    .end();
        });
        List<Recorded> record = checked.entries().stream()
                .filter(e -> e.seq() <= seq)
                .map(Seal::open)
                .toList();
        Case then = Engine.fold(now.id(), record);
        return new ThenView(
                seq,
                then.lastAt(),
                then.state(),
                TicketKind.ended(then.state()),
                new TreeMap<>(then.fields()),
                RunViews.then(then, tickets.runsOf(now.id()), record),
                then.open().values().stream()
                        .flatMap(run -> run.open().values().stream())
                        .flatMap(visit -> visit.waiting().asks().stream())
                        .map(a -> new AskedThen(a.kind(), a.name(), a.to(), a.claimedBy(), a.due()))
                        .toList(),
                then.parts());
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
