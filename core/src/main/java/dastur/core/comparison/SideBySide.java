package dastur.core.comparison;

import dastur.core.run.RuleSeen;
import java.math.BigDecimal;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.stream.Stream;
import org.jspecify.annotations.Nullable;

/**
 * Two measurements, thing by thing: rules by their names, values by theirs, lists by what is in them, tables row by row.
 * Everything that stands on either side stands in it once.
 */
public record SideBySide(List<Rule> rules, List<Value> values, List<Items> lists, List<Table> tables) {
    /** How deep values within values are told apart; what lies deeper is compared as a whole. */
    private static final int DEEP = 6;

    /** One rule of a check. @param before null where that side did not judge it */
    public record Rule(
            String name,
            @Nullable RuleSeen before,
            @Nullable RuleSeen after,
            Change change) {}

    /** One value. @param by how much more it is after; null where it is not a number on both sides or the same */
    public record Value(
            String name,
            @Nullable Object before,
            @Nullable Object after,
            Change change,
            @Nullable BigDecimal by) {}

    /** One thing in a list. */
    public record Item(Object value, Change change) {}

    /** One list. @param before how many it had; null where that side has no such list */
    public record Items(
            String name, @Nullable Integer before, @Nullable Integer after, Change change, List<Item> items) {}

    /** Where two things stand that are compared. */
    public static SideBySide of(Captured before, Captured after, Map<String, String> keys) {
        return of(before.values(), before.rules(), after.values(), after.rules(), keys);
    }

    /**
     * Compares two sides.
     *
     * @param keys by the name of a table, the column that names its rows; a table without is aligned by the column that does
     *     it best
     * @throws NoKey where a column does not name rows
     */
    public static SideBySide of(
            Map<String, Object> before,
            List<RuleSeen> rulesBefore,
            Map<String, Object> after,
            List<RuleSeen> rulesAfter,
            Map<String, String> keys) {
        Map<String, Object> a = new LinkedHashMap<>();
        Map<String, Object> b = new LinkedHashMap<>();
        flatten("", before, 0, a);
        flatten("", after, 0, b);
        List<Value> values = new ArrayList<>();
        List<Items> lists = new ArrayList<>();
        List<Table> tables = new ArrayList<>();
        for (String name : union(a.keySet(), b.keySet())) {
            Object x = a.get(name);
            Object y = b.get(name);
            if (isList(x) && isList(y)) {
                List<?> left = x == null ? null : (List<?>) x;
                List<?> right = y == null ? null : (List<?>) y;
                if (Table.isTable(left) && Table.isTable(right) && Table.hasRows(left, right)) {
                    tables.add(Table.of(name, Table.rows(left), Table.rows(right), keys.get(name)));
                } else {
                    lists.add(items(name, left, right));
                }
            } else {
                values.add(value(name, x, y));
            }
        }
        return new SideBySide(rules(rulesBefore, rulesAfter), values, lists, tables);
    }

    /** How many things are known to differ. */
    public int differing() {
        return (int) changes().filter(Change::differs).count();
    }

    /** Of how many things only one side says anything. */
    public int unknown() {
        return (int) changes().filter(c -> c == Change.UNKNOWN).count();
    }

    private Stream<Change> changes() {
        return Stream.of(
                        rules.stream().map(Rule::change),
                        values.stream().map(Value::change),
                        lists.stream().map(Items::change),
                        tables.stream().map(Table::change))
                .flatMap(c -> c);
    }

    /** Absent counts as a list beside one; two absent ones do not come here. */
    private static boolean isList(@Nullable Object value) {
        return value == null || value instanceof List;
    }

    private static void flatten(String prefix, Map<?, ?> values, int depth, Map<String, Object> into) {
        values.forEach((key, value) -> {
            String name = prefix + key;
            if (value instanceof Map<?, ?> inner && !inner.isEmpty() && depth < DEEP) {
                flatten(name + ".", inner, depth + 1, into);
            } else if (value != null) {
                into.put(name, value);
            }
        });
    }

    static <T> Set<T> union(Set<T> first, Set<T> second) {
        Set<T> all = new LinkedHashSet<>(first);
        all.addAll(second);
        return all;
    }

    private static Value value(String name, @Nullable Object before, @Nullable Object after) {
        if (before == null || after == null) {
            return new Value(name, before, after, Change.UNKNOWN, null);
        }
        boolean same = Alike.same(before, after);
        BigDecimal by = !same && before instanceof Number x && after instanceof Number y
                ? Alike.number(y).subtract(Alike.number(x))
                : null;
        return new Value(name, before, after, same ? Change.SAME : Change.CHANGED, by);
    }

    private static List<Rule> rules(List<RuleSeen> before, List<RuleSeen> after) {
        Map<String, RuleSeen> a = named(before);
        Map<String, RuleSeen> b = named(after);
        return union(a.keySet(), b.keySet()).stream()
                .map(name -> rule(name, a.get(name), b.get(name)))
                .toList();
    }

    /** By name; where one stands several times, the later ones are numbered. */
    private static Map<String, RuleSeen> named(List<RuleSeen> rules) {
        Map<String, RuleSeen> named = new LinkedHashMap<>();
        for (RuleSeen rule : rules) {
            String name = rule.name();
            for (int n = 2; named.containsKey(name); n++) {
                name = rule.name() + " (" + n + ")";
            }
            named.put(name, rule);
        }
        return named;
    }

    private static Rule rule(String name, @Nullable RuleSeen before, @Nullable RuleSeen after) {
        Change change;
        if (before == null || after == null) {
            change = Change.UNKNOWN;
        } else if (before.holds() != after.holds()) {
            change = after.holds() ? Change.TURNED_GOOD : Change.TURNED_BAD;
        } else {
            change = Alike.same(before.value(), after.value()) && Alike.same(before.against(), after.against())
                    ? Change.SAME
                    : Change.CHANGED;
        }
        return new Rule(name, before, after, change);
    }

    /** What is in one list and not in the other, each as often as it stands there; the order does not count. */
    private static Items items(String name, @Nullable List<?> before, @Nullable List<?> after) {
        List<Item> items = Pairs.of(before, after).stream()
                .map(p -> new Item(p.after() == null ? p.before() : p.after(), p.change()))
                .toList();
        Change change = before == null || after == null
                ? Change.UNKNOWN
                : items.stream().anyMatch(i -> i.change().differs()) ? Change.CHANGED : Change.SAME;
        return new Items(
                name, before == null ? null : before.size(), after == null ? null : after.size(), change, items);
    }
}
