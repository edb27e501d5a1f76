package dastur.core.signal;

import com.google.re2j.Matcher;
import com.google.re2j.Pattern;
import com.google.re2j.PatternSyntaxException;
import java.util.Map;
import java.util.concurrent.ConcurrentHashMap;
import org.jspecify.annotations.Nullable;

/**
 * Takes the part of a text that fits a regular expression of RE2, whose time grows with the text and never runs away: what is
 * looked through comes from outside (I3).
 */
final class Fitting {
    private static final int LONGEST = 200;
    private static final int MOST_GROUPS = 1;
    /** Compiled ones; emptied when there are more than anybody uses. */
    private static final int KEPT = 2_000;

    private static final Map<String, Pattern> COMPILED = new ConcurrentHashMap<>();

    private Fitting() {}

    /** @throws IllegalArgumentException when it is none, too long, or has more than one group */
    static void check(String expression) {
        if (expression.length() > LONGEST) {
            throw new IllegalArgumentException("A regular expression here has at most " + LONGEST + " characters.");
        }
        try {
            if (compiled(expression).groupCount() > MOST_GROUPS) {
                throw new IllegalArgumentException("'" + expression
                        + "' has more than one group: which of them is taken? Write the others as (?:…).");
            }
        } catch (PatternSyntaxException e) {
            throw new IllegalArgumentException(
                    "'" + expression + "' is no regular expression (RE2): " + e.getDescription() + ".");
        }
    }

    private static Pattern compiled(String expression) {
        if (COMPILED.size() > KEPT) {
            COMPILED.clear();
        }
        return COMPILED.computeIfAbsent(expression, Pattern::compile);
    }

    /** Of the first place that fits the group, or all where there is none; null where nothing fits, or only blanks do. */
    static @Nullable String part(String expression, String text) {
        Matcher matcher = compiled(expression).matcher(text);
        if (!matcher.find()) {
            return null;
        }
        String found = matcher.groupCount() == 0 ? matcher.group() : matcher.group(1);
        return found == null || found.isBlank() ? null : found.strip();
    }
}
