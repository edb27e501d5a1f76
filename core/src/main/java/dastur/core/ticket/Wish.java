package dastur.core.ticket;

import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.TreeMap;
import org.jspecify.annotations.Nullable;

/**
 * What was wished of a CI and came otherwise (M17). What a CI is given while it is planned is wished, and agreed to as it stands
 * then; what it is given from the moment on that it is planned no longer is real.
 *
 * @param name the field, as it is declared
 * @param wished as text
 * @param real as text; null where the CI has no such value any more
 */
public record Wish(String name, String wished, @Nullable String real) {
    private static final String PLANNED = "planned";
    private static final String LIFE = "life";

    /**
     * A value of a CI that changed.
     *
     * @param together tells the changes of one entry, which are made at once
     */
    public record Changed(
            String together,
            String name,
            @Nullable String before,
            @Nullable String after) {}

    /** What came otherwise than it was wished, by the fields' names; nothing while a CI is planned. @param changes the oldest first */
    public static List<Wish> unmet(List<Changed> changes) {
        Changed settles = changes.stream()
                .filter(c -> c.name().equals(LIFE) && (PLANNED.equals(c.before()) || PLANNED.equals(c.after())))
                .reduce((first, later) -> later)
                .orElse(null);
        if (settles == null || PLANNED.equals(settles.after())) {
            return List.of();
        }
        Map<String, Optional<String>> wished = new TreeMap<>();
        Map<String, @Nullable String> real = new HashMap<>();
        changes.stream()
                .dropWhile(c -> !c.together().equals(settles.together()))
                .filter(c -> !c.name().equals(LIFE))
                .forEach(c -> {
                    wished.putIfAbsent(c.name(), Optional.ofNullable(c.before()));
                    real.put(c.name(), c.after());
                });
        return wished.entrySet().stream()
                .flatMap(e -> e.getValue().map(w -> new Wish(e.getKey(), w, real.get(e.getKey()))).stream())
                .filter(w -> !w.wished().equals(w.real()))
                .toList();
    }
}
