package dastur.store;

import dastur.core.record.Anchor;
import dastur.core.record.Entry;
import dastur.core.record.Seal;
import dastur.core.ticket.TicketId;
import java.security.KeyPair;
import java.time.Instant;
import java.util.List;
import java.util.Optional;
import org.hibernate.StatelessSession;

/** Reads records, and signs their heads (D23). Entries are only ever inserted, by {@link Cases}. */
public final class Records {
    private static final int HEADS_AN_ANCHOR = 5_000;

    private final Database database;

    public Records(Database database) {
        this.database = database;
    }

    /** All entries of a ticket in order. */
    public List<Entry> of(TicketId ticket) {
        return database.read(session -> read(session, ticket, 0));
    }

    /** How far a ticket's record is covered by anchors: the last entry an anchor names; 0 when none. */
    public long anchoredSeq(TicketId ticket) {
        return database.read(session -> Optional.ofNullable(session.get(Rows.TicketRow.class, ticket.value()))
                .map(t -> t.anchoredSeq)
                .orElse(0L));
    }

    /** A record with what is wrong with it; empty where nothing is. */
    public record Checked(List<Entry> entries, Optional<Seal.Break> problem) {}

    /**
     * A record, checked: its chain, and whether it ends where the ticket says and reaches as far as it was signed. Whoever
     * rewrites all of these together is not found here.
     */
    public Checked checked(TicketId ticket) {
        return database.read(session -> {
            Rows.TicketRow row = session.get(Rows.TicketRow.class, ticket.value());
            List<Entry> entries = read(session, ticket, 0);
            for (Rows.TicketRow again = session.get(Rows.TicketRow.class, ticket.value());
                    row != null && again != null && again.seq != row.seq;
                    again = session.get(Rows.TicketRow.class, ticket.value())) {
                // Something was written between the two readings.
                row = again;
                entries = read(session, ticket, 0);
            }
            Optional<Seal.Break> inside = Seal.check(entries);
            return new Checked(entries, inside.isPresent() || row == null ? inside : ends(row, entries));
        });
    }

    private static Optional<Seal.Break> ends(Rows.TicketRow row, List<Entry> entries) {
        long last = entries.size();
        if (last < row.anchoredSeq) {
            return Optional.of(new Seal.Break(
                    last + 1,
                    row.anchoredSeq + " entries were signed, but only " + last + " are there: the end was removed"));
        }
        String head = entries.isEmpty() ? Seal.START : entries.getLast().hash();
        return row.seq != last || !row.head.equals(head)
                ? Optional.of(new Seal.Break(
                        last, "the ticket says that its record ends otherwise: entries were removed or added"))
                : Optional.empty();
    }

    /** The entries of a ticket after one of them, in order. */
    static List<Entry> read(StatelessSession session, TicketId ticket, long after) {
        return session
                .createSelectionQuery(
                        "from EntryRow where key.ticket = ?1 and key.seq > ?2 order by key.seq", Rows.EntryRow.class)
                .setParameter(1, ticket.value())
                .setParameter(2, after)
                .getResultList()
                .stream()
                .map(r -> new Entry(
                        new TicketId(r.key.ticket()), r.key.seq(), r.at, r.kind, r.sealed, r.hash, r.content, r.salt))
                .toList();
    }

    static Rows.EntryRow row(Entry entry) {
        Rows.EntryRow row = new Rows.EntryRow();
        row.key = new Rows.EntryKey(entry.ticket().value(), entry.seq());
        row.at = entry.at();
        row.kind = entry.kind();
        row.sealed = entry.sealed();
        row.hash = entry.hash();
        row.content = entry.content();
        row.salt = entry.salt();
        return row;
    }

    /** Signs every head that has moved since the last anchor. Returns the newest anchor; empty when there never was one. */
    public Optional<Anchor> anchorHeads(Instant at, KeyPair key) {
        return database.write(session -> {
            Optional<Anchor> last = last(session);
            List<Rows.TicketRow> moved = session.createSelectionQuery(
                            "from TicketRow where seq > anchoredSeq order by id", Rows.TicketRow.class)
                    .setMaxResults(HEADS_AN_ANCHOR)
                    .getResultList();
            if (moved.isEmpty()) {
                return last;
            }
            List<Anchor.Head> heads = moved.stream()
                    .map(t -> new Anchor.Head(new TicketId(t.id), t.seq, t.head))
                    .toList();
            Anchor next = Anchor.over(
                    last.map(Anchor::number).orElse(0L) + 1,
                    at,
                    heads,
                    last.map(Anchor::hash).orElse(Seal.START),
                    key);
            session.insert(row(next));
            heads.forEach(h -> session.createMutationQuery(
                            "update TicketRow set anchoredSeq = ?1 where id = ?2 and anchoredSeq < ?1")
                    .setParameter(1, h.seq())
                    .setParameter(2, h.ticket().value())
                    .executeUpdate());
            return Optional.of(next);
        });
    }

    private static Optional<Anchor> last(StatelessSession session) {
        return session
                .createSelectionQuery("from AnchorRow order by number desc", Rows.AnchorRow.class)
                .setMaxResults(1)
                .getResultList()
                .stream()
                .map(r -> new Anchor(r.number, r.at, r.text, r.hash, r.signature))
                .findFirst();
    }

    private static Rows.AnchorRow row(Anchor anchor) {
        Rows.AnchorRow row = new Rows.AnchorRow();
        row.number = anchor.number();
        row.at = anchor.at();
        row.text = anchor.text();
        row.hash = anchor.hash();
        row.signature = anchor.signature();
        return row;
    }

    /** All anchors in order, for those who keep them elsewhere. */
    public List<Anchor> anchors() {
        return database.read(session ->
                session
                        .createSelectionQuery("from AnchorRow order by number", Rows.AnchorRow.class)
                        .getResultList()
                        .stream()
                        .map(r -> new Anchor(r.number, r.at, r.text, r.hash, r.signature))
                        .toList());
    }
}
