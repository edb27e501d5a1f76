package dastur.store;

import dastur.core.record.Entry;
import dastur.core.ticket.TicketId;
import java.sql.Connection;
import java.sql.SQLException;
import java.util.ArrayList;
import java.util.List;
import java.util.Objects;

/** All that happened, in the order of the log: what readers elsewhere go through (K12a). */
public final class Feed {
    /** Entries of one change. @param place in the log */
    public record Change(long place, TicketId ticket, List<Entry> entries) {
        public Change {
            entries = List.copyOf(entries);
        }
    }

    /** @param upto how far this goes; the place to go on after */
    public record Page(List<Change> changes, long upto) {}

    private record Leaf(long number, String ticket, long seq, long before) {}

    private final Database database;

    public Feed(Database database) {
        this.database = database;
    }

    /** The place of what happened last, counting what waits to be entered into the log; −1 before anything did. */
    public long end() {
        return database.still(session -> session.doReturningWork(c -> Jdbc.query(
                        c,
                        "select (select coalesce(max(number), -1) from log_leaf) + (select count(*) from log_pending)",
                        r -> r.getLong(1))
                .getFirst()));
    }

    /** What happened after a place, at most so many changes. */
    public Page after(long place, int most) {
        return database.read(session -> {
            List<Leaf> leaves = session.doReturningWork(c -> leaves(c, place, most));
            List<Change> changes = new ArrayList<>();
            for (Leaf leaf : leaves) {
                // The journal and epochs have leaves of their own.
                if (isTicket(leaf.ticket())) {
                    TicketId ticket = new TicketId(leaf.ticket());
                    changes.add(new Change(
                            leaf.number(), ticket, Records.read(session, ticket, leaf.before(), leaf.seq())));
                }
            }
            return new Page(changes, leaves.isEmpty() ? place : leaves.getLast().number());
        });
    }

    /**
     * The last entries of a kind, the newest first.
     *
     * @param within how many of the last changes are gone through: what it costs does not grow with what is kept
     */
    public List<Entry> last(String kind, int most, long within) {
        return database.read(session -> {
            List<Rows.EntryKey> keys = session.doReturningWork(c -> Jdbc.query(
                    c,
                    "select e.ticket, e.seq from log_leaf l join entry e on e.ticket = l.ticket and e.seq <= l.seq"
                            + " and e.seq > coalesce((select max(p.seq) from log_leaf p where p.ticket = l.ticket"
                            + " and p.seq < l.seq), 0)"
                            + " where l.number > (select coalesce(max(number), -1) from log_leaf) - ? and e.kind = ?"
                            + " order by l.number desc, e.seq desc fetch first ? rows only",
                    r -> new Rows.EntryKey(r.getString(1), r.getLong(2)),
                    within,
                    kind,
                    most));
            return keys.stream()
                    .map(key -> session.get(Rows.EntryRow.class, key))
                    .filter(Objects::nonNull)
                    .map(Records::entry)
                    .toList();
        });
    }

    private static boolean isTicket(String of) {
        return !of.startsWith("epoch ") && !of.equals("journal");
    }

    private static List<Leaf> leaves(Connection c, long place, int most) throws SQLException {
        return Jdbc.query(
                c,
                "select l.number, l.ticket, l.seq, coalesce((select max(p.seq) from log_leaf p where p.ticket = l.ticket"
                        + " and p.seq < l.seq), 0) from log_leaf l where l.number > ? order by l.number"
                        + " fetch first ? rows only",
                r -> new Leaf(r.getLong(1), r.getString(2), r.getLong(3), r.getLong(4)),
                place,
                most);
    }
}
