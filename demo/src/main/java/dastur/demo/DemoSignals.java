package dastur.demo;

import dastur.core.json.Json;
import dastur.core.signal.SourceKey;
import dastur.core.ticket.CiId;
import dastur.core.ticket.ConfigurationItem;
import dastur.core.ticket.TicketId;
import dastur.server.auth.Secrets;
import dastur.server.signals.Incomings;
import dastur.standins.BoardMonitor;
import dastur.standins.CopyVault;
import dastur.store.Consequences;
import dastur.store.Database;
import dastur.store.Incoming;
import dastur.store.Journal;
import dastur.store.Matters;
import dastur.store.Neighbours;
import dastur.store.Nodes;
import dastur.store.Organisation;
import dastur.store.Samples;
import dastur.store.Signals;
import dastur.store.Sources;
import dastur.store.Tickets;
import dastur.store.Workflows;
import java.time.Duration;
import java.time.Instant;
import java.time.ZoneOffset;
import java.time.temporal.ChronoUnit;
import java.util.List;
import java.util.Map;
import java.util.Optional;

/** Signals of the demo's past: kept as they would have come, and routed by the rules that hold for those which do. */
final class DemoSignals implements AutoCloseable {
    private static final Duration SAID_AGAIN = Duration.ofSeconds(20);
    /** The vault's disk was full in these nights, so many days ago. */
    private static final List<Integer> FULL = List.of(9, 23);

    private final DemoStage stage;
    private final Organisation organisation;
    private final Incoming incoming;
    private final Incomings incomings;
    private final Samples samples;
    private int count;

    DemoSignals(Database database, DemoStage stage) {
        this.stage = stage;
        this.organisation = new Organisation(database);
        this.incoming = new Incoming(database);
        this.samples = new Samples(database);
        this.incomings = new Incomings(new Incomings.Uses(
                incoming,
                new Matters(database),
                new Consequences(database),
                new Sources(database),
                new Signals(database),
                organisation,
                new Neighbours(database),
                new Workflows(database),
                new Tickets(database),
                stage.commands(),
                new Nodes(database),
                () -> false,
                stage::now));
    }

    /** A board stands still: the monitor says so, and again while it does. Returns the ticket that follows. */
    TicketId frozen(String board) {
        TicketId ticket = ticketOf(
                        comes(DemoSources.BOARDS, BoardMonitor.event(address(board), "FROZEN", 90, stage.now())))
                .orElseThrow(() -> new IllegalStateException("no ticket follows from a frozen " + board));
        for (int again = 1; again <= 2; again++) {
            stage.at(stage.now().plus(SAID_AGAIN));
            comes(DemoSources.BOARDS, BoardMonitor.event(address(board), "FROZEN", 90 + 20L * again, stage.now()));
        }
        return ticket;
    }

    /** One to try things with, kept by a name: boards stand still seldom. */
    void kept(Journal.By by, String board) {
        String says = Json.write(BoardMonitor.event(address(board), "FROZEN", 90, by.at()));
        samples.keep(by, DemoSources.BOARDS, "A board stands still", "{}", says);
    }

    /** Its picture moves again, and stays so. */
    void moves(String board) {
        comes(DemoSources.BOARDS, BoardMonitor.event(address(board), "MOVING", 0, stage.now()));
        stage.pass(6);
        settled();
    }

    private String address(String board) {
        return organisation.ci(new CiId(board)).map(ConfigurationItem::address).orElseThrow();
    }

    /** The vault writes a mail a night; twice it says that nothing was copied, and somebody makes room. */
    void copies(Instant today, int days) {
        Instant last = today.truncatedTo(ChronoUnit.DAYS);
        for (int ago = days; ago >= 1; ago--) {
            stage.at(last.minus(Duration.ofDays(ago))
                    .atOffset(ZoneOffset.UTC)
                    .withHour(1)
                    .toInstant());
            boolean fails = FULL.contains(ago);
            String id = comes(DemoSources.COPIES, CopyVault.mail("copy-" + ago + "@copies.kestrel.example", fails));
            if (fails) {
                madeRoom(ticketOf(id)
                        .orElseThrow(() -> new IllegalStateException("no ticket follows from a copy that failed")));
            }
        }
    }

    private void madeRoom(TicketId ticket) {
        stage.pass(400);
        stage.edit("ada", ticket, Map.of("state", "diagnosing", "assignee", "ada"));
        stage.pass(35);
        stage.edit(
                "ada",
                ticket,
                Map.of(
                        "state",
                        "closed",
                        "cause",
                        "The disk of the vault was full",
                        "done",
                        "Let the copies of last winter go",
                        "answer",
                        "The vault has room again; tonight it copies as usual."));
    }

    /** How many incidents follow from the vault's mails. */
    static int incidentsOfCopies() {
        return FULL.size();
    }

    private String comes(SourceKey source, Map<String, Object> said) {
        String raw = Json.write(said);
        String id = Incoming.idOf(stage.now()) + "%06x".formatted(++count) + "00000000";
        incoming.keep(List.of(new Incoming.Arrival(
                id, source, stage.now(), Secrets.hashToken("past " + id), Secrets.hashToken(raw), "{}", raw)));
        settled();
        return id;
    }

    private void settled() {
        while (incomings.work()) {
            // What was routed may be due to be looked at again.
        }
    }

    private Optional<TicketId> ticketOf(String signal) {
        return incoming.find(signal).map(whole -> whole.line().ticket());
    }

    @Override
    public void close() {
        incomings.close();
    }
}
