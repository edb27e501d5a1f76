package dastur.connectors;

import dastur.core.run.Meeting;
import java.nio.charset.StandardCharsets;
import java.time.Instant;
import java.time.ZoneOffset;
import java.time.format.DateTimeFormatter;

/**
 * An entry for one person's calendar, as iCalendar writes it (RFC 5545) and mail carries it (RFC 5546): invited, told anew under the
 * same name, or called off. Nobody else who is invited is named.
 */
record Invitation(Meeting meeting, String from, String to, String subject, String text) {
    private static final DateTimeFormatter UTC =
            DateTimeFormatter.ofPattern("yyyyMMdd'T'HHmmss'Z'").withZone(ZoneOffset.UTC);
    private static final int MOST_OCTETS = 75;

    /** What it asks of the calendar. */
    String method() {
        return meeting.isOff() ? "CANCEL" : "REQUEST";
    }

    /** @param at when it is sent */
    String text(Instant at) {
        StringBuilder out = new StringBuilder();
        line(out, "BEGIN:VCALENDAR");
        line(out, "VERSION:2.0");
        line(out, "PRODID:-//Dastur//Dastur//EN");
        line(out, "METHOD:" + method());
        line(out, "BEGIN:VEVENT");
        line(out, "UID:" + escaped(meeting.key() + from.substring(from.lastIndexOf('@'))));
        line(out, "SEQUENCE:" + meeting.sequence());
        line(out, "DTSTAMP:" + UTC.format(at));
        if (meeting.from() != null && meeting.until() != null) {
            line(out, "DTSTART:" + UTC.format(meeting.from()));
            line(out, "DTEND:" + UTC.format(meeting.until()));
        }
        line(out, "ORGANIZER:mailto:" + from);
        line(out, "ATTENDEE;PARTSTAT=NEEDS-ACTION;RSVP=FALSE:mailto:" + to);
        line(out, "SUMMARY:" + escaped(subject));
        line(out, "DESCRIPTION:" + escaped(text));
        if (meeting.place() != null) {
            line(out, "LOCATION:" + escaped(meeting.place()));
        }
        line(out, "STATUS:" + (meeting.isOff() ? "CANCELLED" : "CONFIRMED"));
        line(out, "END:VEVENT");
        line(out, "END:VCALENDAR");
        return out.toString();
    }

    /** A value of the type TEXT (RFC 5545, 3.3.11): what others type ends no line and begins no property. */
    private static String escaped(String text) {
        return text.replace("\\", "\\\\")
                .replace(";", "\\;")
                .replace(",", "\\,")
                .replaceAll("\\R", "\\\\n")
                .replaceAll("[\\p{Cntrl}&&[^\\t]]", "");
    }

    /** Folds at 75 octets without cutting a character (RFC 5545, 3.1). */
    private static void line(StringBuilder out, String line) {
        int octets = 0;
        for (int i = 0; i < line.length(); ) {
            int point = line.codePointAt(i);
            String one = Character.toString(point);
            int size = one.getBytes(StandardCharsets.UTF_8).length;
            if (octets + size > MOST_OCTETS) {
                out.append("\r\n ");
                octets = 1;
            }
            out.append(one);
            octets += size;
            i += Character.charCount(point);
        }
        out.append("\r\n");
    }
}
