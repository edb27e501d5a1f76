package dastur.core.comparison;

import java.util.ArrayList;
import java.util.HashSet;
import java.util.LinkedHashMap;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Map;
import java.util.Objects;
import java.util.Set;
import java.util.function.Function;
import java.util.stream.Collectors;
import org.jspecify.annotations.Nullable;

/**
 * Two tables, row by row.
 *
 * @param before how many rows it had; null where that side has no such table
 * @param key the column that names the rows; null where none does: then rows are compared whole
 * @param keys the columns that could
 */
public record Table(
        String name,
        @Nullable Integer before,
        @Nullable Integer after,
        Change change,
        @Nullable String key,
        List<String> keys,
        List<String> columns,
        List<Row> rows) {
    /**
     * One row on both sides.
     *
     * @param before its cells by column; null where that side has no such row
     * @param differs the columns that differ; empty where only one side has the row
     */
    public record Row(
            @Nullable Map<String, Object> before,
            @Nullable Map<String, Object> after,
            Change change,
            List<String> differs) {}

    /** A column was asked for that does not name rows: some have none, or several have the same. */
    public static final class NoKey extends IllegalArgumentException {
        private static final long serialVersionUID = 1;

        NoKey(String table, String column, List<String> keys) {
            super("“" + column + "” does not name the rows of “" + table + "” on both sides."
                    + (keys.isEmpty() ? " No column does." : " These do: " + String.join(", ", keys) + "."));
        }
    }

    static boolean isTable(@Nullable List<?> list) {
        return list == null || list.stream().allMatch(Map.class::isInstance);
    }

    static boolean hasRows(@Nullable List<?> before, @Nullable List<?> after) {
        return before != null && !before.isEmpty() || after != null && !after.isEmpty();
    }

    static @Nullable List<Map<String, Object>> rows(@Nullable List<?> list) {
        return list == null ? null : list.stream().map(Table::row).toList();
    }

    private static Map<String, Object> row(Object of) {
        Map<String, Object> row = new LinkedHashMap<>();
        ((Map<?, ?>) of).forEach((k, v) -> {
            if (v != null) {
                row.put(String.valueOf(k), v);
            }
        });
        return row;
    }

    static Table of(
            String name,
            @Nullable List<Map<String, Object>> before,
            @Nullable List<Map<String, Object>> after,
            @Nullable String asked) {
        Set<String> columns = new LinkedHashSet<>();
        columnsOf(before, columns);
        columnsOf(after, columns);
        List<String> keys = keys(columns, before, after);
        if (asked != null && !keys.contains(asked)) {
            throw new NoKey(name, asked, keys);
        }
        String key = asked != null ? asked : keys.isEmpty() ? null : keys.getFirst();
        Function<Map<String, Object>, @Nullable Object> by =
                key == null ? Alike::form : row -> Alike.form(row.get(key));
        List<Row> rows = Pairs.of(before, after, by).stream()
                .map(p -> new Row(p.before(), p.after(), p.change(), differs(columns, p.before(), p.after())))
                .toList();
        Change change = before == null || after == null
                ? Change.UNKNOWN
                : rows.stream().anyMatch(r -> r.change().differs()) ? Change.CHANGED : Change.SAME;
        return new Table(
                name,
                before == null ? null : before.size(),
                after == null ? null : after.size(),
                change,
                key,
                keys,
                List.copyOf(columns),
                rows);
    }

    private static void columnsOf(@Nullable List<Map<String, Object>> rows, Set<String> into) {
        if (rows != null) {
            rows.forEach(row -> into.addAll(row.keySet()));
        }
    }

    private static List<String> differs(
            Set<String> columns, @Nullable Map<String, Object> before, @Nullable Map<String, Object> after) {
        return before == null || after == null
                ? List.of()
                : columns.stream()
                        .filter(c -> !Alike.same(before.get(c), after.get(c)))
                        .toList();
    }

    /**
     * The columns in which every row has a value that no other row of its side has, best first: the more rows find their like
     * on the other side, the more likely it is a name and not a measurement.
     */
    private static List<String> keys(
            Set<String> columns,
            @Nullable List<Map<String, Object>> before,
            @Nullable List<Map<String, Object>> after) {
        Map<String, Integer> found = new LinkedHashMap<>();
        for (String column : columns) {
            Set<Object> left = names(column, before);
            Set<Object> right = names(column, after);
            if (left != null && right != null) {
                Set<Object> both = new HashSet<>(left);
                both.retainAll(right);
                found.put(column, both.size());
            }
        }
        List<String> best = new ArrayList<>(found.keySet());
        best.sort((a, b) -> Integer.compare(found.get(b), found.get(a)));
        return best;
    }

    /** The values of a column; null where they do not tell rows apart. */
    private static @Nullable Set<Object> names(String column, @Nullable List<Map<String, Object>> rows) {
        if (rows == null) {
            return Set.of();
        }
        List<Object> values = rows.stream()
                .map(row -> row.get(column))
                .filter(v -> v != null && !(v instanceof List) && !(v instanceof Map))
                .map(Alike::form)
                .filter(Objects::nonNull)
                .toList();
        Set<Object> names = values.stream().collect(Collectors.toSet());
        return values.size() == rows.size() && names.size() == values.size() ? names : null;
    }
}
