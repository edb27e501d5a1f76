package dastur.core.expression;

import java.util.Optional;
import java.util.regex.Matcher;
import java.util.regex.Pattern;

/** A value that an expression says outright, so that it can be judged before anything runs. */
public final class Literal {
    private static final Pattern TEXT = Pattern.compile("'([^'\\\\]*)'|\"([^\"\\\\]*)\"");
    private static final Pattern NUMBER = Pattern.compile("-?\\d{1,15}(\\.\\d{1,9})?");

    private Literal() {}

    /** A text, a number or yes and no; empty where the expression computes its value. */
    public static Optional<Object> of(String expression) {
        String said = expression.strip();
        Matcher text = TEXT.matcher(said);
        if (text.matches()) {
            return Optional.of(text.group(1) == null ? text.group(2) : text.group(1));
        }
        if (said.equals("true") || said.equals("false")) {
            return Optional.of(Boolean.valueOf(said));
        }
        Matcher number = NUMBER.matcher(said);
        if (!number.matches()) {
            return Optional.empty();
        }
        return Optional.of(number.group(1) == null ? (Object) Long.valueOf(said) : Double.valueOf(said));
    }

    /** The text that it says outright; empty for anything else. */
    public static Optional<String> text(String expression) {
        return of(expression).filter(String.class::isInstance).map(String.class::cast);
    }
}
