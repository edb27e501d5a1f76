package dastur.core.step.check;

import dastur.core.comparison.Alike;
import java.math.BigDecimal;
import java.math.MathContext;
import java.math.RoundingMode;
import java.util.List;
import org.jspecify.annotations.Nullable;

/** Compares what a rule judges with what it is compared with, and says so with the numbers (N22). */
final class Comparison {
    /** As many digits as people read. */
    private static final MathContext READ = new MathContext(6, RoundingMode.HALF_EVEN);

    private Comparison() {}

    static boolean holds(Check.Rule rule, Object value, @Nullable Object against) {
        return switch (rule.compare()) {
            case HOLDS -> Boolean.TRUE.equals(value);
            case EQUAL -> Alike.same(value, against);
            case DIFFERENT -> !Alike.same(value, against);
            case CONTAINS -> contains(value, against);
            case ABOVE -> order(value, against) > 0;
            case AT_LEAST -> order(value, against) >= 0;
            case BELOW -> order(value, against) < 0 && comparable(value, against);
            case AT_MOST -> order(value, against) <= 0 && comparable(value, against);
            case WITHIN -> within(value, against, rule.share() == null ? 0 : rule.share());
        };
    }

    private static boolean contains(Object value, @Nullable Object against) {
        if (value instanceof List<?> list) {
            return list.stream().anyMatch(item -> Alike.same(item, against));
        }
        return String.valueOf(value).contains(String.valueOf(against));
    }

    private static boolean comparable(Object value, @Nullable Object against) {
        return value instanceof Number && against instanceof Number
                || value instanceof String && against instanceof String;
    }

    /** Numbers by size, texts (and so times) by their order; what cannot be compared counts as below. */
    private static int order(Object value, @Nullable Object against) {
        if (value instanceof Number a && against instanceof Number b) {
            return number(a).compareTo(number(b));
        }
        return value instanceof String a && against instanceof String b ? a.compareTo(b) : -1;
    }

    private static boolean within(Object value, @Nullable Object against, double share) {
        if (!(value instanceof Number a) || !(against instanceof Number b)) {
            return false;
        }
        double allowed = Math.abs(b.doubleValue()) * share / 100;
        return Math.abs(a.doubleValue() - b.doubleValue()) <= allowed;
    }

    private static BigDecimal number(Number n) {
        return new BigDecimal(n.toString());
    }

    /** The sentence with the numbers: with no more digits than anybody reads, and a share as percent. */
    static String sentence(Check.Rule rule, Object value, @Nullable Object against) {
        boolean share = rule.value().contains("share(");
        String is = words(value, share);
        String other = words(against, share);
        return switch (rule.compare()) {
            case HOLDS -> rule.value() + " is " + value + ".";
            case WITHIN -> is + ", needs within " + plain(rule.share()) + " % of " + other + ".";
            case EQUAL -> is + ", needs " + other + ".";
            case DIFFERENT -> is + ", needs to differ from " + other + ".";
            default -> is + ", needs " + rule.compare().word() + " " + other + ".";
        };
    }

    private static String words(@Nullable Object value, boolean share) {
        if (share && value instanceof Number n) {
            return number(n)
                            .movePointRight(2)
                            .setScale(1, RoundingMode.HALF_EVEN)
                            .stripTrailingZeros()
                            .toPlainString() + " %";
        }
        return value instanceof Double d && Double.isFinite(d)
                ? number(d).round(READ).stripTrailingZeros().toPlainString()
                : clipped(value);
    }

    private static String plain(@Nullable Double share) {
        return share == null
                ? "0"
                : new BigDecimal(share.toString()).stripTrailingZeros().toPlainString();
    }

    private static String clipped(@Nullable Object value) {
        return dastur.core.json.Texts.clip(String.valueOf(value), 120);
    }
}
