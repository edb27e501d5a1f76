package dastur.store;

import com.fasterxml.jackson.core.JsonProcessingException;
import com.fasterxml.jackson.databind.JsonNode;
import dastur.core.json.Json;
import dastur.core.record.Checkpoint;
import dastur.core.record.Export;
import dastur.core.record.MerkleTree;
import dastur.core.record.Seal;
import dastur.core.record.Signer;
import dastur.core.record.Signing;
import dastur.core.record.Witnessed;
import dastur.core.ticket.TicketId;
import java.sql.Connection;
import java.sql.SQLException;
import java.time.Duration;
import java.time.Instant;
import java.time.OffsetDateTime;
import java.time.format.DateTimeParseException;
import java.util.ArrayList;
import java.util.HexFormat;
import java.util.List;
import java.util.Optional;
import org.hibernate.StatelessSession;
import org.jspecify.annotations.Nullable;

/**
 * The one log over all records of a database (K12): how far it reaches is signed, if it extends what was signed before, and
 * shown to hold what it holds.
 */
public final class RecordLog {
    /** As often a checkpoint is kept; others only replace the newest. */
    private static final Duration KEPT_EVERY = Duration.ofMinutes(1);

    /** How far the log covers a ticket. @param seq of the last entry it holds, which has this hash */
    public record Covered(long seq, String hash, Export.Proof proof) {}

    private final Database database;
    private final Signer signer;
    private final LogTimes times = new LogTimes();
    private volatile @Nullable String refused;

    public RecordLog(Database database, Signer signer) {
        this.database = database;
        this.signer = signer;
    }

    /** Why nothing is signed any more; empty while all is well. */
    public Optional<String> refused() {
        return Optional.ofNullable(refused);
    }

    public Signer signer() {
        return signer;
    }

    /** Enters what was committed and is not in the log yet, and makes what follows behind it complete. */
    public int catchUp() {
        return database.sequencer().catchUp();
    }

    // --- the signer

    /**
     * Signs how far the log reaches, if it reaches further than the newest checkpoint.
     *
     * @return the newest checkpoint; empty when the log is empty
     * @throws Signer.NotAnExtension when the log does not begin with what was signed before
     */
    public Optional<Checkpoint> sign(Instant at) {
        try {
            // What is signed must be on the disk first: else a power failure could leave less than was signed.
            database.sync();
            Optional<Checkpoint> signed = database.write(session -> session.doReturningWork(connection -> {
                Checkpoint.Reach state = Sequencer.state(connection);
                List<Checkpoint> newest = newest(connection, 2);
                Checkpoint last = newest.isEmpty() ? null : newest.getFirst();
                boolean same = last != null
                        && last.size() != null
                        && last.size() == state.size()
                        && last.epoch() == state.epoch()
                        && refused == null;
                if (state.size() == 0 || same) {
                    return Optional.ofNullable(last);
                }
                LogTiles tiles = new LogTiles(connection);
                String root = HexFormat.of().formatHex(MerkleTree.root(tiles, state.size()));
                // The last one is replaced while it is younger than a minute: it never was the only one to be kept.
                Checkpoint before = newest.size() > 1 ? newest.get(1) : null;
                boolean replaces = last != null
                        && last.size() != null
                        && before != null
                        && last.at().isBefore(before.at().plus(KEPT_EVERY));
                Checkpoint follows = replaces ? before : last;
                Checkpoint next = signer.sign(
                        follows == null ? 1 : follows.number() + 1,
                        new Checkpoint.Reach(state.epoch(), state.size(), root),
                        at,
                        follows == null ? Seal.START : follows.hash(),
                        smaller -> MerkleTree.consistency(tiles, smaller, state.size()));
                if (replaces) {
                    Jdbc.update(connection, "delete from checkpoint where number = ?", last.number());
                }
                insert(connection, next);
                return Optional.of(next);
            }));
            refused = null;
            return signed;
        } catch (Signer.NotAnExtension e) {
            refused = e.getMessage();
            throw e;
        }
    }

    private static void insert(Connection connection, Checkpoint c) throws SQLException {
        Jdbc.update(
                connection,
                "insert into checkpoint (number, epoch, size, root, at, text, hash, signature)"
                        + " values (?, ?, ?, ?, ?, ?, ?, ?)",
                c.number(),
                c.epoch(),
                c.size(),
                c.root(),
                c.at(),
                c.text(),
                c.hash(),
                c.signature());
    }

    static List<Checkpoint> newest(Connection connection, int most) throws SQLException {
        return Jdbc.query(
                connection,
                "select number, epoch, size, root, at, text, hash, signature from checkpoint order by number desc"
                        + " fetch first " + most + " rows only",
                r -> new Checkpoint(
                        r.getLong(1),
                        r.getObject(2, Integer.class),
                        r.getObject(3, Long.class),
                        r.getString(4),
                        r.getObject(5, OffsetDateTime.class).toInstant(),
                        r.getString(6),
                        r.getString(7),
                        r.getString(8)));
    }

    /** All that were kept, newest first, for those who keep them elsewhere. */
    public List<Checkpoint> checkpoints(int most) {
        return database.read(session -> session.doReturningWork(connection -> newest(connection, most)));
    }

    // --- reading

    /** A change in the log. */
    record Leaf(long number, String ticket, long seq, String hash) {}

    /** A change that is written and not in the log yet. */
    record Waiting(long seq, String hash) {}

    static List<Leaf> leaves(StatelessSession session, TicketId ticket) {
        return session.doReturningWork(connection -> leaves(connection, ticket.value()));
    }

    /** @param record a ticket's number, or what else the log knows it by */
    static List<Leaf> leaves(Connection connection, String record) throws SQLException {
        return Jdbc.query(
                connection,
                "select number, ticket, seq, hash from log_leaf where ticket = ? order by seq",
                r -> new Leaf(r.getLong(1), r.getString(2), r.getLong(3), r.getString(4)),
                record);
    }

    static List<Waiting> waiting(StatelessSession session, TicketId ticket) {
        return session.doReturningWork(connection -> Jdbc.query(
                connection,
                "select seq, hash from log_pending where ticket = ? order by number",
                r -> new Waiting(r.getLong(1), r.getString(2)),
                ticket.value()));
    }

    Optional<Checkpoint> newest(StatelessSession session) {
        return session.doReturningWork(connection -> newest(connection, 1)).stream()
                .findFirst();
    }

    /** Why a stored checkpoint, or the log, is not what was signed; empty when both are. */
    Optional<String> forged(StatelessSession session, Checkpoint c) {
        return forged(c).or(() -> session.doReturningWork(connection -> cut(connection, signedLast())));
    }

    /** Why a checkpoint is not what was signed. */
    Optional<String> forged(Checkpoint c) {
        JsonNode said;
        try {
            said = Json.parse(c.text());
        } catch (JsonProcessingException e) {
            return Optional.of("the signed statement of how far the log reaches was altered");
        }
        boolean same = c.root() != null
                && said.path("root").asText().equals(c.root())
                && said.path("size").longValue() == c.size()
                && said.path("epoch").intValue() == c.epoch()
                && sameTime(c, said.path("at").asText());
        return same && Signing.holds(c.text(), c.signature(), signer.publicKey())
                ? Optional.empty()
                : Optional.of("the signed statement of how far the log reaches was altered, or signed by another key");
    }

    /** What is stored beside the statement is rounded to the millisecond. */
    private static boolean sameTime(Checkpoint c, String said) {
        try {
            return Duration.between(Instant.parse(said), c.at()).abs().compareTo(Duration.ofMillis(1)) <= 0;
        } catch (DateTimeParseException e) {
            return false;
        }
    }

    /** When the log took its changes, as far as it was signed. */
    LogTimes times(StatelessSession session) {
        session.doWork(times::follow);
        return times;
    }

    /** What was signed last; empty for nothing yet. */
    Optional<Checkpoint.Reach> signedLast() {
        return signer.last();
    }

    /**
     * Why the log does not begin with what was signed last: leaves are written before they are signed.
     *
     * @param signed read before what the connection sees stood still, or it may be of what came after
     */
    Optional<String> cut(Connection connection, Optional<Checkpoint.Reach> signed) throws SQLException {
        Checkpoint.Reach last = signed.orElse(null);
        if (last == null || last.size() == 0) {
            return Optional.empty();
        }
        Checkpoint.Reach state = Sequencer.state(connection);
        boolean holds = state.epoch() == last.epoch()
                && state.size() >= last.size()
                && HexFormat.of()
                        .formatHex(MerkleTree.root(new LogTiles(connection), last.size()))
                        .equals(last.root());
        return holds
                ? Optional.empty()
                : Optional.of("the log does not begin with the " + last.size()
                        + " changes that were signed last: an older database stands in the place of the newer, or the log"
                        + " was written anew");
    }

    /**
     * The newest change of a ticket that a signed checkpoint covers, with what shows it; empty when none does.
     */
    public Optional<Covered> covered(TicketId ticket) {
        return database.read(session -> {
            Optional<Checkpoint> newest = newest(session).filter(c -> c.size() != null);
            return newest.flatMap(c -> leaves(session, ticket).reversed().stream()
                    .filter(l -> l.number() < c.size())
                    .findFirst()
                    .map(l -> covered(session, l, c)));
        });
    }

    private static Covered covered(StatelessSession session, Leaf leaf, Checkpoint checkpoint) {
        return session.doReturningWork(connection -> {
            LogTiles tiles = new LogTiles(connection);
            List<String> path = hex(MerkleTree.inclusion(tiles, leaf.number(), checkpoint.size()));
            List<Witnessed.Shown> witnesses = new ArrayList<>();
            for (Witnessed w : Witnesses.about(connection, leaf.number(), checkpoint.epoch(), checkpoint.size())) {
                long given = w.checkpoint().size();
                witnesses.add(new Witnessed.Shown(
                        w,
                        given == checkpoint.size()
                                ? List.of()
                                : hex(MerkleTree.consistency(tiles, given, checkpoint.size()))));
            }
            return new Covered(leaf.seq(), leaf.hash(), new Export.Proof(leaf.number(), path, checkpoint, witnesses));
        });
    }

    private static List<String> hex(List<byte[]> hashes) {
        return hashes.stream().map(HexFormat.of()::formatHex).toList();
    }

    /** The hashes that show that the log begins with one of a smaller size, in hexadecimal. */
    public List<String> consistency(long smaller, long size) {
        return database.read(session -> session.doReturningWork(
                connection -> hex(MerkleTree.consistency(new LogTiles(connection), smaller, size))));
    }
}
