package dastur.core.expression;

import java.time.Instant;
import java.util.Map;

/** The values an evaluation reads, in JSON form and without absent ones. Asked only for the roots that are used. */
public interface Scope {
    /** Values of a root such as {@code ticket}; for {@code steps} a map of maps. */
    Map<String, Object> root(String name);

    /** The moment that {@code now} means. */
    Instant now();

    /** A scope of fixed values, for previews and tests. */
    static Scope of(Map<String, Map<String, Object>> roots, Instant now) {
        return new Scope() {
            @Override
            public Map<String, Object> root(String name) {
                return roots.getOrDefault(name, Map.of());
            }

            @Override
            public Instant now() {
                return now;
            }
        };
    }
}
