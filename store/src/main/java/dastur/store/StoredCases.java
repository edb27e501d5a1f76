package dastur.store;

import dastur.core.json.Json;
import dastur.core.record.Mac;
import dastur.core.record.Seal;
import dastur.core.run.Case;
import dastur.core.run.Engine;
import dastur.core.run.Recorded;
import dastur.core.ticket.TicketId;
import java.util.List;
import java.util.Map;
import java.util.concurrent.ConcurrentHashMap;
import org.hibernate.StatelessSession;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;

/**
 * How cases stand: as they were last seen here, or else as their last snapshot and the entries after it give them. A
 * snapshot is kept now and then only: to write one with every step would cost the more the larger the case is.
 */
final class StoredCases {
    private static final Logger LOG = LoggerFactory.getLogger(StoredCases.class);

    /** As many entries at most are folded onto a snapshot when a case is read anew. */
    static final int ENTRIES_A_SNAPSHOT = 16;

    private static final int REMEMBERED = 2_000;

    /** A case as it was last saved or loaded here, under the hash of the entry it ends with. */
    private record Remembered(String head, Case c) {}

    private final Map<TicketId, Remembered> remembered = new ConcurrentHashMap<>();
    private final Mac mac;

    StoredCases(Mac mac) {
        this.mac = mac;
    }

    Case load(StatelessSession session, Rows.HeadRow row) {
        TicketId ticket = new TicketId(row.ticket);
        Remembered last = remembered.get(ticket);
        if (last != null && last.head().equals(row.head)) {
            return last.c();
        }
        Case c = fromSnapshot(session, ticket);
        remember(ticket, row.head, c);
        return c;
    }

    private Case fromSnapshot(StatelessSession session, TicketId ticket) {
        Rows.SnapshotRow snapshot = session.get(Rows.SnapshotRow.class, ticket.value());
        // One of another release's fold is not trusted (D24).
        if (snapshot == null || snapshot.fold != Case.FOLD) {
            return folded(session, ticket);
        }
        if (!holds(session, ticket, snapshot)) {
            LOG.warn("the stored state of {} is not what was written, and is not used: its record is folded", ticket);
            return folded(session, ticket);
        }
        Case c = Json.read(snapshot.body, Case.class);
        for (Recorded event : after(session, ticket, snapshot.seq)) {
            c = Engine.apply(c, event);
        }
        return c;
    }

    /** Whether it was written here, and of the record as it is now (K14). */
    private boolean holds(StatelessSession session, TicketId ticket, Rows.SnapshotRow s) {
        if (s.head == null || !mac.holds(s.mac, macOf(ticket, s.seq, s.fold, s.head, s.body))) {
            return false;
        }
        Rows.EntryRow last = session.get(Rows.EntryRow.class, new Rows.EntryKey(ticket.value(), s.seq));
        return last != null && last.hash.equals(s.head);
    }

    /** Whether a ticket's snapshot, if there is one of this release, is what was written. */
    boolean snapshotHolds(StatelessSession session, TicketId ticket) {
        Rows.SnapshotRow snapshot = session.get(Rows.SnapshotRow.class, ticket.value());
        return snapshot == null
                || snapshot.fold != Case.FOLD
                || snapshot.head == null
                || holds(session, ticket, snapshot);
    }

    private static String[] macOf(TicketId ticket, long seq, int fold, String head, String body) {
        return new String[] {"snapshot", ticket.value(), String.valueOf(seq), String.valueOf(fold), head, body};
    }

    /** What a snapshot says, with what shows that it was written here. */
    Write snapshot(Sql sql, TicketId ticket, long seq, String head, Case c) {
        String body = Json.write(c);
        String shown = mac.over(macOf(ticket, seq, Case.FOLD, head, body));
        return Write.of(sql, ticket.value(), seq, Case.FOLD, head, body, shown, ticket.value());
    }

    /** The case as its whole record gives it. */
    static Case folded(StatelessSession session, TicketId ticket) {
        return Engine.fold(ticket, after(session, ticket, 0));
    }

    private static List<Recorded> after(StatelessSession session, TicketId ticket, long seq) {
        return Records.read(session, ticket, seq).stream().map(Seal::open).toList();
    }

    /** Keeps a case in memory under the head of its record; no row has this head where it was not written after all. */
    void remember(TicketId ticket, String head, Case c) {
        if (remembered.size() > REMEMBERED) {
            remembered.clear();
        }
        remembered.put(ticket, new Remembered(head, c));
    }

    /** It was found to be of another head. */
    void forget(TicketId ticket) {
        remembered.remove(ticket);
    }
}
