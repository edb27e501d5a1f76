package dastur.store;

import dastur.core.json.Json;
import dastur.core.run.VisitId;
import dastur.core.ticket.TicketId;
import java.time.Duration;
import java.time.Instant;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import org.hibernate.StatelessSession;
import org.jspecify.annotations.Nullable;

/** Signals from outside and who waits for them; one that nobody waits for is kept for a while (D12). */
public final class Signals {
    /** How long a signal is kept for somebody who may still come to wait for it. */
    public static final Duration KEPT = Duration.ofDays(7);

    private final Database database;

    public Signals(Database database) {
        this.database = database;
    }

    /** The visit that waits longest for a signal; empty when none does. */
    public Optional<VisitId> waiting(String signal, @Nullable String key) {
        return database.read(session -> session
                .createSelectionQuery(
                        "select visit from SignalWaitRow where signal = ?1 and (signalKey is null or signalKey = ?2) order by since, visit",
                        String.class)
                .setParameter(1, signal)
                .setParameter(2, key == null ? "" : key)
                .setMaxResults(1)
                .getResultList()
                .stream()
                .findFirst()
                .map(VisitId::new));
    }

    /**
     * Keeps a signal, before anybody looks who waits for it: so that none is lost between the two (D12a). The same id again
     * changes nothing.
     *
     * @return whether it was kept before
     */
    public boolean keep(String id, String signal, @Nullable String key, Map<String, Object> values, Instant at) {
        return database.write(session -> session.doReturningWork(connection -> Jdbc.update(
                        connection,
                        "insert into signal_kept (id, signal, signal_key, body, came_at) select cast(? as varchar(120)),"
                                + " cast(? as varchar(200)), cast(? as varchar(200)), cast(? as varchar(100000)),"
                                + " cast(? as timestamp(3) with time zone)"
                                + " where not exists (select 1 from signal_kept where id = ?)",
                        id,
                        signal,
                        key,
                        Json.write(values),
                        at,
                        id)))
                == 0;
    }

    /** The visit that took a signal; empty while none did. */
    public Optional<VisitId> takenBy(String id) {
        return database.read(session -> Optional.ofNullable(session.get(Rows.SignalKeptRow.class, id)))
                .map(row -> row.taken)
                .map(VisitId::new);
    }

    /** Tickets with visits that wait for a signal, after one of them in order. */
    public List<TicketId> waiting(String after) {
        return database.read(session -> session
                .createSelectionQuery(
                        "select distinct ticket from SignalWaitRow where ticket > ?1 order by ticket", String.class)
                .setParameter(1, after)
                .setMaxResults(Tickets.PAGE)
                .getResultList()
                .stream()
                .map(TicketId::new)
                .toList());
    }

    public int forgetBefore(Instant moment) {
        return database.write(session -> session.createMutationQuery("delete SignalKeptRow where cameAt < ?1")
                .setParameter(1, moment)
                .executeUpdate());
    }

    /** The oldest kept one that came since a moment and that nothing took; whoever decides on it takes it by claim. */
    static Optional<Rows.SignalKeptRow> oldest(
            StatelessSession session, String signal, @Nullable String key, Instant since) {
        return session
                .createSelectionQuery(
                        "from SignalKeptRow where signal = ?1 and taken is null and (?2 = '' or signalKey = ?2) and cameAt >= ?3"
                                + " order by cameAt, id",
                        Rows.SignalKeptRow.class)
                .setParameter(1, signal)
                .setParameter(2, key == null ? "" : key)
                .setParameter(3, since)
                .setMaxResults(1)
                .getResultList()
                .stream()
                .findFirst();
    }
}
