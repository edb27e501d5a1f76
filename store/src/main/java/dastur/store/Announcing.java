package dastur.store;

import java.sql.Connection;
import java.sql.SQLException;
import java.util.ArrayList;
import java.util.List;
import java.util.UUID;

/**
 * Tells other nodes which tickets have changed, in the transaction that changes them: they hear of it when it is committed,
 * and not at all when it is not (K8). In a database that only this process has it says nothing.
 */
final class Announcing {
    static final String CHANNEL = "dastur";

    /** A payload has fewer than 8,000 bytes; ids have none that take more than one. */
    private static final int MOST = 7_500;

    private final boolean heard;
    private final String node = UUID.randomUUID().toString();

    Announcing(Dialect dialect) {
        this.heard = dialect == Dialect.POSTGRESQL;
    }

    /** By what others know this process; of this opening of the database. */
    String node() {
        return node;
    }

    void say(Connection connection, List<Change> changes) throws SQLException {
        if (heard) {
            for (String payload : payloads(changes)) {
                Jdbc.query(connection, "select pg_notify('" + CHANNEL + "', ?)", r -> "", payload);
            }
        }
    }

    private List<String> payloads(List<Change> changes) {
        List<String> all = new ArrayList<>();
        StringBuilder one = new StringBuilder(node);
        for (Change change : changes) {
            if (change.enters()) {
                if (one.length() > MOST - 120) {
                    all.add(one.toString());
                    one = new StringBuilder(node);
                }
                one.append(' ').append(change.ticket()).append(':').append(change.seq());
            }
        }
        if (one.length() > node.length()) {
            all.add(one.toString());
        }
        return all;
    }
}
