package dastur.core.time;

import com.fasterxml.jackson.annotation.JsonCreator;
import com.fasterxml.jackson.annotation.JsonValue;
import java.util.regex.Matcher;
import java.util.regex.Pattern;

/**
 * A length of time as people say it: {@code 30 min}, {@code 4 working h}, {@code 2 working days}. Working spans count in
 * the hours of a {@link WorkingCalendar}, others on the clock; a day is the same local time next day (D28).
 */
public record Span(long amount, Unit unit, boolean working) {
    private static final Pattern TEXT = Pattern.compile(
            "\\s*(\\d{1,6})\\s*(working\\s+)?(s|sec|seconds?|min|minutes?|h|hours?|days?)\\s*",
            Pattern.CASE_INSENSITIVE);

    /** The units a span is written in. */
    public enum Unit {
        SECOND("s"),
        MINUTE("min"),
        HOUR("h"),
        DAY("days");

        private final String word;

        Unit(String word) {
            this.word = word;
        }
    }

    public Span {
        if (amount < 0 || amount > 999_999) {
            throw new IllegalArgumentException(
                    "A length of time is between 0 and 999999 of its unit, but was " + amount + ".");
        }
    }

    /** @throws IllegalArgumentException with a sentence for the writer when the text is no length of time */
    @JsonCreator(mode = JsonCreator.Mode.DELEGATING)
    public static Span parse(String text) {
        Matcher m = TEXT.matcher(text);
        if (!m.matches()) {
            throw new IllegalArgumentException("'" + dastur.core.json.Texts.clip(text, 40)
                    + "' is no length of time. Write it like 30 min, 4 working h or 2 working days.");
        }
        Unit unit =
                switch (Character.toLowerCase(m.group(3).charAt(0))) {
                    case 's' -> Unit.SECOND;
                    case 'm' -> Unit.MINUTE;
                    case 'h' -> Unit.HOUR;
                    default -> Unit.DAY;
                };
        return new Span(Long.parseLong(m.group(1)), unit, m.group(2) != null);
    }

    /** The span's length in seconds if every day had 24 hours; for comparing spans, never for computing dues. */
    public long roughSeconds() {
        return amount
                * switch (unit) {
                    case SECOND -> 1;
                    case MINUTE -> 60;
                    case HOUR -> 3600;
                    case DAY -> 86_400;
                };
    }

    @JsonValue
    @Override
    public String toString() {
        String word = unit == Unit.DAY && amount == 1 ? "day" : unit.word;
        return amount + (working ? " working " : " ") + word;
    }
}
