package dastur.store;

import dastur.core.workflow.Action;
import dastur.core.workflow.ZoneKey;
import java.sql.Connection;
import java.sql.ResultSet;
import java.sql.SQLException;
import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.Collection;
import java.util.HashSet;
import java.util.List;
import java.util.Optional;
import java.util.Set;
import org.jspecify.annotations.Nullable;

/**
 * Calls that relays make (M15): kept before one is given away, and until well after it is over. One that waits is given to one relay
 * of its zone; what may be repeated goes to another when that one is not heard of any more. Leases are in the database's time.
 */
public final class RelayWork {
    /** So long a relay keeps what it was given without a sign of life. */
    public static final Duration LEASE = Duration.ofSeconds(60);

    /** What is given at once has about so many characters. */
    private static final int AT_ONCE = 1_000_000;

    /** So long what was given may be on its way. */
    private static final Duration ON_THE_WAY = Duration.ofSeconds(10);

    private static final Duration KEPT = Duration.ofDays(30);
    private static final String COLUMNS =
            "select id, zone, connection, body, repeat_as, origin, standing, made_at, relay, given_at, leased_until, cancelled,"
                    + " done, signature, ";

    /** How it stands. */
    public enum Standing {
        /** No relay has it. */
        WAITS,
        /** A relay has it. */
        GIVEN,
        /** A relay has said what became of it. */
        DONE,
        /** It was taken back before a relay had it. */
        BACK,
        /** Nobody waits for it any more, and the relay that had it has not said what became of it. */
        LEFT
    }

    /**
     * A call.
     *
     * @param body as JSON
     * @param repeat the word of {@link Action.Repeat}
     * @param origin whose it is, as JSON; null where only the waiting one wants it
     */
    public record Call(
            String id,
            ZoneKey zone,
            String connection,
            String body,
            String repeat,
            @Nullable String origin) {
        /** Whether another relay may do it when nobody knows whether the first one did. */
        boolean mayBeRepeated() {
            return !repeat.equals(Action.Repeat.NEVER.word());
        }
    }

    /**
     * A call as it stands.
     *
     * @param relay who has it, or did it
     * @param inSight whether that one has been heard of within its lease
     * @param done what became of it, as the relay signed it
     */
    public record Row(
            Call call,
            Standing standing,
            Instant madeAt,
            @Nullable String relay,
            @Nullable Instant givenAt,
            boolean inSight,
            boolean cancelled,
            @Nullable String done,
            @Nullable String signature) {}

    private final Database database;

    public RelayWork(Database database) {
        this.database = database;
    }

    /** Keeps a call to be made; one that is known already stays as it is. */
    public void keep(Call call) {
        database.run(session -> session.doWork(c -> {
            if (row(c, call.id()).isEmpty()) {
                Jdbc.update(
                        c,
                        "insert into relay_work (id, zone, connection, body, repeat_as, origin, standing, made_at, cancelled)"
                                + " values (?, ?, ?, ?, ?, ?, 'WAITS', "
                                + now() + ", false)",
                        call.id(),
                        call.zone().value(),
                        call.connection(),
                        call.body(),
                        call.repeat(),
                        call.origin());
            }
        }));
    }

    public Optional<Row> find(String id) {
        return database.read(session -> session.doReturningWork(c -> row(c, id)));
    }

    /**
     * Gives up to so many of a zone's calls to a relay, the oldest first; what was given is on the disk. What it was given a while ago
     * and does not have was lost on the way: it is given again, and the relay begins nothing twice.
     *
     * @param has what the relay has
     */
    public List<Call> take(ZoneKey zone, String relay, int most, Collection<String> has) {
        return database.writeIf(
                session -> session.doReturningWork(c -> {
                    List<Call> taken = new ArrayList<>();
                    rows(
                                    c,
                                    "relay = ? and standing = 'GIVEN' and not cancelled and given_at < "
                                            + in(ON_THE_WAY.negated()) + " order by given_at, id fetch first " + most
                                            + " rows only",
                                    relay)
                            .stream()
                            .map(Row::call)
                            .filter(call -> !has.contains(call.id()))
                            .forEach(taken::add);
                    for (Call lost : taken) {
                        Jdbc.update(
                                c,
                                "update relay_work set given_at = " + now() + ", leased_until = " + in(LEASE)
                                        + " where id = ?",
                                lost.id());
                    }
                    List<Row> waiting = rows(
                            c,
                            "zone = ? and standing = 'WAITS' order by made_at, id fetch first "
                                    + Math.max(0, most - taken.size()) + " rows only for update skip locked",
                            zone.value());
                    int size = taken.stream().mapToInt(t -> t.body().length()).sum();
                    for (Row row : waiting) {
                        size += row.call().body().length();
                        if (size > AT_ONCE && !taken.isEmpty()) {
                            break;
                        }
                        Jdbc.update(
                                c,
                                "update relay_work set standing = 'GIVEN', relay = ?, given_at = " + now()
                                        + ", leased_until = " + in(LEASE) + " where id = ?",
                                relay,
                                row.call().id());
                        taken.add(row.call());
                    }
                    return taken;
                }),
                taken -> !taken.isEmpty());
    }

    /** A relay is at these: they stay its own. Returns those of them that nobody wants any more, and those that are not its own. */
    public Set<String> stillAt(String relay, Collection<String> ids) {
        if (ids.isEmpty()) {
            return Set.of();
        }
        return database.write(session -> session.doReturningWork(c -> {
            Set<String> unwanted = new HashSet<>();
            for (String id : ids) {
                int its = Jdbc.update(
                        c,
                        "update relay_work set leased_until = " + in(LEASE)
                                + " where id = ? and relay = ? and standing = 'GIVEN' and not cancelled",
                        id,
                        relay);
                if (its == 0) {
                    unwanted.add(id);
                }
            }
            return unwanted;
        }));
    }

    /**
     * What may be repeated and is at a relay that is not heard of any more waits for another again.
     *
     * @return whether it does
     */
    public boolean again(String id) {
        return database.write(session -> session.doReturningWork(c -> Jdbc.update(
                        c,
                        "update relay_work set standing = 'WAITS', relay = null, leased_until = null where id = ? and standing ="
                                + " 'GIVEN' and not cancelled and repeat_as <> ? and leased_until < "
                                + now(),
                        id,
                        Action.Repeat.NEVER.word())
                == 1));
    }

    /** Nobody wants it any more. Returns true when no relay had it, and none gets it now. */
    public boolean takeBack(String id) {
        return database.write(session -> session.doReturningWork(c -> {
            int back = Jdbc.update(
                    c,
                    "update relay_work set standing = 'BACK', settled_at = " + now()
                            + " where id = ? and standing = 'WAITS'",
                    id);
            if (back == 0) {
                Jdbc.update(c, "update relay_work set cancelled = true where id = ? and standing = 'GIVEN'", id);
            }
            return back == 1;
        }));
    }

    /** Whoever waited for it stops waiting; what a relay says of it later is told to whose it is. Returns whether it was still open. */
    public boolean leave(String id) {
        return database.write(session -> session.doReturningWork(c -> Jdbc.update(
                        c,
                        "update relay_work set standing = 'LEFT', settled_at = " + now()
                                + " where id = ? and standing = 'GIVEN'",
                        id)
                == 1));
    }

    /**
     * Keeps what became of a call, once: what comes again, or from a relay that it was never given to, changes nothing.
     *
     * @return how it stood before; empty where nothing was changed
     */
    public Optional<Row> done(String id, String relay, String text, String signature) {
        return database.write(session -> session.doReturningWork(c -> {
            Optional<Row> before = rows(c, "id = ? for update", id).stream().findFirst();
            if (before.isEmpty()
                    || before.get().standing() == Standing.DONE
                    || before.get().standing() == Standing.BACK
                    || !relay.equals(before.get().relay())
                            && !before.get().call().mayBeRepeated()) {
                return Optional.empty();
            }
            Jdbc.update(
                    c,
                    "update relay_work set standing = 'DONE', relay = ?, done = ?, signature = ?, settled_at = " + now()
                            + " where id = ?",
                    relay,
                    text,
                    signature,
                    id);
            return before;
        }));
    }

    /** How many calls each relay is at, by its id. */
    public long under(String relay) {
        return database.read(session -> session.doReturningWork(c -> Jdbc.query(
                        c,
                        "select count(*) from relay_work where relay = ? and standing = 'GIVEN'",
                        r -> r.getLong(1),
                        relay)
                .getFirst()));
    }

    /** How many calls of a zone no relay has yet. */
    public long waiting(ZoneKey zone) {
        return database.read(session -> session.doReturningWork(c -> Jdbc.query(
                        c,
                        "select count(*) from relay_work where zone = ? and standing = 'WAITS'",
                        r -> r.getLong(1),
                        zone.value())
                .getFirst()));
    }

    /** Forgets what is long over. */
    public void forget() {
        database.run(session ->
                session.doWork(c -> Jdbc.update(c, "delete from relay_work where settled_at < " + in(KEPT.negated()))));
    }

    private Optional<Row> row(Connection c, String id) throws SQLException {
        return rows(c, "id = ?", id).stream().findFirst();
    }

    private List<Row> rows(Connection c, String where, Object... values) throws SQLException {
        return Jdbc.query(
                c, COLUMNS + "leased_until >= " + now() + " from relay_work where " + where, RelayWork::read, values);
    }

    private static Row read(ResultSet r) throws SQLException {
        String standing = r.getString(7);
        return new Row(
                new Call(
                        r.getString(1),
                        new ZoneKey(r.getString(2)),
                        r.getString(3),
                        r.getString(4),
                        r.getString(5),
                        r.getString(6)),
                Arrays.stream(Standing.values())
                        .filter(s -> s.name().equals(standing))
                        .findFirst()
                        .orElse(Standing.LEFT),
                r.getObject(8, java.time.OffsetDateTime.class).toInstant(),
                r.getString(9),
                Relays.at(r, 10),
                r.getBoolean(15),
                r.getBoolean(12),
                r.getString(13),
                r.getString(14));
    }

    private String now() {
        return database.dialect().now();
    }

    private String in(Duration length) {
        return database.dialect().in(length);
    }
}
