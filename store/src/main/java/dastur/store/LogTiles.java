package dastur.store;

import dastur.core.record.MerkleTree;
import java.sql.Connection;
import java.sql.SQLException;
import java.util.Arrays;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.TreeSet;
import org.jspecify.annotations.Nullable;

/**
 * The tree of the log as it is stored: 256 hashes to a row, of the leaves, of what 256 leaves give, and so on. Only the last
 * row of each level changes; nodes between are worked out.
 */
final class LogTiles implements MerkleTree.Nodes {
    private static final int BITS = 8;
    private static final int HASHES = 1 << BITS;

    private record Key(int level, long number) implements Comparable<Key> {
        @Override
        public int compareTo(Key other) {
            return level != other.level ? Integer.compare(level, other.level) : Long.compare(number, other.number);
        }
    }

    private final @Nullable Connection connection;
    private final Map<Key, byte[]> tiles = new HashMap<>();
    private final TreeSet<Key> changed = new TreeSet<>();
    private final TreeSet<Key> made = new TreeSet<>();

    LogTiles(Connection connection) {
        this.connection = connection;
    }

    private LogTiles() {
        this.connection = null;
    }

    /** A tree without leaves that is not stored; for growing one to compare with. */
    static LogTiles empty() {
        return new LogTiles();
    }

    /** The first leaf, about, where the stored tree is another one than this; empty where it is the same. */
    Optional<Long> differsFrom(Connection stored) throws SQLException {
        for (Key key : changed) {
            List<byte[]> found = Jdbc.query(
                    stored,
                    "select bytes from log_tile where level = ? and number = ?",
                    r -> r.getBytes(1),
                    key.level(),
                    key.number());
            if (found.isEmpty() || !Arrays.equals(found.getFirst(), tiles.get(key))) {
                return Optional.of(key.number() << (BITS * (key.level() + 1)));
            }
        }
        return Optional.empty();
    }

    @Override
    public byte[] node(int level, long number) {
        int height = level % BITS;
        long first = number << height;
        byte[] tile = tile(new Key(level / BITS, first / HASHES));
        int from = (int) (first % HASHES);
        if (tile.length < (from + (1 << height)) * MerkleTree.HASH) {
            // Something that leads nowhere: whoever compares finds that it does not fit.
            return new byte[MerkleTree.HASH];
        }
        return over(tile, from, 1 << height);
    }

    private static byte[] over(byte[] tile, int from, int count) {
        return count == 1
                ? Arrays.copyOfRange(tile, from * MerkleTree.HASH, (from + 1) * MerkleTree.HASH)
                : MerkleTree.node(over(tile, from, count / 2), over(tile, from + count / 2, count / 2));
    }

    private byte[] tile(Key key) {
        return tiles.computeIfAbsent(key, k -> {
            List<byte[]> found = stored(k);
            if (found.isEmpty()) {
                made.add(k);
            }
            return found.isEmpty() ? new byte[0] : found.getFirst();
        });
    }

    private List<byte[]> stored(Key key) {
        if (connection == null) {
            return List.of();
        }
        try {
            return Jdbc.query(
                    connection,
                    "select bytes from log_tile where level = ? and number = ?",
                    r -> r.getBytes(1),
                    key.level(),
                    key.number());
        } catch (SQLException e) {
            throw new IllegalStateException("the log's tree cannot be read", e);
        }
    }

    /** Puts the next leaf into the tree. */
    void append(long leaf, byte[] hash) {
        put(0, leaf, hash);
    }

    private void put(int level, long number, byte[] hash) {
        Key key = new Key(level, number / HASHES);
        byte[] before = tile(key);
        if (before.length != number % HASHES * MerkleTree.HASH) {
            throw new IllegalStateException("the log's tree does not fit its size: level " + level);
        }
        byte[] after = Arrays.copyOf(before, before.length + MerkleTree.HASH);
        System.arraycopy(hash, 0, after, before.length, MerkleTree.HASH);
        tiles.put(key, after);
        changed.add(key);
        if (after.length == HASHES * MerkleTree.HASH) {
            put(level + 1, key.number(), over(after, 0, HASHES));
        }
    }

    void save() throws SQLException {
        for (Key key : changed) {
            Jdbc.update(
                    connection,
                    made.contains(key)
                            ? "insert into log_tile (bytes, level, number) values (?, ?, ?)"
                            : "update log_tile set bytes = ? where level = ? and number = ?",
                    tiles.get(key),
                    key.level(),
                    key.number());
        }
    }
}
