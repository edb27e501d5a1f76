package dastur.store;

import dastur.core.record.Checkpoint;
import dastur.core.record.Entry;
import dastur.core.record.MerkleTree;
import dastur.core.record.Seal;
import dastur.core.ticket.TicketId;
import java.util.HexFormat;
import java.util.List;
import java.util.Optional;
import org.hibernate.StatelessSession;

/** Reads records, and says whether they are what was written (D23, K11). Entries are only ever inserted, by the scribe. */
public final class Records {
    private final Database database;
    private final RecordLog log;

    public Records(Database database, RecordLog log) {
        this.database = database;
        this.log = log;
    }

    /** All entries of a ticket in order. */
    public List<Entry> of(TicketId ticket) {
        return database.read(session -> read(session, ticket, 0));
    }

    /** The entries of a ticket after one, in order. */
    public List<Entry> after(TicketId ticket, long seq) {
        return database.read(session -> read(session, ticket, seq));
    }

    /**
     * A record with what is wrong with it.
     *
     * @param problem empty where nothing is
     * @param signed how far a signed checkpoint covers it: the number of an entry; 0 when none does yet
     */
    public record Checked(List<Entry> entries, Optional<Seal.Break> problem, long signed) {}

    /** Whether the log knows a ticket that is not there: then it was deleted past the application. */
    public boolean deleted(TicketId ticket) {
        return database.read(session -> session.get(Rows.HeadRow.class, ticket.value()) == null
                && !RecordLog.leaves(session, ticket).isEmpty());
    }

    /**
     * A record, checked: its chain, where the ticket says it ends, and every change of it against the log, whose root is signed.
     * What this does not find is what somebody does who holds database and key: that is for who keeps checkpoints elsewhere.
     */
    public Checked checked(TicketId ticket) {
        return database.read(session -> {
            Rows.HeadRow row = session.get(Rows.HeadRow.class, ticket.value());
            while (true) {
                // In this order: what goes from waiting to entered meanwhile is seen in one of the two.
                List<RecordLog.Waiting> waiting = RecordLog.waiting(session, ticket);
                List<RecordLog.Leaf> leaves = RecordLog.leaves(session, ticket);
                List<Entry> entries = read(session, ticket, 0);
                Rows.HeadRow again = session.get(Rows.HeadRow.class, ticket.value());
                boolean moved = row != null && again != null && again.seq != row.seq;
                row = again;
                if (!moved) {
                    Optional<Checkpoint> newest = log.newest(session);
                    Optional<Seal.Break> problem = Seal.check(entries)
                            .or(() -> log.refused().map(why -> new Seal.Break(1, why)))
                            .or(() -> inLog(entries, leaves))
                            .or(() -> signed(session, leaves, newest))
                            .or(() -> inTime(log.times(session), entries, leaves));
                    if (problem.isEmpty() && row != null) {
                        problem = ends(row, entries).or(() -> waits(entries, leaves, waiting));
                    }
                    return new Checked(entries, problem, signedSeq(leaves, newest));
                }
            }
        });
    }

    private static long signedSeq(List<RecordLog.Leaf> leaves, Optional<Checkpoint> newest) {
        long size = newest.map(Checkpoint::size).orElse(0L);
        return leaves.stream()
                .filter(l -> l.number() < size)
                .mapToLong(RecordLog.Leaf::seq)
                .max()
                .orElse(0);
    }

    private static Optional<Seal.Break> ends(Rows.HeadRow row, List<Entry> entries) {
        long last = entries.size();
        String head = entries.isEmpty() ? Seal.START : entries.getLast().hash();
        return row.seq != last || !row.head.equals(head)
                ? Optional.of(new Seal.Break(
                        last, "the ticket says that its record ends otherwise: entries were removed or added"))
                : Optional.empty();
    }

    /** Every change that the log holds is there, with the hash that the log holds. */
    private static Optional<Seal.Break> inLog(List<Entry> entries, List<RecordLog.Leaf> leaves) {
        for (RecordLog.Leaf leaf : leaves) {
            if (leaf.seq() > entries.size()) {
                return Optional.of(new Seal.Break(
                        entries.size() + 1L,
                        "the log holds entry " + leaf.seq() + ", but only " + entries.size()
                                + " are there: the end was removed"));
            }
            if (!entries.get((int) leaf.seq() - 1).hash().equals(leaf.hash())) {
                return Optional.of(new Seal.Break(
                        leaf.seq(), "the log holds another entry " + leaf.seq() + ": the record was written anew"));
            }
        }
        return Optional.empty();
    }

    /** Every entry was written about when the log took its change. */
    private static Optional<Seal.Break> inTime(LogTimes times, List<Entry> entries, List<RecordLog.Leaf> leaves) {
        long seq = 0;
        for (RecordLog.Leaf leaf : leaves) {
            for (Entry entry : entries.subList((int) seq, (int) leaf.seq())) {
                Optional<String> outside = times.outside(leaf.number(), Seal.at(entry));
                if (outside.isPresent()) {
                    return outside.map(why -> new Seal.Break(entry.seq(), why));
                }
            }
            seq = leaf.seq();
        }
        return Optional.empty();
    }

    /** The leaves lead to the root that was signed. */
    private Optional<Seal.Break> signed(
            StatelessSession session, List<RecordLog.Leaf> leaves, Optional<Checkpoint> newest) {
        if (newest.isEmpty() || newest.get().size() == null) {
            return Optional.empty();
        }
        Checkpoint checkpoint = newest.get();
        Optional<String> forged = log.forged(session, checkpoint);
        if (forged.isPresent()) {
            return Optional.of(new Seal.Break(1, forged.get()));
        }
        long size = checkpoint.size();
        byte[] root = HexFormat.of().parseHex(checkpoint.root());
        return session.doReturningWork(connection -> {
            LogTiles tiles = new LogTiles(connection);
            for (RecordLog.Leaf leaf : leaves) {
                if (leaf.number() < size) {
                    byte[] found = MerkleTree.rootOf(
                            MerkleTree.leaf(Checkpoint.leaf(leaf.ticket(), leaf.seq(), leaf.hash())),
                            leaf.number(),
                            size,
                            MerkleTree.inclusion(tiles, leaf.number(), size));
                    if (!java.util.Arrays.equals(found, root)) {
                        return Optional.of(new Seal.Break(
                                leaf.seq(),
                                "entry " + leaf.seq() + " does not lead to the signed root: the log was altered"));
                    }
                }
            }
            return Optional.empty();
        });
    }

    /** What the log does not hold yet waits to be entered. */
    private static Optional<Seal.Break> waits(
            List<Entry> entries, List<RecordLog.Leaf> leaves, List<RecordLog.Waiting> waiting) {
        long held = leaves.isEmpty() ? 0 : leaves.getLast().seq();
        if (held >= entries.size()) {
            return Optional.empty();
        }
        Entry last = entries.getLast();
        boolean waits =
                waiting.stream().anyMatch(w -> w.seq() == last.seq() && w.hash().equals(last.hash()));
        return waits
                ? Optional.empty()
                : Optional.of(new Seal.Break(
                        held + 1,
                        "entry " + (held + 1)
                                + " is neither in the log nor on its way there: it was written past the application"));
    }

    /** The entries of a ticket after one of them, in order. */
    static List<Entry> read(StatelessSession session, TicketId ticket, long after) {
        return read(session, ticket, after, Long.MAX_VALUE);
    }

    /** @param upTo the number of the last one that is read */
    static List<Entry> read(StatelessSession session, TicketId ticket, long after, long upTo) {
        return session
                .createSelectionQuery(
                        "from EntryRow where key.ticket = ?1 and key.seq > ?2 and key.seq <= ?3 order by key.seq",
                        Rows.EntryRow.class)
                .setParameter(1, ticket.value())
                .setParameter(2, after)
                .setParameter(3, upTo)
                .getResultList()
                .stream()
                .map(Records::entry)
                .toList();
    }

    static Entry entry(Rows.EntryRow r) {
        return new Entry(new TicketId(r.key.ticket()), r.key.seq(), r.at, r.kind, r.sealed, r.hash, r.content, r.salt);
    }
}
