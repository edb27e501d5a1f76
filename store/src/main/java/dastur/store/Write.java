package dastur.store;

import java.sql.PreparedStatement;
import java.sql.SQLException;
import java.util.Comparator;
import org.jspecify.annotations.Nullable;

/**
 * One statement with its values.
 *
 * @param key what row it is of; statements of a kind are executed in the order of their keys
 */
record Write(Sql sql, String key, @Nullable Object[] values) {
    static final Comparator<Write> ORDER = Comparator.comparing(Write::sql).thenComparing(Write::key);

    static Write of(Sql sql, String key, @Nullable Object... values) {
        return new Write(sql, key, values);
    }

    void bind(PreparedStatement statement) throws SQLException {
        Jdbc.bind(statement, values);
    }

    /** About how many bytes it writes. */
    long size() {
        long size = 16;
        for (Object value : values) {
            size += value instanceof String text ? text.length() : 8;
        }
        return size;
    }
}
