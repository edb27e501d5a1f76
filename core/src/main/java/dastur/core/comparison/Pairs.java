package dastur.core.comparison;

import java.util.ArrayDeque;
import java.util.ArrayList;
import java.util.Deque;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.function.Function;
import org.jspecify.annotations.Nullable;

/** Finds for each thing on one side its like on the other, each only once. */
final class Pairs {
    private Pairs() {}

    /** One thing with its like. @param before null where it stands after alone */
    record Pair<T>(@Nullable T before, @Nullable T after, Change change) {}

    /** Like are those that are the same. A side that is null was not seen: of what the other has nothing can be said. */
    static List<Pair<Object>> of(@Nullable List<?> before, @Nullable List<?> after) {
        return of(objects(before), objects(after), Alike::form);
    }

    private static @Nullable List<Object> objects(@Nullable List<?> list) {
        return list == null
                ? null
                : list.stream().map(o -> o == null ? (Object) "" : o).toList();
    }

    /** Like are those of one key, in the order of before, then what is new in the order of after. */
    static <T> List<Pair<T>> of(@Nullable List<T> before, @Nullable List<T> after, Function<T, @Nullable Object> key) {
        List<T> left = before == null ? List.of() : before;
        List<T> right = after == null ? List.of() : after;
        Map<Object, Deque<Integer>> there = new HashMap<>();
        for (int i = 0; i < right.size(); i++) {
            there.computeIfAbsent(key(key, right.get(i)), k -> new ArrayDeque<>())
                    .add(i);
        }
        boolean[] taken = new boolean[right.size()];
        List<Pair<T>> pairs = new ArrayList<>();
        for (T one : left) {
            Integer like = there.getOrDefault(key(key, one), new ArrayDeque<>()).poll();
            if (like == null) {
                pairs.add(new Pair<>(one, null, after == null ? Change.UNKNOWN : Change.GONE));
            } else {
                taken[like] = true;
                T other = right.get(like);
                pairs.add(new Pair<>(one, other, Alike.same(one, other) ? Change.SAME : Change.CHANGED));
            }
        }
        for (int i = 0; i < right.size(); i++) {
            if (!taken[i]) {
                pairs.add(new Pair<>(null, right.get(i), before == null ? Change.UNKNOWN : Change.NEW));
            }
        }
        return pairs;
    }

    /** What has no key is like what has none. */
    private static <T> Object key(Function<T, @Nullable Object> key, T of) {
        Object found = key.apply(of);
        return found == null ? "" : found;
    }
}
