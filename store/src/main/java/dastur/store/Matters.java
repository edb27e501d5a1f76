package dastur.store;

import dastur.core.json.Json;
import dastur.core.signal.Matter;
import dastur.core.signal.Severity;
import dastur.core.start.Around;
import dastur.core.ticket.CiId;
import dastur.core.ticket.TicketId;
import dastur.core.ticket.TicketKind;
import java.sql.ResultSet;
import java.sql.SQLException;
import java.time.Instant;
import java.util.ArrayList;
import java.util.Collections;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.stream.Stream;
import org.hibernate.StatelessSession;
import org.jspecify.annotations.Nullable;

/** What signals are about: one row a matter, claimed by its revision (I19). */
public final class Matters {
    private static final String COLUMNS = "select body, revision from matter";

    /** A matter as it was read. @param revision counts its changes; 0 where it is new */
    public record Held(Matter matter, long revision) {
        Write claim(Matter after) {
            return Write.of(
                    Sql.MATTER,
                    after.key(),
                    of(after),
                    after.aside() == null ? null : after.aside().under().value(),
                    !after.isClear(),
                    needsSomebody(after),
                    after.lastAt(),
                    after.judgeAt(),
                    Json.write(after),
                    after.key(),
                    revision);
        }

        private static @Nullable String of(Matter m) {
            TicketId ticket = m.ticket();
            return ticket == null ? null : ticket.value();
        }

        /** In fault with no ticket about it and none that explains it, or turning to and fro: nobody and nothing takes care of it. */
        private static boolean needsSomebody(Matter m) {
            boolean lookedAfter = m.ticket() != null && m.turns().unsteadyUntil() == null;
            return !m.isClear() && !lookedAfter && m.aside() == null;
        }
    }

    private final Database database;

    public Matters(Database database) {
        this.database = database;
    }

    /** The matter of this key; a new one stands there from now on, so that it can be claimed. */
    public Held hold(Matter first) {
        Optional<Held> there = find(first.key());
        return there.orElseGet(() -> database.write(session -> {
            session.doWork(c -> Jdbc.update(
                    c,
                    "insert into matter (name, in_fault, needs_somebody, last_at, revision, body)"
                            + " select cast(? as varchar(200)), false, false, cast(? as timestamp(3) with time zone), 0,"
                            + " cast(? as varchar(20000)) where not exists (select 1 from matter where name = ?)",
                    first.key(),
                    first.lastAt(),
                    Json.write(first),
                    first.key()));
            return read(session, first.key()).orElseThrow();
        }));
    }

    public Optional<Held> find(String key) {
        return database.read(session -> read(session, key));
    }

    static Optional<Held> read(StatelessSession session, String key) {
        return session.doReturningWork(c -> Jdbc.query(c, COLUMNS + " where name = ?", Matters::held, key)).stream()
                .findFirst();
    }

    private static Held held(ResultSet r) throws SQLException {
        return new Held(Json.read(r.getString(1), Matter.class), r.getLong(2));
    }

    /** Those that are to be looked at again by now, the longest due first. */
    public List<Held> toJudge(Instant now, int most) {
        return database.read(session -> session.doReturningWork(c -> Jdbc.query(
                c,
                COLUMNS + " where judge_at <= ? order by judge_at fetch first " + most + " rows only",
                Matters::held,
                now)));
    }

    /** What a ticket is about. */
    public List<Matter> of(TicketId ticket) {
        return database.read(session -> session.doReturningWork(c ->
                Jdbc.query(c, COLUMNS + " where ticket = ? order by name", r -> held(r).matter(), ticket.value())));
    }

    /** What a ticket explains for now, without being about it. */
    public List<Matter> under(TicketId ticket) {
        return database.read(session -> session.doReturningWork(
                c -> Jdbc.query(c, COLUMNS + " where aside = ? order by name", r -> held(r).matter(), ticket.value())));
    }

    /**
     * What is in fault and has an open incident about it that names one of some CIs. What is restored explains no fault.
     *
     * @param away the CIs, and how far each is from what asks
     */
    public List<Around.Upstream> inFaultOn(Map<CiId, Integer> away) {
        if (away.isEmpty()) {
            return List.of();
        }
        String marks = String.join(", ", Collections.nCopies(away.size(), "?"));
        return database.read(session -> session.doReturningWork(c -> Jdbc.query(
                c,
                "select m.body, t.id, t.ci, c.name from ticket t join matter m on m.ticket = t.id join ci c on c.id = t.ci"
                        + " where t.ended = false and t.kind = 'incident' and t.state <> ? and m.in_fault = true"
                        + " and t.ci in (" + marks + ")",
                r -> upstream(r, away),
                Stream.concat(
                                Stream.of(TicketKind.INCIDENT.solvedState()),
                                away.keySet().stream().map(CiId::value))
                        .toArray())));
    }

    private static Around.Upstream upstream(ResultSet r, Map<CiId, Integer> away) throws SQLException {
        Matter.Standing standing = Json.read(r.getString(1), Matter.class).standing();
        CiId ci = new CiId(r.getString(3));
        return new Around.Upstream(
                new TicketId(r.getString(2)),
                ci,
                r.getString(4),
                standing.worst() == null ? Severity.INDETERMINATE : standing.worst(),
                standing.since(),
                away.getOrDefault(ci, Integer.MAX_VALUE));
    }

    /**
     * Those that were spoken of last, the newest first.
     *
     * @param needing only those that need somebody
     * @param before a moment before which the list goes on; null for its beginning
     */
    public Page<Matter> latest(boolean needing, @Nullable Instant before, int size) {
        return Page.of(
                database.read(session -> session.doReturningWork(c -> Jdbc.query(
                        c,
                        COLUMNS + " where last_at < ? and (needs_somebody = true or ? = false) and revision > 0"
                                + " order by last_at desc, name fetch first " + (size + 1) + " rows only",
                        r -> held(r).matter(),
                        before == null ? Instant.parse("9999-01-01T00:00:00Z") : before,
                        needing))),
                size);
    }

    /** How many need somebody. */
    public long needing() {
        return database.read(session -> session.doReturningWork(c ->
                        Jdbc.query(c, "select count(*) from matter where needs_somebody = true", r -> r.getLong(1))))
                .getFirst();
    }

    /**
     * Writes what becomes of signals without any change of a ticket.
     *
     * @return false when something was no longer as it was read; then nothing was written
     */
    public boolean settle(Settlement settlement, @Nullable TicketId ticket) {
        return settle(List.of(new Of(settlement, ticket))).isEmpty();
    }

    /** What becomes of signals that follow from, or join, a ticket without changing it. */
    public record Of(Settlement settlement, @Nullable TicketId ticket) {}

    /**
     * Writes many in one transaction: in a storm a batch of signals is one commit, whatever the number of matters.
     *
     * @return those of which something was no longer as it was read; nothing of them was written
     */
    public List<Of> settle(List<Of> all) {
        return database.write(session -> session.doReturningWork(c -> {
            List<Of> lost = new ArrayList<>();
            List<Write> rest = new ArrayList<>();
            for (Of of : all) {
                List<Write> writes = of.settlement()
                        .writes(of.ticket() == null ? null : of.ticket().value());
                boolean holds = true;
                for (Write write : writes) {
                    // One each: the matter's claim, or that a signal of no matter was due.
                    if (write.sql().mustHold()) {
                        holds = Jdbc.update(c, write.sql().text(), write.values()) == 1;
                    }
                }
                if (holds) {
                    writes.stream().filter(w -> !w.sql().mustHold()).forEach(rest::add);
                } else {
                    lost.add(of);
                }
            }
            rest.sort(Write.ORDER);
            for (Sql sql : List.of(Sql.SIGNAL_ROUTED, Sql.SIGNAL_SEEN)) {
                List<Object[]> rows = rest.stream()
                        .filter(w -> w.sql() == sql)
                        .map(Write::values)
                        .toList();
                Jdbc.batch(c, sql.text(), rows);
            }
            return lost;
        }));
    }
}
