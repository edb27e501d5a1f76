package dastur.core.ticket;

import dastur.core.json.Texts;
import java.time.Instant;
import java.time.format.DateTimeParseException;
import java.util.List;
import java.util.Objects;
import java.util.Optional;
import org.jspecify.annotations.Nullable;

/**
 * A declared field: its name in expressions, the label people see, its type and limits.
 *
 * @param name a word that can stand in an expression
 * @param choices what may be chosen; empty unless the type is a choice
 */
public record Field(
        String name,
        String label,
        FieldType type,
        boolean required,
        @Nullable List<String> choices,
        @Nullable String help) {
    public Field {
        Texts.checkWord("field's name", name);
        label = label == null || label.isBlank() ? name : label;
        type = Objects.requireNonNullElse(type, FieldType.TEXT);
        choices = choices == null || choices.isEmpty() ? null : List.copyOf(choices);
        if (type == FieldType.CHOICE && choices == null) {
            throw new IllegalArgumentException("The field '" + name + "' is a choice: say what may be chosen.");
        }
    }

    public static Field of(String name, String label, FieldType type) {
        return new Field(name, label, type, false, null, null);
    }

    public Field asRequired() {
        return new Field(name, label, type, true, choices, help);
    }

    /** What is wrong with a value for this field, as a sentence; empty when it fits. Absent values fit unless required. */
    public Optional<String> problemWith(@Nullable Object value) {
        if (Texts.blank(value)) {
            return required ? Optional.of("'" + label + "' is needed.") : Optional.empty();
        }
        String expected =
                switch (type) {
                    case TEXT, LONG_TEXT, PERSON, GROUP, SERVICE, CI -> value instanceof String ? null : "a text";
                    case WHOLE -> value instanceof Long || value instanceof Integer ? null : "a whole number";
                    case NUMBER -> value instanceof Number ? null : "a number";
                    case YES_NO -> value instanceof Boolean ? null : "yes or no";
                    case CHOICE ->
                        choices != null && choices.contains(value)
                                ? null
                                : "one of " + String.join(", ", Objects.requireNonNull(choices));
                    case TIME -> isTime(value) ? null : "a time such as 2026-11-23T14:30:00Z";
                    case LIST -> value instanceof List ? null : "a list";
                    case ANY -> null;
                };
        if (expected != null) {
            return Optional.of("'" + label + "' must be " + expected + ".");
        }
        if (isTooLong(value)) {
            String text = (String) value;
            return Optional.of(
                    "'" + label + "' may have at most " + limit() + " characters, but has " + text.length() + ".");
        }
        if (value instanceof String text && !Texts.keepable(text)) {
            return Optional.of("'" + label + "' holds a broken character.");
        }
        return Optional.empty();
    }

    /** Whether a value is a text of more characters than the field holds. */
    public boolean isTooLong(@Nullable Object value) {
        return value instanceof String text && text.length() > limit();
    }

    private int limit() {
        return type == FieldType.LONG_TEXT ? Texts.MAX_TEXT : 500;
    }

    private static boolean isTime(Object value) {
        try {
            Instant.parse(String.valueOf(value));
            return true;
        } catch (DateTimeParseException e) {
            return false;
        }
    }
}
