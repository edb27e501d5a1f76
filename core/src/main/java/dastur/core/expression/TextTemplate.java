package dastur.core.expression;

import com.fasterxml.jackson.core.io.JsonStringEncoder;
import dastur.core.json.Json;
import java.net.URLEncoder;
import java.nio.charset.StandardCharsets;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import org.jspecify.annotations.Nullable;

/**
 * A text with values inserted: {@code {{ expression }}} or {@code {{ expression ?? default }}} (D26). Scanned with CEL's
 * literal rules, so a {@code }}} inside a quoted text does not end it. An absent value gives its default, or nothing.
 */
public final class TextTemplate {
    private sealed interface Part {
        record Literal(String text) implements Part {}

        record Insert(String expression, @Nullable String fallback, int column) implements Part {}
    }

    /** Where a text goes; inserted values are escaped for it. */
    public enum Target {
        PLAIN,
        /** Texts stand within quotes; a list, a table or a row that stands outside of them is written as what it is. */
        JSON,
        /** Text or an attribute of XML 1.0. */
        XML,
        URL,
        /** One name in a path of files: a value is never a folder more. */
        FILE;

        String escape(String value) {
            return switch (this) {
                case PLAIN -> value;
                case XML -> xml(value);
                case FILE -> value.replace("/", "%2F").replace("\\", "%5C");
                case JSON -> new String(JsonStringEncoder.getInstance().quoteAsString(value));
                case URL -> URLEncoder.encode(value, StandardCharsets.UTF_8).replace("+", "%20");
            };
        }
    }

    /** Characters that XML 1.0 cannot hold, also not as references, stand as a question mark. */
    private static String xml(String value) {
        StringBuilder out = new StringBuilder();
        value.codePoints().forEach(c -> {
            switch (c) {
                case '&' -> out.append("&amp;");
                case '<' -> out.append("&lt;");
                case '>' -> out.append("&gt;");
                case '"' -> out.append("&quot;");
                case '\'' -> out.append("&apos;");
                case '\t', '\n', '\r' -> out.append("&#").append(c).append(';');
                default -> {
                    boolean fits = c >= 0x20 && c <= 0xD7FF || c >= 0xE000 && c <= 0xFFFD || c >= 0x10000;
                    out.appendCodePoint(fits ? c : '?');
                }
            }
        });
        return out.toString();
    }

    /** A rendered text and the paths or expressions that had no value. */
    public record Rendered(String text, List<String> absent) {}

    private final List<Part> parts;
    private final @Nullable ExpressionProblem broken;

    private TextTemplate(List<Part> parts, @Nullable ExpressionProblem broken) {
        this.parts = parts;
        this.broken = broken;
    }

    public static TextTemplate parse(String text) {
        List<Part> parts = new ArrayList<>();
        int at = 0;
        while (true) {
            int open = text.indexOf("{{", at);
            if (open < 0) {
                parts.add(new Part.Literal(text.substring(at)));
                return new TextTemplate(parts, null);
            }
            parts.add(new Part.Literal(text.substring(at, open)));
            Scan scan = Scan.from(text, open + 2);
            if (scan.end < 0) {
                return new TextTemplate(parts, new ExpressionProblem("'{{' is not closed by '}}'.", open + 1));
            }
            int cut = scan.elvis < 0 ? scan.end : scan.elvis;
            String fallback = scan.elvis < 0
                    ? null
                    : text.substring(scan.elvis + 2, scan.end).strip();
            parts.add(new Part.Insert(text.substring(open + 2, cut).strip(), fallback, open + 1));
            at = scan.end + 2;
        }
    }

    /** Finds the closing braces and a {@code ??} at depth 0, passing over quoted texts. */
    private record Scan(int end, int elvis) {
        static Scan from(String text, int start) {
            int elvis = -1;
            int depth = 0;
            for (int i = start; i < text.length(); i++) {
                char c = text.charAt(i);
                switch (c) {
                    case '"', '\'' -> i = closingQuote(text, i);
                    case '(', '[', '{' -> depth++;
                    case ')', ']' -> depth--;
                    case '}' -> {
                        if (depth <= 0 && i + 1 < text.length() && text.charAt(i + 1) == '}') {
                            return new Scan(i, elvis);
                        }
                        depth--;
                    }
                    case '?' -> {
                        if (depth == 0 && elvis < 0 && i + 1 < text.length() && text.charAt(i + 1) == '?') {
                            elvis = i++;
                        }
                    }
                    default -> {}
                }
            }
            return new Scan(-1, -1);
        }

        private static int closingQuote(String text, int open) {
            char quote = text.charAt(open);
            boolean raw = open > 0 && "rR".indexOf(text.charAt(open - 1)) >= 0;
            for (int i = open + 1; i < text.length(); i++) {
                if (text.charAt(i) == '\\' && !raw) {
                    i++;
                } else if (text.charAt(i) == quote) {
                    return i;
                }
            }
            return text.length();
        }
    }

    /** The first thing wrong with it; empty when every insertion compiles. */
    public Optional<ExpressionProblem> problem(Expressions expressions) {
        if (broken != null) {
            return Optional.of(broken);
        }
        for (Part part : parts) {
            if (part instanceof Part.Insert insert) {
                Optional<ExpressionProblem> wrong = expressions.problemWith(insert.expression());
                if (wrong.isEmpty() && insert.fallback() != null) {
                    wrong = expressions.problemWith(insert.fallback());
                }
                if (wrong.isPresent()) {
                    return Optional.of(new ExpressionProblem(wrong.get().message(), insert.column()));
                }
            }
        }
        return Optional.empty();
    }

    /** The expressions inserted without a default. */
    public List<String> inserted() {
        return parts.stream()
                .filter(p -> p instanceof Part.Insert i && i.fallback() == null)
                .map(p -> ((Part.Insert) p).expression())
                .toList();
    }

    public Rendered render(Expressions expressions, Scope scope, Target target) {
        StringBuilder out = new StringBuilder();
        List<String> absent = new ArrayList<>();
        boolean quoted = false;
        for (Part part : parts) {
            switch (part) {
                case Part.Literal literal -> {
                    out.append(literal.text());
                    quoted = endsQuoted(literal.text(), quoted);
                }
                case Part.Insert insert -> {
                    Outcome outcome = expressions.evaluate(insert.expression(), scope);
                    if (!(outcome instanceof Outcome.Value) && insert.fallback() != null) {
                        outcome = expressions.evaluate(insert.fallback(), scope);
                    }
                    if (outcome instanceof Outcome.Value value) {
                        boolean whole = target == Target.JSON && !quoted && isMade(value.value());
                        out.append(whole ? Json.write(value.value()) : target.escape(word(value.value())));
                    } else {
                        absent.add(insert.expression());
                    }
                }
            }
        }
        return new Rendered(out.toString(), absent);
    }

    /** Whether a JSON text ends within a string. @param quoted whether it begins in one; what is inserted there never ends it */
    private static boolean endsQuoted(String text, boolean quoted) {
        boolean in = quoted;
        for (int i = 0; i < text.length(); i++) {
            if (text.charAt(i) == '"') {
                in = !in;
            } else if (in && text.charAt(i) == '\\') {
                i++;
            }
        }
        return in;
    }

    /** What is made of other values: a list, a table, a row. */
    private static boolean isMade(Object value) {
        return value instanceof List<?> || value instanceof Map<?, ?>;
    }

    /** A text in whose place of each inserted value stands a mark, and the values in their order; null where one is absent. */
    public record Bound(String text, List<@Nullable Object> values) {}

    /** Renders without writing a value into the text: for what takes values beside it. */
    public Bound bound(Expressions expressions, Scope scope, char mark) {
        StringBuilder out = new StringBuilder();
        List<@Nullable Object> values = new ArrayList<>();
        for (Part part : parts) {
            switch (part) {
                case Part.Literal literal -> out.append(literal.text());
                case Part.Insert insert -> {
                    Outcome outcome = expressions.evaluate(insert.expression(), scope);
                    if (!(outcome instanceof Outcome.Value) && insert.fallback() != null) {
                        outcome = expressions.evaluate(insert.fallback(), scope);
                    }
                    values.add(outcome instanceof Outcome.Value value ? value.value() : null);
                    out.append(mark);
                }
            }
        }
        return new Bound(out.toString(), values);
    }

    private static String word(Object value) {
        return switch (value) {
            case List<?> list ->
                String.join(", ", list.stream().map(TextTemplate::word).toList());
            case Double d when d == Math.rint(d) && Math.abs(d) < 1e15 -> String.valueOf(d.longValue());
            default -> String.valueOf(value);
        };
    }
}
