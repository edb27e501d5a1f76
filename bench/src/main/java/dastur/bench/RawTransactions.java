package dastur.bench;

import dastur.bench.Bench.Worker;
import dastur.store.Database;
import java.sql.Connection;
import java.sql.PreparedStatement;
import java.sql.SQLException;
import java.sql.Statement;
import java.util.concurrent.atomic.AtomicInteger;

/** What the database alone can do: one update of 1.5 kB and three inserts of 400 B a transaction, durable. */
final class RawTransactions {
    private static final int ROWS = 64;

    private final Database database;
    private final AtomicInteger workers = new AtomicInteger();

    RawTransactions(Database database) throws SQLException {
        this.database = database;
        try (Connection connection = database.dataSource().getConnection();
                Statement statement = connection.createStatement()) {
            statement.execute("create table raw_head (id int primary key, body varchar(1000000))");
            statement.execute(
                    "create table raw_line (id int, seq bigint, body varchar(1000000), primary key (id, seq))");
            for (int i = 0; i < ROWS; i++) {
                statement.execute("insert into raw_head values (" + i + ", '')");
            }
            connection.commit();
        }
    }

    Worker worker() {
        int id = workers.incrementAndGet();
        String head = "h".repeat(1_500);
        String line = "l".repeat(400);
        long[] seq = {0};
        return () -> {
            try (Connection connection = database.dataSource().getConnection();
                    PreparedStatement update =
                            connection.prepareStatement("update raw_head set body = ? where id = ?");
                    PreparedStatement insert = connection.prepareStatement("insert into raw_line values (?, ?, ?)")) {
                update.setString(1, head + seq[0]);
                update.setInt(2, id % ROWS);
                update.executeUpdate();
                for (int i = 0; i < 3; i++) {
                    insert.setInt(1, id);
                    insert.setLong(2, ++seq[0]);
                    insert.setString(3, line);
                    insert.executeUpdate();
                }
                connection.commit();
            }
            // As safe as what it is compared with: on the disk before it is done, shared by all who wait.
            database.sync();
        };
    }
}
