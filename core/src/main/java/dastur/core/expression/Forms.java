package dastur.core.expression;

import com.google.protobuf.ByteString;
import dastur.core.ticket.Field;
import dastur.core.ticket.FieldType;
import java.time.Duration;
import java.time.Instant;
import java.time.format.DateTimeParseException;
import java.time.temporal.ChronoUnit;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;

/** The forms of values: as they are kept, as expressions see them, and back. */
final class Forms {
    private static final int MAX_NODES = 10_000;

    private Forms() {}

    /** A value has more parts than are walked through. */
    static final class TooLarge extends RuntimeException {}

    /** Whole numbers arrive in several Java types; expressions know one. */
    static Object loose(Object value) {
        return switch (value) {
            case Integer i -> i.longValue();
            case Map<?, ?> map -> {
                Map<Object, Object> out = new LinkedHashMap<>();
                map.forEach((k, v) -> out.put(k, loose(v)));
                yield out;
            }
            case List<?> list -> list.stream().map(Forms::loose).toList();
            default -> value;
        };
    }

    static Map<String, Object> typed(String root, Map<String, Object> values, Vocabulary vocabulary) {
        Map<String, Object> out = new LinkedHashMap<>();
        values.forEach((name, value) -> {
            String path = root + "." + name;
            if (value instanceof Map<?, ?> inner && root.equals("steps")) {
                Map<String, Object> step = new LinkedHashMap<>();
                inner.forEach((k, v) -> step.put((String) k, typed(vocabulary.field(path + "." + k), v)));
                out.put(name, step);
            } else {
                out.put(name, typed(vocabulary.field(path), value));
            }
        });
        return out;
    }

    private static Object typed(Optional<Field> field, Object value) {
        FieldType type = field.map(Field::type).orElse(FieldType.ANY);
        return switch (type) {
            case TIME -> instant(value);
            case NUMBER -> value instanceof Number n ? n.doubleValue() : value;
            case WHOLE -> value instanceof Number n ? n.longValue() : value;
            default -> loose(value);
        };
    }

    private static Object instant(Object value) {
        try {
            return value instanceof String s ? Instant.parse(s) : value;
        } catch (DateTimeParseException e) {
            return value;
        }
    }

    /**
     * To JSON form.
     *
     * @throws TooLarge where it has more than 10,000 parts
     */
    static Object plain(Object value) {
        return plain(value, new int[] {MAX_NODES});
    }

    private static Object plain(Object value, int[] budget) {
        if (--budget[0] < 0) {
            throw new TooLarge();
        }
        return switch (value) {
            case List<?> list -> list.stream().map(v -> plain(v, budget)).toList();
            case Map<?, ?> map -> {
                Map<String, Object> out = new LinkedHashMap<>();
                map.forEach((k, v) -> out.put(String.valueOf(k), plain(v, budget)));
                yield out;
            }
            case Instant i -> i.truncatedTo(ChronoUnit.MILLIS).toString();
            case Duration d -> d.toString();
            case com.google.common.primitives.UnsignedLong u -> u.longValue();
            case ByteString b -> b.toStringUtf8();
            case Optional<?> o -> o.isPresent() ? plain(o.get(), budget) : "";
            case String s -> s;
            case Number n -> dastur.core.json.Values.normal(n);
            case Boolean b -> b;
            default -> String.valueOf(value);
        };
    }
}
