package dastur.core.json;

import com.fasterxml.jackson.databind.JsonNode;
import java.math.BigDecimal;
import java.math.MathContext;
import java.math.RoundingMode;
import java.nio.charset.StandardCharsets;
import java.security.MessageDigest;
import java.security.NoSuchAlgorithmException;
import java.util.ArrayList;
import java.util.Collections;
import java.util.HexFormat;
import java.util.List;

/**
 * Canonical JSON text after RFC 8785: members sorted by UTF-16 code units, shortest escapes, numbers as ECMAScript
 * writes them. What RFC 8785 cannot carry exactly is not guessed at: null and unpaired surrogates are refused, whole
 * numbers beyond ±(2^53−1) become text (D21).
 */
public final class CanonicalJson {
    private static final long MAX_SAFE = (1L << 53) - 1;

    private CanonicalJson() {}

    public static String write(Object value) {
        return write(Json.tree(value));
    }

    /** SHA-256 of a value's canonical text, in hexadecimal. */
    public static String hash(Object value) {
        try {
            byte[] hash =
                    MessageDigest.getInstance("SHA-256").digest(write(value).getBytes(StandardCharsets.UTF_8));
            return HexFormat.of().formatHex(hash);
        } catch (NoSuchAlgorithmException e) {
            throw new IllegalStateException("every Java platform has SHA-256", e);
        }
    }

    public static String write(JsonNode node) {
        StringBuilder out = new StringBuilder(256);
        append(out, node);
        return out.toString();
    }

    private static void append(StringBuilder out, JsonNode node) {
        switch (node.getNodeType()) {
            case OBJECT -> appendObject(out, node);
            case ARRAY -> {
                out.append('[');
                for (int i = 0; i < node.size(); i++) {
                    if (i > 0) {
                        out.append(',');
                    }
                    append(out, node.get(i));
                }
                out.append(']');
            }
            case STRING -> appendText(out, node.textValue());
            case BOOLEAN -> out.append(node.booleanValue());
            case NUMBER -> appendNumber(out, node);
            case NULL, MISSING -> throw new IllegalArgumentException("a sealed value is never null: leave it out");
            case BINARY, POJO -> throw new IllegalArgumentException("not a JSON value: " + node.getNodeType());
        }
    }

    private static void appendObject(StringBuilder out, JsonNode node) {
        List<String> names = new ArrayList<>(node.size());
        node.fieldNames().forEachRemaining(names::add);
        Collections.sort(names);
        out.append('{');
        boolean first = true;
        for (String name : names) {
            if (!first) {
                out.append(',');
            }
            first = false;
            appendText(out, name);
            out.append(':');
            append(out, node.get(name));
        }
        out.append('}');
    }

    private static void appendNumber(StringBuilder out, JsonNode node) {
        if (node.isIntegralNumber()) {
            if (node.canConvertToLong() && Math.abs(node.longValue()) <= MAX_SAFE) {
                out.append(node.longValue());
            } else {
                appendText(out, node.asText());
            }
            return;
        }
        double d = node.doubleValue();
        if (!Double.isFinite(d)) {
            appendText(out, Double.toString(d));
        } else {
            out.append(ecma(d));
        }
    }

    /** ECMAScript's Number::toString for a finite double. */
    static String ecma(double d) {
        if (d == 0) {
            return "0";
        }
        // Double.toString gives the shortest digits that read back the same (JDK 19 and later), as ECMAScript does.
        BigDecimal exact = oneDigitIfEnough(new BigDecimal(Double.toString(Math.abs(d))).stripTrailingZeros());
        String digits = exact.unscaledValue().toString();
        int point = digits.length() - exact.scale();
        StringBuilder out = new StringBuilder(d < 0 ? "-" : "");
        if (point > 21 || point < -5) {
            out.append(digits.charAt(0));
            if (digits.length() > 1) {
                out.append('.').append(digits, 1, digits.length());
            }
            int exponent = point - 1;
            out.append('e').append(exponent < 0 ? '-' : '+').append(Math.abs(exponent));
        } else if (point <= 0) {
            out.append("0.").append("0".repeat(-point)).append(digits);
        } else if (point >= digits.length()) {
            out.append(digits).append("0".repeat(point - digits.length()));
        } else {
            out.append(digits, 0, point).append('.').append(digits, point, digits.length());
        }
        return out.toString();
    }

    /** Double.toString gives two digits where one would do: 4.9E-324 where ECMAScript has 5e-324. */
    private static BigDecimal oneDigitIfEnough(BigDecimal exact) {
        if (exact.precision() != 2) {
            return exact;
        }
        BigDecimal shorter = exact.round(new MathContext(1, RoundingMode.HALF_EVEN));
        return shorter.doubleValue() == exact.doubleValue() ? shorter.stripTrailingZeros() : exact;
    }

    private static void appendText(StringBuilder out, String text) {
        if (!Texts.wellFormed(text)) {
            throw new IllegalArgumentException("text with an unpaired surrogate cannot be sealed");
        }
        out.append('"');
        for (int i = 0; i < text.length(); i++) {
            char c = text.charAt(i);
            switch (c) {
                case '"' -> out.append("\\\"");
                case '\\' -> out.append("\\\\");
                case '\b' -> out.append("\\b");
                case '\t' -> out.append("\\t");
                case '\n' -> out.append("\\n");
                case '\f' -> out.append("\\f");
                case '\r' -> out.append("\\r");
                default -> {
                    if (c < 0x20) {
                        out.append(String.format("\\u%04x", (int) c));
                    } else {
                        out.append(c);
                    }
                }
            }
        }
        out.append('"');
    }
}
