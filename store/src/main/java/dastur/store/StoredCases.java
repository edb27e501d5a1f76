package dastur.store;

import dastur.core.json.Json;
import dastur.core.record.Seal;
import dastur.core.run.Case;
import dastur.core.run.Engine;
import dastur.core.run.Recorded;
import dastur.core.ticket.TicketId;
import java.util.List;
import java.util.Map;
import java.util.concurrent.ConcurrentHashMap;
import org.hibernate.StatelessSession;

/**
 * How cases stand: as they were last seen here, or else as their last snapshot and the entries after it give them. A
 * snapshot is kept now and then only: to write one with every step would cost the more the larger the case is.
 */
final class StoredCases {
    /** As many entries at most are folded onto a snapshot when a case is read anew. */
    static final int ENTRIES_A_SNAPSHOT = 16;

    private static final int REMEMBERED = 2_000;

    /** A case as it was last saved or loaded here, under the hash of the entry it ends with. */
    private record Remembered(String head, Case c) {}

    private final Map<TicketId, Remembered> remembered = new ConcurrentHashMap<>();

    Case load(StatelessSession session, Rows.TicketRow row) {
        TicketId ticket = new TicketId(row.id);
        Remembered last = remembered.get(ticket);
        if (last != null && last.head().equals(row.head)) {
            return last.c();
        }
        Case c = fromSnapshot(session, ticket);
        remember(row, c);
        return c;
    }

    private static Case fromSnapshot(StatelessSession session, TicketId ticket) {
        Rows.SnapshotRow snapshot = session.get(Rows.SnapshotRow.class, ticket.value());
        // One of another release's fold is not trusted (D24).
        if (snapshot == null || snapshot.fold != Case.FOLD) {
            return folded(session, ticket);
        }
        Case c = Json.read(snapshot.body, Case.class);
        for (Recorded event : after(session, ticket, snapshot.seq)) {
            c = Engine.apply(c, event);
        }
        return c;
    }

    /** The case as its whole record gives it. */
    static Case folded(StatelessSession session, TicketId ticket) {
        return Engine.fold(ticket, after(session, ticket, 0));
    }

    private static List<Recorded> after(StatelessSession session, TicketId ticket, long seq) {
        return Records.read(session, ticket, seq).stream().map(Seal::open).toList();
    }

    /**
     * Keeps a case that is being saved.
     *
     * @param replaces whether the snapshot before must not stay, since something in it was redacted
     */
    void keep(StatelessSession session, Rows.TicketRow row, Case c, boolean replaces) {
        if (replaces || row.snapshotSeq == 0 || c.seq() - row.snapshotSeq >= ENTRIES_A_SNAPSHOT) {
            Rows.SnapshotRow snapshot = new Rows.SnapshotRow();
            snapshot.ticket = row.id;
            snapshot.seq = c.seq();
            snapshot.fold = Case.FOLD;
            snapshot.body = Json.write(c);
            if (row.snapshotSeq == 0) {
                session.insert(snapshot);
            } else {
                session.update(snapshot);
            }
            row.snapshotSeq = c.seq();
        }
        remember(row, c);
    }

    private void remember(Rows.TicketRow row, Case c) {
        if (remembered.size() > REMEMBERED) {
            remembered.clear();
        }
        // Even if this transaction is rolled back or an entry came meanwhile: then no row has this head.
        remembered.put(new TicketId(row.id), new Remembered(row.head, c));
    }
}
