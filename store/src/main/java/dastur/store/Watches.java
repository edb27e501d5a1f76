package dastur.store;

import dastur.core.json.Json;
import dastur.core.json.Texts;
import dastur.core.signal.SourceKey;
import dastur.core.start.Watch;
import dastur.core.start.Watching;
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

/** The watches that are set up, where they stand, and what they saw (I11). */
public final class Watches {
    /** So long it is told what a watch saw. */
    public static final Duration KEPT = Duration.ofDays(730);

    static final String KIND = "watch";
    private static final int MAX_VALUES = 4_000;

    /**
     * Where one stands.
     *
     * @param next when it looks next
     * @param passed how many times were passed over, since a reading took longer than one
     */
    public record Standing(Instant next, long passed, Watching.Stand stand) {}

    /** Readings in a row that said the same. @param values of the last of them, as JSON @param note why it could not be read */
    public record Stretch(
            Instant from,
            Instant to,
            String said,
            long count,
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
                        new Standing(
                                r.getObject(2, OffsetDateTime.class).toInstant(),
                                r.getLong(3),
                                Json.read(r.getString(4), Watching.Stand.class)));
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
        String kept = values.length() <= MAX_VALUES ? values : "{}";
        database.run(session -> session.doWork(c -> {
            Jdbc.update(c, "update watch_stand set body = ? where watch = ?", Json.write(stand), watch.value());
            Optional<Stretch> last = Jdbc.query(
                            c,
                            SELECT + " order by from_at desc fetch first 1 rows only",
                            Watches::stretch,
                            watch.value())
                    .stream()
                    .findFirst();
            String said = reading.said().word();
            String note = reading.why() == null ? null : Texts.clip(reading.why(), 1_000);
            if (last.isPresent() && last.get().said().equals(said)) {
                Jdbc.update(
                        c,
                        "update watch_stretch set to_at = ?, how_many = how_many + 1, last_values = ?, note = ?"
                                + " where watch = ? and from_at = ?",
                        reading.at(),
                        kept,
                        note,
                        watch.value(),
                        last.get().from());
            } else {
                Jdbc.update(
                        c,
                        "insert into watch_stretch (watch, from_at, to_at, said, how_many, last_values, note)"
                                + " values (?, ?, ?, ?, 1, ?, ?)",
                        watch.value(),
                        reading.at(),
                        reading.at(),
                        said,
                        kept,
                        note);
            }
        }));
    }

    private static final String SELECT =
            "select from_at, to_at, said, how_many, last_values, note from watch_stretch where watch = ?";

    private static Stretch stretch(ResultSet r) throws SQLException {
        return new Stretch(
                r.getObject(1, OffsetDateTime.class).toInstant(),
                r.getObject(2, OffsetDateTime.class).toInstant(),
                r.getString(3),
                r.getLong(4),
                r.getString(5),
                r.getString(6));
    }

    /** What a watch saw, the latest first. */
    public List<Stretch> stretches(SourceKey watch, int most) {
        return database.read(session -> session.doReturningWork(c -> Jdbc.query(
                c, SELECT + " order by from_at desc fetch first ? rows only", Watches::stretch, watch.value(), most)));
    }

    /** Forgets what was seen before a moment. */
    public void forgetBefore(Instant moment) {
        database.run(
                session -> session.doWork(c -> Jdbc.update(c, "delete from watch_stretch where to_at < ?", moment)));
    }
}
