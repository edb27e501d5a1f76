package dastur.core.step.check;

import dastur.core.expression.Literal;
import java.util.Map;
import java.util.Optional;
import java.util.TreeMap;
import java.util.regex.Matcher;
import java.util.regex.Pattern;
import org.jspecify.annotations.Nullable;

/**
 * What a check would measure if its rules held, as far as they compare a measured value with a fixed one. A rehearsal goes by
 * it: what is expected of a check is that it holds.
 */
final class Holding {
    private static final Pattern MEASURED = Pattern.compile("measured\\.([A-Za-z_][A-Za-z0-9_]*)");

    private Holding() {}

    static Map<String, Object> of(Check check) {
        Map<String, Object> measured = new TreeMap<>();
        for (Check.Rule rule : check.rules()) {
            Matcher value = MEASURED.matcher(rule.value().strip());
            if (value.matches()) {
                of(rule).ifPresent(v -> measured.put(value.group(1), v));
            }
        }
        return measured;
    }

    private static Optional<Object> of(Check.Rule rule) {
        return switch (rule.compare()) {
            case EQUAL, WITHIN, AT_LEAST, AT_MOST, CONTAINS -> literal(rule.against());
            case ABOVE -> literal(rule.against()).flatMap(v -> beside(v, 1));
            case BELOW -> literal(rule.against()).flatMap(v -> beside(v, -1));
            case HOLDS -> Optional.of(true);
            // Whatever is made up is another.
            case DIFFERENT -> Optional.empty();
        };
    }

    private static Optional<Object> beside(Object value, int by) {
        return switch (value) {
            case Long n -> Optional.of(n + by);
            case Double n -> Optional.of(n + by);
            default -> Optional.empty();
        };
    }

    private static Optional<Object> literal(@Nullable String expression) {
        return expression == null ? Optional.empty() : Literal.of(expression);
    }
}
