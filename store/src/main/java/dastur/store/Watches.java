package dastur.store;

import dastur.core.json.Json;
import dastur.core.json.Texts;
import dastur.core.signal.SourceKey;
import dastur.core.start.Extremes;
import dastur.core.start.Watch;
import dastur.core.start.Watching;
import java.sql.Connection;
import java.sql.ResultSet;
import java.sql.SQLException;
import java.time.Duration;
import java.time.Instant;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import org.jspecify.annotations.Nullable;

/** The watches that are set up, where they stand, and what they saw (I11). */
public final class Watches {
    /** So long it is told what a watch saw, in stretches. */
    public static final Duration KEPT = Duration.ofDays(730);

    /** So long each reading is told by itself: at most 60,480 of a watch. */
    public static final Duration READINGS_KEPT = Duration.ofDays(7);

    /** So many readings are forgotten in one change: nobody else waits long for it. */
    private static final int FORGOTTEN_AT_ONCE = 5_000;

    static final String KIND = "watch";
    private static final int MAX_VALUES = 4_000;

    /**
     * Where one stands.
     *
     * @param next when it looks next
     * @param passed how many times were passed over, since a reading took longer than one
     */
    public record Standing(Instant next, long passed, Watching.Stand stand) {}

    /**
     * Readings in a row that said the same.
     *
     * @param values of the last of them, as JSON; {@code {}} where they are longer than {@value #MAX_VALUES} characters
     * @param note why it could not be read
     * @param extremes between what its numbers lay; what was read before these were kept does not count
     */
    public record Stretch(
            Instant from,
            Instant to,
            String said,
            long count,
            String values,
            @Nullable String note,
            Extremes extremes) {}

    /** One reading. @param values as JSON, like those of a stretch @param note why it could not be read */
    public record Single(
            Instant at,
            String said,
            String values,
            @Nullable String note) {}

    private final Database database;

    public Watches(Database database) {
        this.database = database;
    }

    public List<Watch> all() {
        return database.read(session -> References.documents(session, KIND, Watch.class));
    }

    public Optional<Watch> find(SourceKey key) {
        return database.read(session -> References.document(session, KIND, key.value(), Watch.class));
    }

    /** Sets one up without a line in the journal; for filling an empty database. */
    public void put(Watch watch) {
        database.run(
                session -> References.putDocument(session, KIND, watch.key().value(), watch));
    }

    /** Where they stand, by key. */
    public Map<SourceKey, Standing> standing() {
        return database.read(session -> session.doReturningWork(c -> {
            Map<SourceKey, Standing> all = new HashMap<>();
            Jdbc.query(c, "select watch, next_at, passed, body from watch_stand", r -> {
                all.put(
                        new SourceKey(r.getString(1)),
                        new Standing(Incoming.at(r, 2), r.getLong(3), Json.read(r.getString(4), Watching.Stand.class)));
                return null;
            });
            return all;
        }));
    }

    /** Begins to look, from nothing. */
    public void begin(SourceKey watch, Instant next) {
        database.run(session -> session.doWork(c -> {
            Jdbc.update(c, "delete from watch_stand where watch = ?", watch.value());
            Jdbc.update(
                    c,
                    "insert into watch_stand (watch, next_at, passed, body) values (?, ?, 0, ?)",
                    watch.value(),
                    next,
                    Json.write(Watching.Stand.NEW));
        }));
    }

    /** Stops looking; what was said stays as it is. */
    public void end(SourceKey watch) {
        database.run(session ->
                session.doWork(c -> Jdbc.update(c, "delete from watch_stand where watch = ?", watch.value())));
    }

    /** Claims a time: only one looks. @param passed how many times before were passed over */
    public boolean claim(SourceKey watch, Instant due, Instant next, long passed) {
        return database.writeIf(
                session -> session.doReturningWork(c -> Jdbc.update(
                                c,
                                "update watch_stand set next_at = ?, passed = passed + ? where watch = ? and next_at = ?",
                                next,
                                passed,
                                watch.value(),
                                due)
                        == 1),
                claimed -> claimed);
    }

    /** Writes what was read, and where the watch stands then. */
    public void saw(SourceKey watch, Watching.Reading reading, Watching.Stand stand) {
        String values = Json.write(reading.values());
        Single single = new Single(
                reading.at(),
                reading.said().word(),
                values.length() <= MAX_VALUES ? values : "{}",
                reading.why() == null ? null : Texts.clip(reading.why(), 1_000));
        database.run(session -> session.doWork(c -> {
            Jdbc.update(c, "update watch_stand set body = ? where watch = ?", Json.write(stand), watch.value());
            Jdbc.update(
                    c,
                    "insert into watch_reading (watch, at, said, read_values, note) values (?, ?, ?, ?, ?)",
                    watch.value(),
                    single.at(),
                    single.said(),
                    single.values(),
                    single.note());
            Optional<Stretch> last = Jdbc.query(
                            c,
                            SELECT + " order by from_at desc fetch first 1 rows only",
                            Watches::stretch,
                            watch.value())
                    .stream()
                    .findFirst()
                    .filter(s -> s.said().equals(single.said()));
            if (last.isPresent()) {
                goesOn(c, watch, last.get(), single, reading.values());
            } else {
                begins(c, watch, single, reading.values());
            }
        }));
    }

    private static void goesOn(
            Connection c, SourceKey watch, Stretch stretch, Single single, Map<String, Object> values)
            throws SQLException {
        Jdbc.update(
                c,
                "update watch_stretch set to_at = ?, how_many = how_many + 1, last_values = ?, note = ?, extremes = ?"
                        + " where watch = ? and from_at = ?",
                single.at(),
                single.values(),
                single.note(),
                Json.write(stretch.extremes().with(values)),
                watch.value(),
                stretch.from());
    }

    private static void begins(Connection c, SourceKey watch, Single single, Map<String, Object> values)
            throws SQLException {
        Jdbc.update(
                c,
                "insert into watch_stretch (watch, from_at, to_at, said, how_many, last_values, note, extremes)"
                        + " values (?, ?, ?, ?, 1, ?, ?, ?)",
                watch.value(),
                single.at(),
                single.at(),
                single.said(),
                single.values(),
                single.note(),
                Json.write(Extremes.NONE.with(values)));
    }

    private static final String SELECT =
            "select from_at, to_at, said, how_many, last_values, note, extremes from watch_stretch where watch = ?";

    private static Stretch stretch(ResultSet r) throws SQLException {
        return new Stretch(
                Incoming.at(r, 1),
                Incoming.at(r, 2),
                r.getString(3),
                r.getLong(4),
                r.getString(5),
                r.getString(6),
                Json.read(r.getString(7), Extremes.class));
    }

    /** What a watch saw, the latest first. */
    public List<Stretch> stretches(SourceKey watch, int most) {
        return database.read(session -> session.doReturningWork(c -> Jdbc.query(
                c, SELECT + " order by from_at desc fetch first ? rows only", Watches::stretch, watch.value(), most)));
    }

    /**
     * The single readings of a watch, the latest first.
     *
     * @param from of this moment or later
     * @param before earlier than this moment
     */
    public List<Single> readings(SourceKey watch, Instant from, Instant before, int most) {
        return database.read(session -> session.doReturningWork(c -> Jdbc.query(
                c,
                "select at, said, read_values, note from watch_reading where watch = ? and at >= ? and at < ?"
                        + " order by at desc fetch first ? rows only",
                r -> new Single(Incoming.at(r, 1), r.getString(2), r.getString(3), r.getString(4)),
                watch.value(),
                from,
                before,
                most)));
    }

    /**
     * Forgets some of what was seen longer ago than it is kept: so much that nobody waits long for it.
     *
     * @return whether nothing of it is left
     */
    public boolean forget(Instant now) {
        int forgotten = database.write(session -> session.doReturningWork(c -> Jdbc.update(
                c,
                "delete from watch_reading where (watch, at) in (select watch, at from watch_reading where at < ?"
                        + " order by at fetch first " + FORGOTTEN_AT_ONCE + " rows only)",
                now.minus(READINGS_KEPT))));
        if (forgotten == FORGOTTEN_AT_ONCE) {
            return false;
        }
        database.run(session ->
                session.doWork(c -> Jdbc.update(c, "delete from watch_stretch where to_at < ?", now.minus(KEPT))));
        return true;
    }
}
