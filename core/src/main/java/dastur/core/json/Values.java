package dastur.core.json;

import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.TreeMap;

/**
 * Brings values into the one form that survives sealing and reading back: whole numbers are longs, blank and null are
 * absent. Without it a live fold and a fold of the stored record could differ by 3 against 3.0.
 */
public final class Values {
    private static final double MAX_SAFE = (1L << 53) - 1;

    private Values() {}

    public static Object normal(Object value) {
        return switch (value) {
            case Integer i -> (Object) i.longValue();
            case Long l -> Math.abs(l) <= MAX_SAFE ? l : (Object) String.valueOf(l);
            case Double d when !Double.isFinite(d) -> String.valueOf(d);
            case Double d when d == Math.rint(d) && Math.abs(d) <= MAX_SAFE -> (Object) d.longValue();
            case Number n when !(n instanceof Double) -> normal(n.doubleValue());
            case List<?> list ->
                list.stream().filter(v -> v != null).map(Values::normal).toList();
            case Map<?, ?> map -> {
                Map<String, Object> out = new LinkedHashMap<>();
                map.forEach((k, v) -> {
                    if (v != null) {
                        out.put(String.valueOf(k), normal(v));
                    }
                });
                yield out;
            }
            default -> value;
        };
    }

    /** The values without blank ones, in normal form and in the order of their names. */
    public static Map<String, Object> withoutBlank(Map<String, ? extends Object> values) {
        Map<String, Object> kept = new TreeMap<>();
        values.forEach((k, v) -> {
            if (!Texts.blank(v)) {
                kept.put(k, normal(v));
            }
        });
        return kept;
    }
}
