package dastur.store;

import dastur.core.json.Json;
import dastur.core.run.VisitId;
import java.time.Duration;
import java.time.Instant;
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

    /** Keeps a signal; the same id again changes nothing. */
    public void keep(String id, String signal, @Nullable String key, Map<String, Object> values, Instant at) {
        database.run(session -> {
            if (session.get(Rows.SignalKeptRow.class, id) == null) {
                Rows.SignalKeptRow row = new Rows.SignalKeptRow();
                row.id = id;
                row.signal = signal;
                row.signalKey = key;
                row.body = Json.write(values);
                row.cameAt = at;
                session.insert(row);
            }
        });
    }

    /** Whether a signal is kept; for those who wonder what became of it. */
    public boolean kept(String id) {
        return database.read(session -> session.get(Rows.SignalKeptRow.class, id) != null);
    }

    public int forgetBefore(Instant moment) {
        return database.write(session -> session.createMutationQuery("delete SignalKeptRow where cameAt < ?1")
                .setParameter(1, moment)
                .executeUpdate());
    }

    /** The oldest kept one that came since a moment; locked, so that it counts for one visit only. */
    static Optional<Rows.SignalKeptRow> oldest(
            StatelessSession session, String signal, @Nullable String key, Instant since) {
        return session
                .createSelectionQuery(
                        "from SignalKeptRow where signal = ?1 and (?2 = '' or signalKey = ?2) and cameAt >= ?3 order by cameAt, id",
                        Rows.SignalKeptRow.class)
                .setParameter(1, signal)
                .setParameter(2, key == null ? "" : key)
                .setParameter(3, since)
                .setMaxResults(1)
                .setHibernateLockMode(org.hibernate.LockMode.PESSIMISTIC_WRITE)
                .getResultList()
                .stream()
                .findFirst();
    }
}
