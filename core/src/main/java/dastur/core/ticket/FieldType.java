package dastur.core.ticket;

import com.fasterxml.jackson.annotation.JsonValue;
import java.time.OffsetDateTime;
import java.time.format.DateTimeParseException;
import java.time.temporal.ChronoUnit;
import java.util.Locale;
import java.util.Optional;

/** Types of declared fields: of tickets, CIs, forms, inputs and outputs. */
public enum FieldType {
    TEXT("text"),
    LONG_TEXT("long text"),
    WHOLE("whole number"),
    NUMBER("number"),
    YES_NO("yes or no"),
    CHOICE("choice"),
    TIME("time"),
    PERSON("person"),
    GROUP("group"),
    SERVICE("service"),
    CI("CI"),
    LIST("list"),
    ANY("any value");

    private final String word;

    /** A text that others have written, as a value of this type; empty where it is none. */
    public Optional<Object> read(String text) {
        try {
            return switch (this) {
                case WHOLE -> Optional.of(Long.parseLong(text));
                case NUMBER -> Optional.<Object>of(Double.parseDouble(text)).filter(n -> Double.isFinite((Double) n));
                case YES_NO ->
                    switch (text.toLowerCase(Locale.ROOT)) {
                        case "true", "yes", "1" -> Optional.of(true);
                        case "false", "no", "0" -> Optional.of(false);
                        default -> Optional.empty();
                    };
                // Milliseconds are what a record keeps.
                case TIME ->
                    Optional.of(OffsetDateTime.parse(text)
                            .toInstant()
                            .truncatedTo(ChronoUnit.MILLIS)
                            .toString());
                case TEXT, LONG_TEXT, CHOICE, PERSON, GROUP, SERVICE, CI, LIST, ANY -> Optional.of(text);
            };
        } catch (NumberFormatException | DateTimeParseException e) {
            return Optional.empty();
        }
    }

    FieldType(String word) {
        this.word = word;
    }

    @JsonValue
    public String word() {
        return word;
    }
}
