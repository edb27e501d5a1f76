package dastur.core.start;

import java.math.BigDecimal;
import java.util.Collections;
import java.util.Map;
import java.util.TreeMap;

/** Between what each number lay that a watch read in a stretch of readings (I11); by name, at most {@value #MOST}. */
public record Extremes(Map<String, Range> numbers) {
    /** More numbers than that are not followed. */
    public static final int MOST = 20;

    private static final int MAX_DIGITS = 40;

    /** Nothing was read yet. */
    public static final Extremes NONE = new Extremes(Map.of());

    /** @param least the smallest of the readings, in the unit of the action's output @param most the largest */
    public record Range(BigDecimal least, BigDecimal most) {
        Range with(BigDecimal number) {
            return new Range(least.min(number), most.max(number));
        }
    }

    public Extremes {
        numbers = Collections.unmodifiableMap(new TreeMap<>(numbers));
    }

    /** With another reading. What is no number, or one that nobody can read, does not count. */
    public Extremes with(Map<String, Object> values) {
        Map<String, Range> wider = new TreeMap<>(numbers);
        values.forEach((name, value) -> {
            if (value instanceof Number number && isReadable(number)) {
                BigDecimal exact = new BigDecimal(number.toString());
                Range before = wider.get(name);
                if (before != null) {
                    wider.put(name, before.with(exact));
                } else if (wider.size() < MOST) {
                    wider.put(name, new Range(exact, exact));
                }
            }
        });
        return new Extremes(wider);
    }

    private static boolean isReadable(Number number) {
        return number.toString().length() <= MAX_DIGITS && Double.isFinite(number.doubleValue());
    }
}
