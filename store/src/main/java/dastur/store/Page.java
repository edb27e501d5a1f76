package dastur.store;

import java.util.List;

/** A part of a list. @param more whether something follows */
public record Page<T>(List<T> items, boolean more) {
    static <T> Page<T> of(List<T> oneMore, int size) {
        return oneMore.size() > size
                ? new Page<>(List.copyOf(oneMore.subList(0, size)), true)
                : new Page<>(List.copyOf(oneMore), false);
    }
}
