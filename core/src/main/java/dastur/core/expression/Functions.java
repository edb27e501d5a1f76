package dastur.core.expression;

import com.google.common.collect.ImmutableList;
import dastur.core.time.Span;
import dev.cel.common.CelFunctionDecl;
import dev.cel.common.CelOverloadDecl;
import dev.cel.common.types.CelType;
import dev.cel.common.types.ListType;
import dev.cel.common.types.SimpleType;
import dev.cel.runtime.CelEvaluationException;
import dev.cel.runtime.CelFunctionBinding;
import java.time.Duration;
import java.time.Instant;
import java.time.LocalDate;
import java.time.ZoneOffset;
import java.time.format.DateTimeParseException;
import java.util.Arrays;
import java.util.List;
import java.util.Locale;
import java.util.regex.Matcher;
import java.util.regex.Pattern;

/**
 * Our own functions for data on the way (N17): splitting texts, picking cells, counting and comparing, times and sizes as
 * people write them. Each is bounded in what it makes (D27).
 */
final class Functions {
    private static final CelType TEXTS = ListType.create(SimpleType.STRING);
    private static final CelType ANY_LIST = ListType.create(SimpleType.DYN);
    private static final Pattern SIZE = Pattern.compile("\\s*([0-9]+(?:\\.[0-9]+)?)\\s*(B|kB|MB|GB|TB)\\s*");

    static final List<CelFunctionDecl> DECLARATIONS = List.of(
            one("share", "share_dyn_dyn", SimpleType.DOUBLE, SimpleType.DYN, SimpleType.DYN),
            one("split", "split_text_text", TEXTS, SimpleType.STRING, SimpleType.STRING),
            one("lines", "lines_text", TEXTS, SimpleType.STRING),
            one("cell", "cell_list_int", SimpleType.DYN, ANY_LIST, SimpleType.INT),
            one("join", "join_list_text", SimpleType.STRING, ANY_LIST, SimpleType.STRING),
            one("trim", "trim_text", SimpleType.STRING, SimpleType.STRING),
            one("lower", "lower_text", SimpleType.STRING, SimpleType.STRING),
            one("sum", "sum_list", SimpleType.DOUBLE, ANY_LIST),
            one("whole", "whole_dyn", SimpleType.INT, SimpleType.DYN),
            one("number", "number_dyn", SimpleType.DOUBLE, SimpleType.DYN),
            one("time", "time_dyn", SimpleType.TIMESTAMP, SimpleType.DYN),
            one("days", "days_int", SimpleType.DURATION, SimpleType.INT),
            one("hours", "hours_int", SimpleType.DURATION, SimpleType.INT),
            one("minutes", "minutes_int", SimpleType.DURATION, SimpleType.INT),
            one("span", "span_text", SimpleType.DURATION, SimpleType.STRING),
            one("bytes_of", "bytes_of_text", SimpleType.INT, SimpleType.STRING));

    static final List<CelFunctionBinding> BINDINGS = List.of(
            CelFunctionBinding.from("share_dyn_dyn", Object.class, Object.class, Functions::share),
            CelFunctionBinding.from("split_text_text", String.class, String.class, Functions::split),
            CelFunctionBinding.from(
                    "lines_text", String.class, text -> bounded(text.lines().toList())),
            CelFunctionBinding.from("cell_list_int", List.class, Long.class, Functions::cell),
            CelFunctionBinding.from("join_list_text", List.class, String.class, Functions::join),
            CelFunctionBinding.from("trim_text", String.class, String::strip),
            CelFunctionBinding.from("lower_text", String.class, t -> t.toLowerCase(Locale.ROOT)),
            CelFunctionBinding.from("sum_list", List.class, Functions::sum),
            CelFunctionBinding.from("whole_dyn", Object.class, v -> Math.round(numeric(v))),
            CelFunctionBinding.from("number_dyn", Object.class, Functions::numeric),
            CelFunctionBinding.from("time_dyn", Object.class, Functions::time),
            CelFunctionBinding.from("days_int", Long.class, n -> Duration.ofDays(limited(n))),
            CelFunctionBinding.from("hours_int", Long.class, n -> Duration.ofHours(limited(n))),
            CelFunctionBinding.from("minutes_int", Long.class, n -> Duration.ofMinutes(limited(n))),
            CelFunctionBinding.from("span_text", String.class, Functions::span),
            CelFunctionBinding.from("bytes_of_text", String.class, Functions::size));

    private Functions() {}

    private static CelFunctionDecl one(String name, String id, CelType result, CelType... parameters) {
        return CelFunctionDecl.newFunctionDeclaration(
                name, CelOverloadDecl.newGlobalOverload(id, result, List.of(parameters)));
    }

    private static Object share(Object a, Object b) throws CelEvaluationException {
        if (!(a instanceof Number x) || !(b instanceof Number y) || y.doubleValue() == 0) {
            throw new CelEvaluationException("share needs two numbers, the second not 0");
        }
        return x.doubleValue() / y.doubleValue();
    }

    private static Object split(String text, String separator) throws CelEvaluationException {
        if (separator.isEmpty()) {
            throw new CelEvaluationException("nothing to split at");
        }
        return bounded(Arrays.stream(text.split(Pattern.quote(separator), -1))
                .map(String::strip)
                .toList());
    }

    private static ImmutableList<String> bounded(List<String> parts) throws CelEvaluationException {
        if (parts.size() > BoundedRuntime.MAX_ITEMS) {
            throw new CelEvaluationException("too many parts");
        }
        return ImmutableList.copyOf(parts);
    }

    /** The n-th cell, counted from 1. */
    private static Object cell(List<?> row, Long n) throws CelEvaluationException {
        if (n < 1 || n > row.size()) {
            throw new CelEvaluationException("no such cell");
        }
        return row.get((int) (n - 1));
    }

    private static Object join(List<?> parts, String separator) throws CelEvaluationException {
        StringBuilder out = new StringBuilder();
        for (Object part : parts) {
            out.append(out.isEmpty() ? "" : separator).append(part);
            if (out.length() > BoundedRuntime.MAX_TEXT) {
                throw new CelEvaluationException("text too long");
            }
        }
        return out.toString();
    }

    private static Object sum(List<?> values) throws CelEvaluationException {
        double sum = 0;
        for (Object value : values) {
            sum += numeric(value);
        }
        return sum;
    }

    private static Double numeric(Object value) throws CelEvaluationException {
        if (value instanceof Number n) {
            return n.doubleValue();
        }
        try {
            return Double.valueOf(String.valueOf(value).strip());
        } catch (NumberFormatException e) {
            throw new CelEvaluationException("not a number", e);
        }
    }

    /** An instant, or a date, which means its first moment in UTC. */
    private static Object time(Object value) throws CelEvaluationException {
        if (value instanceof Instant instant) {
            return instant;
        }
        String text = String.valueOf(value).strip();
        try {
            return text.length() == 10
                    ? LocalDate.parse(text).atStartOfDay(ZoneOffset.UTC).toInstant()
                    : Instant.parse(text);
        } catch (DateTimeParseException e) {
            throw new CelEvaluationException("not a time", e);
        }
    }

    private static long limited(long amount) throws CelEvaluationException {
        if (Math.abs(amount) > 100_000_000) {
            throw new CelEvaluationException("too long a time");
        }
        return amount;
    }

    /** A length of time as people write it; on the clock, since an expression knows no calendar. */
    private static Object span(String text) throws CelEvaluationException {
        try {
            return Duration.ofSeconds(Span.parse(text).roughSeconds());
        } catch (IllegalArgumentException e) {
            throw new CelEvaluationException("not a length of time", e);
        }
    }

    /** A size as people write it, in bytes; a kB has 1000 of them (SI). */
    private static Object size(String text) throws CelEvaluationException {
        Matcher m = SIZE.matcher(text);
        if (!m.matches()) {
            throw new CelEvaluationException("not a size");
        }
        long unit = (long) Math.pow(1000, List.of("B", "kB", "MB", "GB", "TB").indexOf(m.group(2)));
        return Math.round(Double.parseDouble(m.group(1)) * unit);
    }
}
