package dastur.core.step.update;

import java.util.Optional;
import java.util.regex.Matcher;
import java.util.regex.Pattern;
import org.jspecify.annotations.Nullable;

/**
 * One value to set: {@code ticket.state}, {@code ci.lane} or {@code vars.count}.
 *
 * @param value an expression; null when {@code text} is given
 * @param text a text with {@code {{ }}}; null when {@code value} is given
 */
public record Assignment(
        String target, @Nullable String value, @Nullable String text) {
    private static final Pattern LITERAL = Pattern.compile("(['\"])([^'\"\\\\]*)\\1");

    /** The value where it is said outright; empty where it is computed. */
    public Optional<String> said() {
        if (text != null) {
            return text.contains("{{") ? Optional.empty() : Optional.of(text);
        }
        Matcher quoted = LITERAL.matcher(value == null ? "" : value.strip());
        return quoted.matches() ? Optional.of(quoted.group(2)) : Optional.empty();
    }
}
