package dastur.store;

import dastur.core.feed.Subscription;
import dastur.core.feed.SubscriptionKey;
import dastur.core.json.Texts;
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

    public void stand(SubscriptionKey key, Stand stand) {
        database.run(session -> session.doWork(c -> {
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
        database.run(session -> session.doWork(c -> {
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
        }));
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

    /** The last event of a ticket that was given up, where none of it was taken since; for the gap to be told. */
    public Optional<String> gap(SubscriptionKey key, String ticket, long before) {
        return database.read(session -> session.doReturningWork(c -> Jdbc.query(
                        c,
                        SELECT + " and event like ? and place <= ? order by place desc, at desc"
                                + " fetch first 1 rows only",
                        Subscriptions::delivery,
                        key.value(),
                        ticket + "/%",
                        before)
                .stream()
                .filter(d -> d.state().equals("parked"))
                .map(Delivery::event)
                .findFirst()));
    }

    public void forgetBefore(Instant moment) {
        database.run(session -> session.doWork(c -> Jdbc.update(c, "delete from delivery where at < ?", moment)));
    }
}
