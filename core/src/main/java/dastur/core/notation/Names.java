package dastur.core.notation;

import java.util.LinkedHashMap;
import java.util.Map;

/**
 * What sentences may name: ids with the names people know them by. Empty maps mean that nothing is known, for instance on
 * a command line; then ids are taken as they are written.
 *
 * @param fields paths that expressions may read, with their labels
 */
public record Names(
        Map<String, String> groups,
        Map<String, String> people,
        Map<String, String> actions,
        Map<String, String> ladders,
        Map<String, String> workflows,
        Map<String, String> fields,
        Map<String, String> rotas) {
    /** Knows nothing. */
    public static final Names NONE = new Names(Map.of(), Map.of(), Map.of(), Map.of(), Map.of(), Map.of());

    /** Without rotas. */
    public Names(
            Map<String, String> groups,
            Map<String, String> people,
            Map<String, String> actions,
            Map<String, String> ladders,
            Map<String, String> workflows,
            Map<String, String> fields) {
        this(groups, people, actions, ladders, workflows, fields, Map.of());
    }

    /** Groups and people together, as those who can be asked or told. */
    public Map<String, String> parties() {
        Map<String, String> all = new LinkedHashMap<>(groups);
        people.forEach(all::putIfAbsent);
        return all;
    }
}
