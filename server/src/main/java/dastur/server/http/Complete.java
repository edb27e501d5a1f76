package dastur.server.http;

import java.lang.reflect.RecordComponent;
import java.util.Collection;
import java.util.Map;
import java.util.Optional;

/**
 * Whether a record that was read from JSON has all that it must have: a reader leaves out what was left out, and nothing in
 * the model expects that.
 */
final class Complete {
    private Complete() {}

    /** The place of the first value that is missing; empty when none is. Bodies of our own routes say themselves what they need. */
    static Optional<String> missing(Object value) {
        return missing(value, "");
    }

    private static Optional<String> missing(Object value, String where) {
        if (value instanceof Collection<?> all) {
            int i = 0;
            for (Object one : all) {
                Optional<String> found = missing(one, where + "[" + i++ + "]");
                if (found.isPresent()) {
                    return found;
                }
            }
        } else if (value instanceof Map<?, ?> map) {
            for (Map.Entry<?, ?> one : map.entrySet()) {
                Optional<String> found = missing(one.getValue(), inside(where, String.valueOf(one.getKey())));
                if (found.isPresent()) {
                    return found;
                }
            }
        } else if (value instanceof Record && value.getClass().getName().startsWith("dastur.")) {
            return ofRecord(value, where);
        }
        return Optional.empty();
    }

    private static Optional<String> ofRecord(Object value, String where) {
        boolean model = value.getClass().getName().startsWith("dastur.core.");
        for (RecordComponent component : value.getClass().getRecordComponents()) {
            String place = inside(where, component.getName());
            Object part = read(value, component);
            if (part == null && model && !Schemas.isNullable(component)) {
                return Optional.of(place);
            }
            Optional<String> found = missing(part, place);
            if (found.isPresent()) {
                return found;
            }
        }
        return Optional.empty();
    }

    private static Object read(Object value, RecordComponent component) {
        try {
            component.getAccessor().setAccessible(true);
            return component.getAccessor().invoke(value);
        } catch (ReflectiveOperationException e) {
            throw new IllegalStateException("a record's component can be read", e);
        }
    }

    private static String inside(String where, String name) {
        return where.isEmpty() ? name : where + "." + name;
    }
}
