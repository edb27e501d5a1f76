package dastur.core.expression;

import com.google.common.collect.ImmutableList;
import com.google.common.collect.ImmutableMap;
import dev.cel.common.CelFunctionDecl;
import dev.cel.common.CelOverloadDecl;
import dev.cel.common.types.CelType;
import dev.cel.common.types.ListType;
import dev.cel.common.types.SimpleType;
import dev.cel.runtime.CelEvaluationException;
import dev.cel.runtime.CelFunctionBinding;
import java.util.ArrayList;
import java.util.Comparator;
import java.util.HashMap;
import java.util.HashSet;
import java.util.IdentityHashMap;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Objects;
import java.util.Optional;
import java.util.Set;
import org.jspecify.annotations.Nullable;

/**
 * Our own functions over tables, which are lists of rows with named values (M11): in order, in groups, side by side with another
 * table. None makes more rows than it was given.
 */
final class Tables {
    private static final CelType ROWS = ListType.create(SimpleType.DYN);
    private static final CelType TEXT = SimpleType.STRING;

    static final List<CelFunctionDecl> DECLARATIONS = List.of(
            one("sorted", "sorted_rows_text", ROWS, TEXT),
            one("reversed", "reversed_rows", ROWS),
            one("first", "first_rows_int", ROWS, SimpleType.INT),
            one("grouped", "grouped_rows_text", ROWS, TEXT),
            one("paired", "paired_rows_text_rows_text", ROWS, TEXT, ROWS, TEXT));

    static final List<CelFunctionBinding> BINDINGS = List.of(
            CelFunctionBinding.from("sorted_rows_text", List.class, String.class, Tables::sorted),
            CelFunctionBinding.from("reversed_rows", List.class, Tables::reversed),
            CelFunctionBinding.from("first_rows_int", List.class, Long.class, Tables::first),
            CelFunctionBinding.from("grouped_rows_text", List.class, String.class, Tables::grouped),
            CelFunctionBinding.from(
                    "paired_rows_text_rows_text",
                    List.of(List.class, String.class, List.class, String.class),
                    a -> paired((List<?>) a[0], (String) a[1], (List<?>) a[2], (String) a[3])));

    private Tables() {}

    private static CelFunctionDecl one(String name, String id, CelType... parameters) {
        return CelFunctionDecl.newFunctionDeclaration(
                name, CelOverloadDecl.newGlobalOverload(id, ROWS, List.of(parameters)));
    }

    private static @Nullable Object value(Object row, String column) throws CelEvaluationException {
        if (!(row instanceof Map<?, ?> values)) {
            throw new CelEvaluationException("not a table");
        }
        return values.get(column);
    }

    /** Rows by a column: numbers by their size, then texts, then rows without a value; alike ones as they were. */
    private static Object sorted(List<?> rows, String column) throws CelEvaluationException {
        Map<Object, Object> keys = new IdentityHashMap<>();
        for (Object row : rows) {
            keys.put(row, Optional.ofNullable(value(row, column)));
        }
        return rows.stream()
                .sorted(Comparator.comparing((Object row) -> rank((Optional<?>) keys.get(row)))
                        .thenComparing(row -> number((Optional<?>) keys.get(row)))
                        .thenComparing(row -> text((Optional<?>) keys.get(row))))
                .collect(ImmutableList.toImmutableList());
    }

    private static int rank(Optional<?> value) {
        return value.isEmpty() ? 2 : value.get() instanceof Number ? 0 : 1;
    }

    private static double number(Optional<?> value) {
        return value.isPresent() && value.get() instanceof Number n ? n.doubleValue() : 0;
    }

    private static String text(Optional<?> value) {
        return value.isEmpty() || value.get() instanceof Number ? "" : String.valueOf(value.get());
    }

    private static Object reversed(List<?> rows) {
        return ImmutableList.copyOf(rows).reverse();
    }

    private static Object first(List<?> rows, Long count) {
        return ImmutableList.copyOf(rows.subList(0, Math.clamp(count, 0, rows.size())));
    }

    /** A row for each value of a column, in the order in which they come: the value, how many rows have it, and which. */
    private static Object grouped(List<?> rows, String column) throws CelEvaluationException {
        Map<Optional<Object>, List<Object>> groups = new LinkedHashMap<>();
        for (Object row : rows) {
            groups.computeIfAbsent(Optional.ofNullable(value(row, column)).map(Tables::alike), k -> new ArrayList<>())
                    .add(row);
        }
        ImmutableList.Builder<Object> out = ImmutableList.builder();
        for (List<Object> its : groups.values()) {
            ImmutableMap.Builder<String, Object> row = ImmutableMap.builder();
            Optional.ofNullable(value(its.getFirst(), column)).ifPresent(v -> row.put("value", v));
            out.add(row.put("count", (long) its.size())
                    .put("rows", ImmutableList.copyOf(its))
                    .build());
        }
        return out.build();
    }

    /**
     * Each row with the row of another table that has the same value in a column, as {@code match}; without one where there is
     * none. A value that several others have says nothing of which is meant.
     */
    private static Object paired(List<?> rows, String column, List<?> others, String theirs)
            throws CelEvaluationException {
        Map<Object, Object> byValue = new HashMap<>();
        Set<Object> several = new HashSet<>();
        for (Object other : others) {
            Object value = value(other, theirs);
            if (value != null && byValue.put(alike(value), other) != null) {
                several.add(alike(value));
            }
        }
        ImmutableList.Builder<Object> out = ImmutableList.builder();
        for (Object row : rows) {
            Object value = value(row, column);
            Object key = value == null ? null : alike(value);
            if (key != null && several.contains(key)) {
                throw new CelEvaluationException("several rows match one");
            }
            Map<Object, Object> all = new LinkedHashMap<>((Map<?, ?>) row);
            all.remove("match");
            all.values().removeIf(Objects::isNull);
            Optional.ofNullable(key).map(byValue::get).ifPresent(m -> all.put("match", m));
            out.add(ImmutableMap.copyOf(all));
        }
        return out.build();
    }

    /** Whole numbers and others are told apart by their size alone. */
    private static Object alike(Object value) {
        return value instanceof Number n ? (Object) n.doubleValue() : value;
    }
}
