package dastur.server.work;

import java.time.Instant;
import java.time.ZoneId;
import java.time.format.DateTimeFormatter;
import java.util.Locale;
import java.util.regex.Pattern;

/** Words that go to people outside a browser, with moments as they say them. */
public final class Spoken {
    private static final Pattern MOMENT =
            Pattern.compile("\\d{4}-\\d{2}-\\d{2}T\\d{2}:\\d{2}(?::\\d{2}(?:\\.\\d+)?)?Z");
    private static final DateTimeFormatter WHEN = DateTimeFormatter.ofPattern("EEE d MMM, HH:mm", Locale.ENGLISH);

    private Spoken() {}

    /** A moment in somebody's own time: "Sat 28 Nov, 14:05". */
    public static String when(Instant at, ZoneId zone) {
        return WHEN.format(at.atZone(zone));
    }

    /** A text in which moments stand as machines write them (ISO 8601), in somebody's own time. */
    public static String to(String text, ZoneId zone) {
        return MOMENT.matcher(text).replaceAll(m -> when(Instant.parse(m.group()), zone));
    }
}
