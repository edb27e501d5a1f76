package dastur.core.expression;

import java.time.Instant;
import java.util.Map;
import java.util.Optional;

/** The values an evaluation reads, in JSON form and without absent ones. Asked only for the roots that are used. */
public interface Scope {
    /** Values of a root such as {@code ticket}; for {@code steps} a map of maps. */
    Map<String, Object> root(String name);

    /** The item that a name means inside a for each; empty outside. */
    default Optional<Object> item(String name) {
        return Optional.empty();
    }

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
