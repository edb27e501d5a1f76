package dastur.store;

import dastur.core.record.Checkpoint;
import dastur.core.record.MerkleTree;
import java.sql.Connection;
import java.sql.SQLException;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.concurrent.locks.ReentrantLock;

/**
 * Enters changes into the log right behind their commit (K12), and then what follows behind the log: the words by which
 * tickets are found. One in this process; the row of the log's state keeps it one among all.
 */
final class Sequencer {
    /** Changes entered in one transaction. */
    private static final int AT_ONCE = 2_000;

    private final Database database;
    private final ReentrantLock lock = new ReentrantLock();

    Sequencer(Database database) {
        this.database = database;
    }

    /** Runs work while nothing is entered. */
    <T> T still(java.util.function.Supplier<T> work) {
        lock.lock();
        try {
            return work.get();
        } finally {
            lock.unlock();
        }
    }

    /** Enters what was committed, and makes what follows behind the log complete. Returns how many changes were entered. */
    int catchUp() {
        return still(() -> {
            int entered = sequence();
            Words.follow(database);
            return entered;
        });
    }

    /** Enters what was committed and is not in the log yet. Returns how many changes. */
    private int sequence() {
        int all = 0;
        int some = enter();
        while (some > 0) {
            all += some;
            some = some < AT_ONCE ? 0 : enter();
        }
        return all;
    }

    private record Pending(long number, String ticket, long seq, String hash) {}

    private int enter() {
        return database.writeIf(
                session -> session.doReturningWork(connection -> {
                    if (Jdbc.query(connection, "select 1 from log_pending fetch first 1 rows only", r -> 1)
                            .isEmpty()) {
                        return 0;
                    }
                    // Locks the row: whoever else would enter something waits, and finds this entered.
                    Jdbc.update(connection, "update log_state set size = size where id = 1");
                    List<Pending> pending = Jdbc.query(
                            connection,
                            "select number, ticket, seq, hash from log_pending order by number fetch first " + AT_ONCE
                                    + " rows only",
                            r -> new Pending(r.getLong(1), r.getString(2), r.getLong(3), r.getString(4)));
                    long first = state(connection).size();
                    LogTiles tiles = new LogTiles(connection);
                    List<Object[]> leaves = new ArrayList<>();
                    List<Object[]> done = new ArrayList<>();
                    for (Pending p : pending) {
                        long number = first + leaves.size();
                        leaves.add(new Object[] {number, p.ticket(), p.seq(), p.hash()});
                        done.add(new Object[] {p.number()});
                        tiles.append(number, MerkleTree.leaf(Checkpoint.leaf(p.ticket(), p.seq(), p.hash())));
                    }
                    Jdbc.batch(connection, "delete from log_pending where number = ?", done);
                    Jdbc.batch(
                            connection, "insert into log_leaf (number, ticket, seq, hash) values (?, ?, ?, ?)", leaves);
                    tiles.save();
                    Jdbc.update(connection, "update log_state set size = ? where id = 1", first + leaves.size());
                    return leaves.size();
                }),
                count -> count > 0);
    }

    static Checkpoint.Reach state(Connection connection) throws SQLException {
        Map<String, Long> state = new HashMap<>();
        Jdbc.query(connection, "select epoch, size from log_state where id = 1", r -> {
            state.put("epoch", r.getLong(1));
            return state.put("size", r.getLong(2));
        });
        return new Checkpoint.Reach(state.get("epoch").intValue(), state.get("size"), "");
    }
}
