package dastur.store;

import dastur.core.run.Lookups;
import dastur.core.workflow.ActionKey;
import dastur.core.workflow.TermsOfUse;
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
import java.util.OptionalLong;
import java.util.concurrent.ConcurrentHashMap;
import org.hibernate.StatelessSession;
import org.jspecify.annotations.Nullable;

/**
 * What calls say while they go on (M7), and how they went, for what actions and connections come to (M5, M6). What came of each
 * stands on its ticket's record.
 */
public final class CallsMade {
    /** So long they are counted, and what they said is kept. */
    public static final Duration KEPT = Duration.ofDays(30);

    /**
     * How the calls of one action, or over one connection, went of late.
     *
     * @param p50 how long one of those that were answered usually took, in milliseconds; null for none
     * @param p95 how long 95 % of them took at most
     * @param lastGood when one was last answered well
     * @param lastBad when one last failed, or nobody knew
     */
    public record Figures(
            long calls,
            long failed,
            long unsure,
            @Nullable Long p50,
            @Nullable Long p95,
            @Nullable Instant lastGood,
            @Nullable Instant lastBad) {}

    /** How a call went. */
    public enum Went {
        OK,
        FAILED,
        UNSURE
    }

    /** A part of what a call said. @param number from 0 */
    public record Part(int number, Instant at, String text) {}

    /** How many of the last calls say how often one went badly in a row. */
    private static final int LOOKED_BACK = 200;

    /** How many of the last calls say how long one usually takes. */
    private static final int USUAL = 50;
    /** Going through thirty days of calls takes a while where there are many: so long what was found is told again. */
    private static final Duration FRESH = Duration.ofSeconds(10);

    private static final int GO_AT_ONCE = 10;

    private record Counted(long atNanos, Map<String, Figures> all) {}

    private final Database database;
    private final Map<String, Counted> counted = new ConcurrentHashMap<>();

    public CallsMade(Database database) {
        this.database = database;
    }

    /** By action; at most ten seconds old. */
    public Map<ActionKey, Figures> ofActions(Instant since) {
        Map<ActionKey, Figures> all = new HashMap<>();
        lately("action", since).forEach((key, f) -> all.put(new ActionKey(key), f));
        return all;
    }

    /** By connection; at most ten seconds old. */
    public Map<String, Figures> overConnections(Instant since) {
        return lately("connection", since);
    }

    private Map<String, Figures> lately(String by, Instant since) {
        Counted before = counted.get(by);
        if (before != null && System.nanoTime() - before.atNanos() < FRESH.toNanos()) {
            return before.all();
        }
        Map<String, Figures> all = figures(by, since);
        counted.put(by, new Counted(System.nanoTime(), all));
        return all;
    }

    /** How long one of the last calls of an action that were answered took, in milliseconds; empty where none was. */
    public OptionalLong usually(ActionKey action) {
        List<Long> took = database.read(session -> session.doReturningWork(c -> Jdbc.query(
                c,
                "select millis from call_made where action = ? and said = 'OK' order by made_at desc fetch first "
                        + USUAL + " rows only",
                r -> r.getLong(1),
                action.value())));
        return took.isEmpty()
                ? OptionalLong.empty()
                : OptionalLong.of(took.stream().sorted().toList().get(took.size() / 2));
    }

    private Map<String, Figures> figures(String by, Instant since) {
        return database.read(session -> session.doReturningWork(c -> {
            Map<String, long[]> took = new HashMap<>();
            Jdbc.query(
                    c,
                    "select " + by + ", percentile_cont(0.5) within group (order by millis),"
                            + " percentile_cont(0.95) within group (order by millis) from call_made"
                            + " where made_at >= ? and said = 'OK' group by " + by,
                    r -> took.put(r.getString(1), new long[] {Math.round(r.getDouble(2)), Math.round(r.getDouble(3))}),
                    since);
            Map<String, Figures> all = new HashMap<>();
            Jdbc.query(
                    c,
                    "select " + by + ", count(*), sum(case when said = 'FAILED' then 1 else 0 end),"
                            + " sum(case when said = 'UNSURE' then 1 else 0 end),"
                            + " max(case when said = 'OK' then made_at end),"
                            + " max(case when said <> 'OK' then made_at end)"
                            + " from call_made where made_at >= ? group by " + by,
                    r -> all.put(
                            r.getString(1),
                            new Figures(
                                    r.getLong(2),
                                    r.getLong(3),
                                    r.getLong(4),
                                    of(took, r.getString(1), 0),
                                    of(took, r.getString(1), 1),
                                    instant(r.getObject(5, OffsetDateTime.class)),
                                    instant(r.getObject(6, OffsetDateTime.class)))),
                    since);
            return all;
        }));
    }

    /** How an action has gone since it last went well, as far back as {@value #LOOKED_BACK} calls. */
    static Lookups.BadInRow badInRow(StatelessSession session, ActionKey action) {
        return session.doReturningWork(c -> {
            List<Call> last = Jdbc.query(
                    c,
                    "select said, made_at from call_made where action = ? order by made_at desc, seq desc fetch first "
                            + LOOKED_BACK + " rows only",
                    r -> new Call(
                            r.getString(1).equals(Went.OK.name()),
                            r.getObject(2, OffsetDateTime.class).toInstant()),
                    action.value());
            int bad = 0;
            while (bad < last.size() && !last.get(bad).ok()) {
                bad++;
            }
            Instant good = bad < last.size() ? last.get(bad).at() : Instant.MIN;
            Instant told = told(c, TermsOfUse.about(action))
                    .filter(t -> t.isAfter(good))
                    .orElse(null);
            return new Lookups.BadInRow(bad, told);
        });
    }

    /** When whoever answers for something was last told of it. */
    static Optional<Instant> told(Connection c, String about) throws SQLException {
        return Jdbc.query(
                        c,
                        "select told_at from keeper_told where about = ? order by told_at desc fetch first 1 rows only",
                        r -> r.getObject(1, OffsetDateTime.class).toInstant(),
                        about)
                .stream()
                .findFirst();
    }

    private record Call(boolean ok, Instant at) {}

    private static @Nullable Long of(Map<String, long[]> took, String key, int which) {
        long[] both = took.get(key);
        return both == null ? null : (Long) both[which];
    }

    private static @Nullable Instant instant(@Nullable OffsetDateTime at) {
        return at == null ? null : at.toInstant();
    }

    /** Keeps a further part of what a call says; a call that is made again goes on where the one before it stopped. @return its number */
    public int heard(String call, Instant at, String text) {
        return database.write(session -> session.doReturningWork(c -> {
            int number = next(c, call);
            Jdbc.update(
                    c, "insert into call_log (id, part, heard_at, body) values (?, ?, ?, ?)", call, number, at, text);
            return number;
        }));
    }

    private static int next(Connection c, String call) throws SQLException {
        return Jdbc.query(c, "select coalesce(max(part), -1) + 1 from call_log where id = ?", r -> r.getInt(1), call)
                .getFirst();
    }

    /** What a call said, from a part on, at most so many parts. */
    public List<Part> said(String call, int from, int most) {
        return database.read(session -> session.doReturningWork(c -> Jdbc.query(
                c,
                "select part, heard_at, body from call_log where id = ? and part >= ? order by part fetch first ? rows only",
                CallsMade::part,
                call,
                from,
                most)));
    }

    /** The last parts of what a call said, from a part on, at most so many. */
    public List<Part> last(String call, int from, int most) {
        return database.read(session -> session.doReturningWork(c -> Jdbc.query(
                        c,
                        "select part, heard_at, body from call_log where id = ? and part >= ? order by part desc"
                                + " fetch first ? rows only",
                        CallsMade::part,
                        call,
                        from,
                        most)))
                .reversed();
    }

    private static Part part(ResultSet r) throws SQLException {
        return new Part(r.getInt(1), r.getObject(2, OffsetDateTime.class).toInstant(), r.getString(3));
    }

    /** Lets one part go. */
    public void letGo(String call, int part) {
        database.run(session ->
                session.doWork(c -> Jdbc.update(c, "delete from call_log where id = ? and part = ?", call, part)));
    }

    /**
     * Lets some of what a call said go: it stands elsewhere. A part takes some milliseconds, and others write meanwhile only between two
     * of these.
     *
     * @return whether there was anything
     */
    public boolean letSomeGo(String call) {
        return deleted("id = ?", call);
    }

    private boolean deleted(String which, Object value) {
        return database.write(session -> session.doReturningWork(c -> Jdbc.update(
                        c,
                        "delete from call_log where (id, part) in (select id, part from call_log where " + which
                                + " fetch first " + GO_AT_ONCE + " rows only)",
                        value)))
                > 0;
    }

    public void forgetBefore(Instant moment) {
        database.run(session -> session.doWork(c -> {
            Jdbc.update(c, "delete from call_made where made_at < ?", moment);
            Jdbc.update(c, "delete from keeper_told where told_at < ?", moment);
        }));
        while (deleted("heard_at < ?", moment)) {
            // So that others come between.
        }
    }
}
