package dastur.store;

import dastur.core.feed.Subscription;
import dastur.core.feed.SubscriptionKey;
import dastur.core.json.Texts;
import java.sql.Connection;
import java.sql.ResultSet;
import java.sql.SQLException;
import java.time.Duration;
import java.time.Instant;
import java.time.OffsetDateTime;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import org.jspecify.annotations.Nullable;

/** Who is told, how far, and what became of each event (I17). */
public final class Subscriptions {
    /** So long deliveries are listed. */
    public static final Duration KEPT = Duration.ofDays(30);

    static final String KIND = "subscription";

    /**
     * Where one stands.
     *
     * @param upto the place in the log up to which it was told
     * @param failures tries in a row that were not taken
     * @param gone whether the other side said that nobody is there any more
     */
    public record Stand(
            long upto,
            int failures,
            @Nullable Instant failingSince,
            @Nullable Instant pausedUntil,
            boolean gone) {
        /** Told up to a place, with nothing the matter. */
        public static Stand at(long place) {
            return new Stand(place, 0, null, null, false);
        }
    }

    /** What became of an event. @param state {@code delivered}, {@code tried} or {@code parked} */
    public record Delivery(String event, long place, String kind, Instant at, String state, int tries, String answer) {
        /** Whether it is tried no more by itself. */
        public boolean isOver() {
            return !state.equals("tried");
        }
    }

    private final Database database;

    public Subscriptions(Database database) {
        this.database = database;
    }

    public List<Subscription> all() {
        return database.read(session -> References.documents(session, KIND, Subscription.class));
    }

    public Optional<Subscription> find(SubscriptionKey key) {
        return database.read(session -> References.document(session, KIND, key.value(), Subscription.class));
    }

    /** Sets one up without a line in the journal; for filling an empty database. */
    public void put(Subscription subscription) {
        database.run(session ->
                References.putDocument(session, KIND, subscription.key().value(), subscription));
    }

    /** Where they stand, by key. */
    public Map<SubscriptionKey, Stand> stand() {
        return database.read(session -> session.doReturningWork(c -> {
            Map<SubscriptionKey, Stand> all = new HashMap<>();
            Jdbc.query(
                    c,
                    "select subscription, upto, failures, failing_since, paused_until, gone from subscription_stand",
                    r -> all.put(
                            new SubscriptionKey(r.getString(1)),
                            new Stand(r.getLong(2), r.getInt(3), instant(r, 4), instant(r, 5), r.getBoolean(6))));
            return all;
        }));
    }

    private static @Nullable Instant instant(ResultSet r, int column) throws SQLException {
        OffsetDateTime at = r.getObject(column, OffsetDateTime.class);
        return at == null ? null : at.toInstant();
    }

    /** Begins, or goes on, from where it stands. */
    public void stand(SubscriptionKey key, Stand stand) {
        told(key, List.of(), stand);
    }

    /** Writes what became of events, and where it stands then, all at once. */
    public void told(SubscriptionKey key, List<Delivery> deliveries, Stand stand) {
        database.run(session -> session.doWork(c -> {
            for (Delivery d : deliveries) {
                came(c, key, d);
            }
            Jdbc.update(c, "delete from subscription_stand where subscription = ?", key.value());
            Jdbc.update(
                    c,
                    "insert into subscription_stand (subscription, upto, failures, failing_since, paused_until, gone)"
                            + " values (?, ?, ?, ?, ?, ?)",
                    key.value(),
                    stand.upto(),
                    stand.failures(),
                    stand.failingSince(),
                    stand.pausedUntil(),
                    stand.gone());
        }));
    }

    /** Forgets where one stands: when it is switched on again it is told from then on. */
    public void end(SubscriptionKey key) {
        database.run(session -> session.doWork(
                c -> Jdbc.update(c, "delete from subscription_stand where subscription = ?", key.value())));
    }

    /** Writes what became of an event. */
    public void came(SubscriptionKey key, Delivery d) {
        database.run(session -> session.doWork(c -> came(c, key, d)));
    }

    private static void came(Connection c, SubscriptionKey key, Delivery d) throws SQLException {
        Jdbc.update(c, "delete from delivery where subscription = ? and event = ?", key.value(), d.event());
        Jdbc.update(
                c,
                "insert into delivery (subscription, event, place, kind, at, state, tries, answer)"
                        + " values (?, ?, ?, ?, ?, ?, ?, ?)",
                key.value(),
                d.event(),
                d.place(),
                d.kind(),
                d.at(),
                d.state(),
                d.tries(),
                Texts.clip(d.answer(), 500));
    }

    /** What became of events of a part of the log, by event. */
    public Map<String, Delivery> within(SubscriptionKey key, long after, long upto) {
        return database.read(session -> session.doReturningWork(c -> {
            Map<String, Delivery> all = new HashMap<>();
            Jdbc.query(c, SELECT + " and place > ? and place <= ?", Subscriptions::delivery, key.value(), after, upto)
                    .forEach(d -> all.put(d.event(), d));
            return all;
        }));
    }

    /** For each ticket the last event that came to an end before a place, where that was given up: the gap to be told of. */
    public Map<String, String> gaps(SubscriptionKey key, long before) {
        return database.read(session -> session.doReturningWork(c -> {
            Map<String, Delivery> last = new HashMap<>();
            boolean any = !Jdbc.query(
                            c,
                            "select 1 from delivery where subscription = ? and state = 'parked' fetch first 1 rows only",
                            r -> 1,
                            key.value())
                    .isEmpty();
            if (any) {
                Jdbc.query(
                                c,
                                SELECT + " and place <= ? and state <> 'tried' order by place, at",
                                Subscriptions::delivery,
                                key.value(),
                                before)
                        .forEach(d -> last.put(ticketOf(d.event()), d));
            }
            Map<String, String> gaps = new HashMap<>();
            last.forEach((ticket, d) -> {
                if (d.state().equals("parked")) {
                    gaps.put(ticket, d.event());
                }
            });
            return gaps;
        }));
    }

    private static String ticketOf(String event) {
        return event.substring(0, event.indexOf('/'));
    }

    private static final String SELECT =
            "select event, place, kind, at, state, tries, answer from delivery where subscription = ?";

    private static Delivery delivery(ResultSet r) throws SQLException {
        return new Delivery(
                r.getString(1),
                r.getLong(2),
                r.getString(3),
                r.getObject(4, OffsetDateTime.class).toInstant(),
                r.getString(5),
                r.getInt(6),
                r.getString(7));
    }

    public Optional<Delivery> delivery(SubscriptionKey key, String event) {
        return database.read(session -> session.doReturningWork(
                c -> Jdbc.query(c, SELECT + " and event = ?", Subscriptions::delivery, key.value(), event).stream()
                        .findFirst()));
    }

    /** What became of events of late, the latest first. */
    public List<Delivery> latest(SubscriptionKey key, int most) {
        return database.read(session -> session.doReturningWork(c -> Jdbc.query(
                c,
                SELECT + " order by place desc, event desc fetch first ? rows only",
                Subscriptions::delivery,
                key.value(),
                most)));
    }

    /** Forgets what became of events before a moment. */
    public void forgetBefore(Instant moment) {
        database.run(session -> session.doWork(c -> Jdbc.update(c, "delete from delivery where at < ?", moment)));
    }
}
