package dastur.store;

import dastur.core.json.Json;
import dastur.core.signal.Matter;
import dastur.core.signal.Severity;
import dastur.core.ticket.CiId;
import dastur.core.ticket.TicketId;
import dastur.core.ticket.TicketKind;
import java.time.Instant;
import java.util.Collection;
import java.util.Collections;
import java.util.List;
import java.util.Map;
import java.util.stream.Collectors;
import java.util.stream.Stream;

/** Which incidents may be, or are, a consequence of one whose cause came to light after them (I22). */
public final class Consequences {
    /** So many CIs are asked about at once. */
    private static final int TOGETHER = 500;

    private final Database database;

    public Consequences(Database database) {
        this.database = database;
    }

    /** An open incident that signals opened. @param worst how bad it is; indeterminate where nobody says */
    public record Young(TicketId ticket, CiId ci, Severity worst) {}

    /** What is in fault on some CIs, by incidents raised since a moment that stand by themselves, the oldest first. */
    public List<Young> youngOn(Collection<CiId> cis, Instant since) {
        List<CiId> all = List.copyOf(cis);
        return Stream.iterate(0, from -> from < all.size(), from -> from + TOGETHER)
                .flatMap(from -> youngOnSome(all.subList(from, Math.min(all.size(), from + TOGETHER)), since).stream())
                .toList();
    }

    private List<Young> youngOnSome(List<CiId> cis, Instant since) {
        Object[] values = Stream.concat(
                        Stream.of(TicketKind.INCIDENT.solvedState(), since),
                        cis.stream().map(CiId::value))
                .toArray();
        return young("t.ci in (" + String.join(", ", Collections.nCopies(cis.size(), "?")) + ")", values);
    }

    /** The same on any CI, at most {@value #TOGETHER}. */
    public List<Young> young(Instant since) {
        return young("t.ci is not null", TicketKind.INCIDENT.solvedState(), since);
    }

    private List<Young> young(String where, Object... values) {
        return database.read(session -> session.doReturningWork(c -> Jdbc.query(
                c,
                "select t.id, t.ci, m.body from ticket t join matter m on m.ticket = t.id"
                        + " where t.ended = false and t.kind = 'incident' and t.folded is null and t.state <> ?"
                        + " and m.in_fault = true and t.created_at >= ? and " + where
                        + " order by t.created_at, t.id fetch first " + TOGETHER + " rows only",
                r -> new Young(
                        new TicketId(r.getString(1)),
                        new CiId(r.getString(2)),
                        worst(Json.read(r.getString(3), Matter.class))),
                values)));
    }

    private static Severity worst(Matter matter) {
        Severity worst = matter.standing().worst();
        return worst == null ? Severity.INDETERMINATE : worst;
    }

    /** How many were ever folded under one and are so still. */
    public long under(TicketId cause) {
        return database.read(session -> session.doReturningWork(c -> Jdbc.query(
                        c, "select count(*) from ticket where folded = ?", r -> r.getLong(1), cause.value())))
                .getFirst();
    }

    /** Open ones that stand folded, by that under which they do. */
    public Map<TicketId, List<TicketId>> folded() {
        return database
                .read(session -> session.doReturningWork(c -> Jdbc.query(
                        c,
                        "select folded, id from ticket where folded is not null and ended = false order by id",
                        r -> Map.entry(new TicketId(r.getString(1)), new TicketId(r.getString(2))))))
                .stream()
                .collect(Collectors.groupingBy(
                        Map.Entry::getKey, Collectors.mapping(Map.Entry::getValue, Collectors.toList())));
    }
}
