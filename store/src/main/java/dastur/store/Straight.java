package dastur.store;

import java.sql.PreparedStatement;
import org.hibernate.StatelessSession;
import org.jspecify.annotations.Nullable;

/**
 * The few statements that nearly every step needs, without Hibernate between: they write rows by their key, and no row of
 * theirs is held as an object in the session.
 */
final class Straight {
    private Straight() {}

    /** Executes a statement in the session's transaction. Returns how many rows it has written. */
    static int execute(StatelessSession session, String sql, @Nullable Object... values) {
        return session.doReturningWork(connection -> {
            try (PreparedStatement statement = connection.prepareStatement(sql)) {
                for (int i = 0; i < values.length; i++) {
                    statement.setObject(i + 1, values[i]);
                }
                return statement.executeUpdate();
            }
        });
    }
}
