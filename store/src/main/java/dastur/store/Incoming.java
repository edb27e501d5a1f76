package dastur.store;

import dastur.core.signal.Silence;
import dastur.core.signal.SourceKey;
import dastur.core.ticket.TicketId;
import java.sql.Connection;
import java.sql.ResultSet;
import java.sql.SQLException;
import java.time.Duration;
import java.time.Instant;
import java.time.OffsetDateTime;
import java.time.temporal.ChronoUnit;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import org.jspecify.annotations.Nullable;

/**
 * What comes from sources: kept as it came before anybody is told that it was taken (I1), then read in the order of receipt.
 * {@link Settlement} says what became of it.
 */
public final class Incoming {
    /** So long what came is kept, and the same delivery is known again. */
    public static final Duration KEPT = Duration.ofDays(30);

    private static final int FORGOTTEN_AT_ONCE = 2_000;
    private static final String SHORT =
            "select id, source, came_at, state, turn, sort, severity, matter, title, ci, ticket,"
                    + " problem from signal";

    /**
     * One event at the door.
     *
     * @param delivery SHA-256 of what it is known again by; null where nothing is said
     * @param headers chosen ones, as JSON
     */
    public record Arrival(
            String id,
            SourceKey source,
            Instant at,
            @Nullable String delivery,
            String bodyHash,
            String headers,
            String raw) {}

    /** What became of one at the door. */
    public sealed interface Fate {
        /** It is kept under this id: now, or when the same delivery came first. */
        record Kept(String id) implements Fate {}

        /** Something else came before under the same delivery id. */
        record Another(String before) implements Fate {}
    }

    /** One that nobody has looked at yet. */
    public record Due(String id, SourceKey source, Instant cameAt, String headers, String raw) {}

    /** One in a list. @param state what became of it, in a word */
    public record Line(
            String id,
            SourceKey source,
            Instant cameAt,
            String state,
            @Nullable String turn,
            @Nullable String sort,
            @Nullable String severity,
            @Nullable String matter,
            @Nullable String title,
            @Nullable String ci,
            @Nullable TicketId ticket,
            @Nullable String problem) {}

    /** One as a whole. @param understood and why: JSON, as the router wrote them */
    public record Whole(
            Line line,
            String headers,
            String raw,
            @Nullable String understood,
            @Nullable String why) {}

    /** Refusals of a minute. @param words what the last of them was told */
    public record Refused(Instant minute, String reason, long count, String words) {}

    /** How much came from a source. */
    public record Traffic(
            long day, long notUnderstood, @Nullable Instant last) {}

    private final Database database;

    public Incoming(Database database) {
        this.database = database;
    }

    /** Keeps what came, all in one transaction; ends when it is on the disk. The answers stand in the order of what came. */
    public List<Fate> keep(List<Arrival> arrivals) {
        return database.write(session -> session.doReturningWork(c -> {
            List<Fate> fates = new ArrayList<>();
            List<Object[]> rows = new ArrayList<>();
            List<Object[]> due = new ArrayList<>();
            Map<String, Arrival> here = new HashMap<>();
            for (Arrival a : arrivals) {
                String known = a.delivery() == null ? null : a.source() + " " + a.delivery();
                Optional<Fate> before = known == null
                        ? Optional.empty()
                        : Optional.ofNullable(here.get(known))
                                .map(b -> again(b.id(), b.bodyHash(), a))
                                .or(() -> before(c, a));
                fates.add(before.orElseGet(() -> new Fate.Kept(a.id())));
                if (before.isEmpty()) {
                    rows.add(new Object[] {
                        a.id(), a.source().value(), a.at(), a.delivery(), a.bodyHash(), a.headers(), a.raw()
                    });
                    due.add(new Object[] {a.id()});
                    if (known != null) {
                        here.put(known, a);
                    }
                }
            }
            Jdbc.batch(
                    c,
                    "insert into signal (id, source, came_at, delivery, body_hash, headers, raw, state)"
                            + " values (?, ?, ?, ?, ?, ?, ?, 'received')",
                    rows);
            Jdbc.batch(c, "insert into signal_due (id) values (?)", due);
            return fates;
        }));
    }

    private static Optional<Fate> before(Connection c, Arrival a) {
        try {
            return Jdbc.query(
                            c,
                            "select id, body_hash from signal where source = ? and delivery = ?",
                            r -> again(r.getString(1), r.getString(2), a),
                            a.source().value(),
                            a.delivery())
                    .stream()
                    .findFirst();
        } catch (SQLException e) {
            throw new IllegalStateException("what came before could not be looked up", e);
        }
    }

    private static Fate again(String id, String bodyHash, Arrival a) {
        return bodyHash.equals(a.bodyHash()) ? new Fate.Kept(id) : new Fate.Another(id);
    }

    /** How many nobody has looked at, as far as that is counted. @param most so far */
    public long unrouted(int most) {
        return database.read(session -> session.doReturningWork(c -> Jdbc.query(
                        c,
                        "select count(*) from (select id from signal_due fetch first " + most + " rows only) due",
                        r -> r.getLong(1))
                .getFirst()));
    }

    /** The oldest that nobody has looked at. */
    public List<Due> due(int most) {
        return database.read(session -> session.doReturningWork(c -> {
            // In two steps: joined, the built-in database goes through all signals to find those that are due.
            List<String> ids = Jdbc.query(
                    c, "select id from signal_due order by id fetch first " + most + " rows only", r -> r.getString(1));
            if (ids.isEmpty()) {
                return List.of();
            }
            String places = "?" + ", ?".repeat(ids.size() - 1);
            return Jdbc.query(
                    c,
                    "select id, source, came_at, headers, raw from signal where id in (" + places + ") order by id",
                    r -> new Due(
                            r.getString(1), new SourceKey(r.getString(2)), at(r, 3), r.getString(4), r.getString(5)),
                    ids.toArray());
        }));
    }

    /** Has it looked at once more: only what had no effect. Returns whether it will be. */
    public boolean again(String id) {
        return database.write(session -> session.doReturningWork(c -> {
            boolean may = Jdbc.update(
                            c,
                            "update signal set state = 'received', problem = null where id = ? and state = 'not understood'",
                            id)
                    == 1;
            if (may) {
                Jdbc.update(c, "insert into signal_due (id) values (?)", id);
            }
            return may;
        }));
    }

    // --- lists

    /** Of a source, the newest first. @param before an id after which the list goes on; null for its beginning */
    public Page<Line> ofSource(SourceKey source, @Nullable String before, int size) {
        return page("source", source.value(), before, size);
    }

    /** About a matter, the newest first. */
    public Page<Line> ofMatter(String matter, @Nullable String before, int size) {
        return page("matter", matter, before, size);
    }

    private Page<Line> page(String column, String value, @Nullable String before, int size) {
        return Page.of(
                database.read(session -> session.doReturningWork(c -> Jdbc.query(
                        c,
                        SHORT + " where " + column + " = ? and id < ? order by id desc fetch first " + (size + 1)
                                + " rows only",
                        Incoming::line,
                        value,
                        before == null ? "~" : before))),
                size);
    }

    /** The one by which a matter last began, or that brought the last news of it; empty when none is kept. */
    public Optional<Line> lastBeginning(String matter) {
        return database
                .read(session -> session.doReturningWork(c -> Jdbc.query(
                        c,
                        SHORT + " where matter = ? and turn in ('begins', 'news', 'unsteady') and why is not null"
                                + " order by id desc fetch first 1 rows only",
                        Incoming::line,
                        matter)))
                .stream()
                .findFirst();
    }

    /** The last of a matter as it was understood, JSON; empty when none is kept. */
    public Optional<String> lastOf(String matter) {
        return last(matter, "understood is not null");
    }

    /** The last that said a matter to be in fault, as it was understood, JSON; empty when none is kept. */
    public Optional<String> lastFaultOf(String matter) {
        return last(matter, "understood is not null and sort = 'fault'");
    }

    private Optional<String> last(String matter, String which) {
        return database
                .read(session -> session.doReturningWork(c -> Jdbc.query(
                        c,
                        "select understood from signal where matter = ? and " + which
                                + " order by id desc fetch first 1 rows only",
                        r -> r.getString(1),
                        matter)))
                .stream()
                .findFirst();
    }

    /** The last of a source that were understood, JSON, the newest first. */
    public List<String> lastUnderstood(SourceKey source, int most) {
        return database.read(session -> session.doReturningWork(c -> Jdbc.query(
                c,
                "select understood from signal where source = ? and understood is not null order by id desc fetch first "
                        + most + " rows only",
                r -> r.getString(1),
                source.value())));
    }

    public Optional<Whole> find(String id) {
        return database
                .read(session -> session.doReturningWork(c -> Jdbc.query(
                        c,
                        "select id, source, came_at, state, turn, sort, severity, matter, title, ci, ticket, problem,"
                                + " headers, raw, understood, why from signal where id = ?",
                        r -> new Whole(line(r), r.getString(13), r.getString(14), r.getString(15), r.getString(16)),
                        id)))
                .stream()
                .findFirst();
    }

    private static Line line(ResultSet r) throws SQLException {
        String ticket = r.getString(11);
        return new Line(
                r.getString(1),
                new SourceKey(r.getString(2)),
                at(r, 3),
                r.getString(4),
                r.getString(5),
                r.getString(6),
                r.getString(7),
                r.getString(8),
                r.getString(9),
                r.getString(10),
                ticket == null ? null : new TicketId(ticket),
                r.getString(12));
    }

    static Instant at(ResultSet r, int column) throws SQLException {
        return r.getObject(column, OffsetDateTime.class).toInstant();
    }

    /** How much came from a source within a day, of which not understood, and when the last did. */
    public Traffic traffic(SourceKey source, Instant now) {
        String from = idOf(now.minus(1, ChronoUnit.DAYS));
        return database.read(session -> session.doReturningWork(c -> {
            List<long[]> counts = Jdbc.query(
                    c,
                    "select count(*), count(case when state = 'not understood' then 1 end) from signal where source = ? and id >= ?",
                    r -> new long[] {r.getLong(1), r.getLong(2)},
                    source.value(),
                    from);
            List<Instant> last = lastTimes(c, source, 1);
            return new Traffic(counts.getFirst()[0], counts.getFirst()[1], last.isEmpty() ? null : last.getFirst());
        }));
    }

    /** When the latest came, the newest first: what senders sent, not what was said here of their silence. */
    public List<Instant> lastTimes(SourceKey source, int most) {
        return database.read(session -> session.doReturningWork(c -> lastTimes(c, source, most)));
    }

    private static List<Instant> lastTimes(Connection c, SourceKey source, int most) throws SQLException {
        return Jdbc.query(
                c,
                "select came_at from signal where source = ? and headers <> ? order by id desc fetch first " + most
                        + " rows only",
                r -> at(r, 1),
                source.value(),
                Silence.HEADERS);
    }

    /** The times at which signals came since a moment, for a picture of them: one count a slot. */
    public long[] counts(Instant from, Duration slot, int slots) {
        long[] counts = new long[slots];
        database.read(session -> session.doReturningWork(c -> Jdbc.query(
                        c,
                        "select substring(id, 1, 8), count(*) from signal where id >= ? group by substring(id, 1, 8)",
                        r -> new long[] {Long.parseLong(r.getString(1), 16) << 12, r.getLong(2)},
                        idOf(from))))
                .forEach(of -> {
                    long at = (of[0] - from.toEpochMilli()) / slot.toMillis();
                    counts[Math.clamp(at, 0, slots - 1)] += of[1];
                });
        return counts;
    }

    /** The smallest id of a moment: ids begin with the milliseconds since 1970 as eleven hexadecimal digits. */
    public static String idOf(Instant moment) {
        return String.format("%011x", moment.toEpochMilli());
    }

    // --- refusals

    /** Counts refusals. */
    public void refused(SourceKey source, Refused more) {
        database.run(session -> session.doWork(c -> {
            int there = Jdbc.update(
                    c,
                    "update source_refusal set how_often = how_often + ?, words = ? where source = ? and at_minute = ? and reason = ?",
                    more.count(),
                    more.words(),
                    source.value(),
                    more.minute(),
                    more.reason());
            if (there == 0) {
                Jdbc.update(
                        c,
                        "insert into source_refusal (source, at_minute, reason, how_often, words) values (?, ?, ?, ?, ?)",
                        source.value(),
                        more.minute(),
                        more.reason(),
                        more.count(),
                        more.words());
            }
        }));
    }

    /** The last refusals of a source, the newest first. */
    public List<Refused> refusals(SourceKey source, int most) {
        return database.read(session -> session.doReturningWork(c -> Jdbc.query(
                c,
                "select at_minute, reason, how_often, words from source_refusal where source = ? order by at_minute desc, reason"
                        + " fetch first " + most + " rows only",
                r -> new Refused(at(r, 1), r.getString(2), r.getLong(3), r.getString(4)),
                source.value())));
    }

    /** Forgets what is old, a part at a time. Returns how many signals. */
    public int forgetBefore(Instant moment) {
        return database.writeIf(
                session -> session.doReturningWork(c -> {
                    Jdbc.update(c, "delete from source_refusal where at_minute < ?", moment);
                    return Jdbc.update(
                            c,
                            "delete from signal where id in (select id from signal where id < ? and state <> 'received'"
                                    + " order by id fetch first " + FORGOTTEN_AT_ONCE + " rows only)",
                            idOf(moment));
                }),
                count -> count > 0);
    }
}
