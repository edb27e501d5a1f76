package dastur.core.workflow;

import java.math.BigDecimal;
import java.util.ArrayList;
import java.util.List;
import java.util.Optional;
import java.util.regex.Matcher;
import java.util.regex.Pattern;
import org.jspecify.annotations.Nullable;

/**
 * A cell of a decision table: a test of one input, in the simple unary tests of DMN 1.3 (OMG, section 7.3.13).
 *
 * @param negated whether none of the tests may hold
 * @param tests any of which must hold; empty for anything
 */
public record Cell(boolean negated, List<Test> tests) {
    private static final Pattern LITERAL = Pattern.compile("\"(?:[^\"\\\\]|\\\\.)*\"|-?\\d+(?:\\.\\d+)?|true|false");
    private static final Pattern COMPARED = Pattern.compile("(<=|>=|<|>|=)\\s*(" + LITERAL.pattern() + ")");
    private static final Pattern RANGE = Pattern.compile(
            "([\\[\\](])\\s*(" + LITERAL.pattern() + ")\\s*\\.\\.\\s*(" + LITERAL.pattern() + ")\\s*([\\])\\[])");
    private static final int MAX_LENGTH = 500;

    public Cell {
        tests = List.copyOf(tests);
    }

    /**
     * One test: a range, open at either end.
     *
     * @param low the lower end as written; null for none
     * @param high the upper end as written; null for none. Equal to low, both closed, it is that one value
     */
    public record Test(
            @Nullable String low,
            boolean lowClosed,
            @Nullable String high,
            boolean highClosed) {
        boolean single() {
            return low != null && low.equals(high) && lowClosed && highClosed;
        }

        String condition(String value) {
            if (single()) {
                return value + " == " + low;
            }
            List<String> parts = new ArrayList<>();
            if (low != null) {
                parts.add(value + (lowClosed ? " >= " : " > ") + low);
            }
            if (high != null) {
                parts.add(value + (highClosed ? " <= " : " < ") + high);
            }
            return String.join(" && ", parts);
        }

        /** Whether a value lies in it; texts are only ever equal. */
        boolean holds(Object value) {
            return (low == null || side(value, literal(low), lowClosed, false))
                    && (high == null || side(value, literal(high), highClosed, true));
        }

        private static boolean side(Object value, Object end, boolean closed, boolean below) {
            if (value instanceof BigDecimal a && end instanceof BigDecimal b) {
                int order = below ? b.compareTo(a) : a.compareTo(b);
                return closed ? order >= 0 : order > 0;
            }
            return closed && value.equals(end);
        }
    }

    /** @throws IllegalArgumentException with a sentence for the writer */
    public static Cell parse(String text) {
        String rest = text.strip();
        if (rest.length() > MAX_LENGTH) {
            throw new IllegalArgumentException("A cell has at most " + MAX_LENGTH + " characters.");
        }
        if (rest.isEmpty() || rest.equals("-")) {
            return new Cell(false, List.of());
        }
        boolean not = rest.startsWith("not(") && rest.endsWith(")");
        if (not) {
            rest = rest.substring(4, rest.length() - 1).strip();
        }
        List<Test> tests = new ArrayList<>();
        while (true) {
            rest = one(rest, text, tests);
            if (rest.isEmpty()) {
                return new Cell(not, tests);
            }
            if (!rest.startsWith(",")) {
                throw wrong(text);
            }
            rest = rest.substring(1).strip();
        }
    }

    private static String one(String rest, String whole, List<Test> into) {
        Matcher m = RANGE.matcher(rest);
        if (m.lookingAt()) {
            into.add(new Test(
                    m.group(2), m.group(1).equals("["), m.group(3), m.group(4).equals("]")));
            return rest.substring(m.end()).strip();
        }
        m = COMPARED.matcher(rest);
        if (m.lookingAt()) {
            String at = m.group(2);
            into.add(
                    switch (m.group(1)) {
                        case "<" -> new Test(null, false, at, false);
                        case "<=" -> new Test(null, false, at, true);
                        case ">" -> new Test(at, false, null, false);
                        case ">=" -> new Test(at, true, null, false);
                        default -> new Test(at, true, at, true);
                    });
            return rest.substring(m.end()).strip();
        }
        m = LITERAL.matcher(rest);
        if (m.lookingAt()) {
            into.add(new Test(m.group(), true, m.group(), true));
            return rest.substring(m.end()).strip();
        }
        throw wrong(whole);
    }

    private static IllegalArgumentException wrong(String text) {
        return new IllegalArgumentException("The cell " + dastur.core.json.Texts.clip(text, 60)
                + " is no test. Write - for anything, \"a\", \"b\" for values, >= 3, or [1..3] for a range.");
    }

    /** The condition it puts on a value's expression; empty when anything goes. */
    public Optional<String> condition(String value) {
        if (tests.isEmpty()) {
            return Optional.empty();
        }
        String operand = value.matches("[\\w.]+") ? value : "(" + value + ")";
        List<String> parts = tests.stream().map(t -> t.condition(operand)).toList();
        String any = parts.size() == 1 ? parts.getFirst() : "(" + String.join(" || ", parts) + ")";
        return Optional.of(negated ? "!(" + any + ")" : any);
    }

    /** Whether a value passes: a text, a number as BigDecimal, or yes or no. */
    public boolean holds(Object value) {
        return tests.isEmpty() || tests.stream().anyMatch(t -> t.holds(value)) != negated;
    }

    /** The values at which its answer may change, for looking for gaps and overlaps. */
    public List<Object> edges() {
        List<Object> edges = new ArrayList<>();
        for (Test test : tests) {
            if (test.low() != null) {
                edges.add(literal(test.low()));
            }
            if (test.high() != null && !test.single()) {
                edges.add(literal(test.high()));
            }
        }
        return edges;
    }

    private static Object literal(String text) {
        if (text.startsWith("\"")) {
            return text.substring(1, text.length() - 1);
        }
        return text.equals("true") || text.equals("false") ? (Object) Boolean.valueOf(text) : new BigDecimal(text);
    }
}
