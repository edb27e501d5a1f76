package dastur.core.workflow;

import com.google.re2j.Pattern;
import com.google.re2j.PatternSyntaxException;
import dastur.core.json.Texts;
import dastur.core.ticket.CiId;
import dastur.core.ticket.ConfigurationItem;
import dastur.core.ticket.Field;
import dastur.core.ticket.FieldType;
import java.util.List;
import java.util.Optional;
import java.util.function.Function;
import org.jspecify.annotations.Nullable;

/**
 * What a value that an action is given may be, beside its type (M4). It holds wherever the value comes from: a workflow, a
 * watch, a person who tries it.
 *
 * @param least the smallest number; null for any
 * @param most the greatest number; null for any
 * @param matches a regular expression (RE2) that the whole text matches; null for any
 * @param kinds of which a CI is one, as they are called there; null for any
 * @param sites at one of which a CI stands; null for any
 */
public record Limit(
        @Nullable Double least,
        @Nullable Double most,
        @Nullable String matches,
        @Nullable List<String> kinds,
        @Nullable List<String> sites) {
    private static final int LONGEST = 500;

    public Limit {
        matches = matches == null || matches.isBlank() ? null : matches;
        kinds = kinds == null || kinds.isEmpty() ? null : List.copyOf(kinds);
        sites = sites == null || sites.isEmpty() ? null : List.copyOf(sites);
    }

    /** Why it limits nothing that a field can hold, or nothing at all; empty where it can be used. */
    public Optional<String> problemWith(Field field) {
        boolean number = least != null || most != null;
        boolean ci = kinds != null || sites != null;
        if (number && field.type() != FieldType.NUMBER && field.type() != FieldType.WHOLE) {
            return Optional.of("'" + field.label() + "' is no number: it has no least and no most.");
        }
        if (ci && field.type() != FieldType.CI) {
            return Optional.of("'" + field.label() + "' is no CI: it has no kind and no site.");
        }
        if (matches != null && field.type() != FieldType.TEXT && field.type() != FieldType.LONG_TEXT) {
            return Optional.of("'" + field.label() + "' is no text: no expression can match it.");
        }
        if (least != null && most != null && least > most) {
            return Optional.of("'" + field.label() + "' may be nothing: the least is more than the most.");
        }
        return pattern(field);
    }

    private Optional<String> pattern(Field field) {
        if (matches == null) {
            return Optional.empty();
        }
        if (matches.length() > LONGEST) {
            return Optional.of("The expression for '" + field.label() + "' has more than " + LONGEST + " characters.");
        }
        try {
            Pattern.compile(matches);
            return Optional.empty();
        } catch (PatternSyntaxException e) {
            return Optional.of("The expression for '" + field.label() + "' cannot be used: " + e.getMessage() + ".");
        }
    }

    /**
     * What is wrong with a value of the field's type, as a sentence; empty where it fits.
     *
     * @param cis looks CIs up
     */
    public Optional<String> problem(
            Field field, @Nullable Object value, Function<CiId, Optional<ConfigurationItem>> cis) {
        if (value instanceof Number n) {
            if (least != null && n.doubleValue() < least) {
                return Optional.of(
                        "'" + field.label() + "' must be at least " + plain(least) + ", and is " + value + ".");
            }
            if (most != null && n.doubleValue() > most) {
                return Optional.of(
                        "'" + field.label() + "' must be at most " + plain(most) + ", and is " + value + ".");
            }
        }
        if (value instanceof String text) {
            if (matches != null && !Pattern.matches(matches, text)) {
                return Optional.of("'" + field.label() + "' must match " + matches + ".");
            }
            if ((kinds != null || sites != null) && field.type() == FieldType.CI) {
                return ofCi(field, text, cis);
            }
        }
        return Optional.empty();
    }

    private Optional<String> ofCi(Field field, String id, Function<CiId, Optional<ConfigurationItem>> cis) {
        Optional<ConfigurationItem> found = Texts.isId(id) ? cis.apply(new CiId(id)) : Optional.empty();
        if (found.isEmpty()) {
            return Optional.of("'" + field.label() + "' must be a CI that is known.");
        }
        ConfigurationItem ci = found.get();
        if (kinds != null && !kinds.contains(ci.kind())) {
            return Optional.of("'" + field.label() + "' must be a " + String.join(" or a ", kinds) + ", and " + id
                    + " is a " + ci.kind() + ".");
        }
        return sites == null || ci.site() != null && sites.contains(ci.site())
                ? Optional.empty()
                : Optional.of("'" + field.label() + "' must stand at " + String.join(" or ", sites) + ", and " + id
                        + " stands " + (ci.site() == null ? "nowhere that is known" : "at " + ci.site()) + ".");
    }

    private static String plain(double number) {
        return number == Math.rint(number) && Math.abs(number) < 1e15
                ? String.valueOf((long) number)
                : String.valueOf(number);
    }
}
