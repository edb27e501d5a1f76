package dastur.store;

import java.sql.Connection;
import java.sql.PreparedStatement;
import java.sql.ResultSet;
import java.sql.SQLException;
import java.time.Instant;
import java.time.ZoneOffset;
import java.util.ArrayList;
import java.util.List;
import org.hibernate.StatelessSession;
import org.jspecify.annotations.Nullable;

/** Statements without Hibernate between: they write rows by their key, and no row of theirs is an object of the session. */
final class Jdbc {
    /** Makes something of a row. */
    interface Mapper<T> {
        @Nullable T of(ResultSet row) throws SQLException;
    }

    private Jdbc() {}

    static void bind(PreparedStatement statement, @Nullable Object[] values) throws SQLException {
        for (int i = 0; i < values.length; i++) {
            Object value = values[i];
            if (value instanceof Instant at) {
                value = at.atOffset(ZoneOffset.UTC);
            } else if (value instanceof String text && text.indexOf(0) >= 0) {
                // Not every database can keep it; what is proved is kept as JSON, where it is written out.
                value = text.replace('\u0000', '\ufffd');
            }
            statement.setObject(i + 1, value);
        }
    }

    /** Executes a statement. Returns how many rows it has written. */
    static int update(Connection connection, String sql, @Nullable Object... values) throws SQLException {
        try (PreparedStatement statement = connection.prepareStatement(sql)) {
            bind(statement, values);
            return statement.executeUpdate();
        }
    }

    /** Executes a statement for each of these rows of values. Returns how many rows they have written together. */
    static int batch(Connection connection, String sql, List<Object[]> rows) throws SQLException {
        try (PreparedStatement statement = connection.prepareStatement(sql)) {
            for (Object[] row : rows) {
                bind(statement, row);
                statement.addBatch();
            }
            int all = 0;
            for (int count : statement.executeBatch()) {
                all += Math.max(0, count);
            }
            return all;
        }
    }

    static <T> List<T> query(Connection connection, String sql, Mapper<T> mapper, @Nullable Object... values)
            throws SQLException {
        try (PreparedStatement statement = connection.prepareStatement(sql)) {
            bind(statement, values);
            List<T> found = new ArrayList<>();
            try (ResultSet rows = statement.executeQuery()) {
                while (rows.next()) {
                    found.add(mapper.of(rows));
                }
            }
            return found;
        }
    }

    /**
     * Writes a change in the session's transaction, statement by statement. Returns false when something was no longer as the
     * change saw it: then the transaction must not be committed.
     */
    static boolean write(StatelessSession session, Change change) {
        return session.doReturningWork(connection -> {
            for (Write write : change.writes()) {
                int rows = update(connection, write.sql().text(), write.values());
                if (rows != 1 && write.sql().mustHold()) {
                    return false;
                }
            }
            return true;
        });
    }
}
