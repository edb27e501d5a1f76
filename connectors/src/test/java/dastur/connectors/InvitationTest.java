package dastur.connectors;

import static org.assertj.core.api.Assertions.assertThat;

import dastur.core.run.Meeting;
import java.nio.charset.StandardCharsets;
import java.time.Instant;
import java.util.Arrays;
import java.util.List;
import java.util.stream.Stream;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.MethodSource;

/** Entries for calendars (RFC 5545, RFC 5546). */
class InvitationTest {
    private static final Instant NOW = Instant.parse("2026-03-02T10:00:00Z");
    private static final Meeting MEETING = new Meeting(
            "C-7.1.invite",
            4,
            Instant.parse("2026-03-03T21:30:00Z"),
            Instant.parse("2026-03-03T23:30:00Z"),
            "Alder Pier");

    private static List<String> lines(Meeting meeting, String subject, String text) {
        String written =
                new Invitation(meeting, "desk@kestrel.example", "runa@kestrel.example", subject, text).text(NOW);
        assertThat(written).endsWith("\r\n");
        assertThat(written.replace("\r\n", "")).doesNotContain("\n").doesNotContain("\r");
        assertThat(Arrays.stream(written.split("\r\n")))
                .allSatisfy(l ->
                        assertThat(l.getBytes(StandardCharsets.UTF_8).length).isLessThanOrEqualTo(75));
        return List.of(written.replace("\r\n ", "").split("\r\n"));
    }

    @Test
    void sayWhenAndWhere() {
        assertThat(lines(MEETING, "Be at the pier", "In two lines,\nwith a comma."))
                .containsExactly(
                        "BEGIN:VCALENDAR",
                        "VERSION:2.0",
                        "PRODID:-//Dastur//Dastur//EN",
                        "METHOD:REQUEST",
                        "BEGIN:VEVENT",
                        "UID:C-7.1.invite@kestrel.example",
                        "SEQUENCE:4",
                        "DTSTAMP:20260302T100000Z",
                        "DTSTART:20260303T213000Z",
                        "DTEND:20260303T233000Z",
                        "ORGANIZER:mailto:desk@kestrel.example",
                        "ATTENDEE;PARTSTAT=NEEDS-ACTION;RSVP=FALSE:mailto:runa@kestrel.example",
                        "SUMMARY:Be at the pier",
                        "DESCRIPTION:In two lines\\,\\nwith a comma.",
                        "LOCATION:Alder Pier",
                        "STATUS:CONFIRMED",
                        "END:VEVENT",
                        "END:VCALENDAR");
    }

    @Test
    void whatIsCalledOffNamesTheSameEntry() {
        assertThat(lines(new Meeting("C-7.1.invite", 9, null, null, null), "Not tonight", "It is called off."))
                .contains("METHOD:CANCEL", "UID:C-7.1.invite@kestrel.example", "SEQUENCE:9", "STATUS:CANCELLED")
                .noneMatch(l -> l.startsWith("DTSTART") || l.startsWith("LOCATION"));
    }

    static Stream<String> awkward() {
        return Stream.of(
                "x\r\nATTENDEE:mailto:other@evil.example",
                "x\nEND:VEVENT\nBEGIN:VEVENT",
                "a;b,c\\d\\n",
                "line\u2028separator\u0085next\u000bvertical",
                "bell\u0007 and nothing\u0000",
                "ü".repeat(200),
                "🛳".repeat(90),
                " leading, and \ttab");
    }

    /** Whatever is typed stays the value of its property: nothing is added, and it reads back as it was. */
    @ParameterizedTest
    @MethodSource("awkward")
    void noTextLeavesItsPlace(String text) {
        List<String> plain = lines(MEETING, "x", "x");
        List<String> lines = lines(MEETING, text, text);

        assertThat(lines.stream().map(InvitationTest::name))
                .isEqualTo(plain.stream().map(InvitationTest::name).toList());
        String read = lines.stream()
                .filter(l -> l.startsWith("SUMMARY:"))
                .findFirst()
                .orElseThrow()
                .substring(8);
        assertThat(unescaped(read)).isEqualTo(text.replaceAll("\\R", "\n").replaceAll("[\\p{Cntrl}&&[^\t\n]]", ""));
    }

    private static String name(String line) {
        return line.substring(0, line.indexOf(':'));
    }

    private static String unescaped(String text) {
        StringBuilder out = new StringBuilder();
        for (int i = 0; i < text.length(); i++) {
            char c = text.charAt(i);
            if (c == '\\') {
                char next = text.charAt(++i);
                out.append(next == 'n' ? '\n' : next);
            } else {
                out.append(c);
            }
        }
        return out.toString();
    }
}
