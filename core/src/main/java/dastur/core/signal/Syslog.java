package dastur.core.signal;

import java.time.DateTimeException;
import java.time.OffsetDateTime;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;

/**
 * Reads a line of syslog (RFC 5424) as an object that a mapping can be taught: {@code facility}, {@code severity} (0 to 7) and
 * {@code level}, its word, {@code time}, {@code host}, {@code app}, {@code process}, {@code message} (its MSGID), {@code data} (an
 * object for each element of its structured data) and {@code text}. What the sender left out is absent.
 */
public final class Syslog {
    private static final List<String> LEVELS =
            List.of("emergency", "alert", "critical", "error", "warning", "notice", "informational", "debug");
    private static final int HIGHEST = 191;

    private final String line;
    private int at;

    private Syslog(String line) {
        this.line = line;
    }

    /** @throws Envelope.Unreadable where it is no line of RFC 5424; the message says what is not as it should be, and where */
    public static Map<String, Object> read(String line) throws Envelope.Unreadable {
        return new Syslog(line).read();
    }

    private Map<String, Object> read() throws Envelope.Unreadable {
        Map<String, Object> body = new LinkedHashMap<>();
        int priority = priority();
        body.put("facility", priority / LEVELS.size());
        body.put("severity", priority % LEVELS.size());
        body.put("level", LEVELS.get(priority % LEVELS.size()));
        expect('1', "the version, 1, of RFC 5424");
        expect(' ', "a space after the version");
        time(body);
        for (String name : List.of("host", "app", "process", "message")) {
            put(body, name, word(name));
        }
        Map<String, Map<String, String>> data = data();
        if (!data.isEmpty()) {
            body.put("data", data);
        }
        if (at < line.length()) {
            expect(' ', "a space before the text");
            String text = line.substring(at);
            put(body, "text", (text.startsWith("\ufeff") ? text.substring(1) : text).strip());
        }
        return body;
    }

    private static void put(Map<String, Object> body, String name, String value) {
        if (!value.isEmpty() && !value.equals("-")) {
            body.put(name, value);
        }
    }

    private int priority() throws Envelope.Unreadable {
        expect('<', "'<' and the priority");
        int end = line.indexOf('>', at);
        String digits = end < 0 ? "" : line.substring(at, end);
        if (!digits.matches("0|[1-9]\\d{0,2}") || Integer.parseInt(digits) > HIGHEST) {
            throw no("a priority from 0 to 191");
        }
        at = end + 1;
        return Integer.parseInt(digits);
    }

    private void time(Map<String, Object> body) throws Envelope.Unreadable {
        int from = at;
        String time = word("time");
        try {
            put(
                    body,
                    "time",
                    time.equals("-")
                            ? "-"
                            : OffsetDateTime.parse(time).toInstant().toString());
        } catch (DateTimeException e) {
            at = from;
            throw no("a time as in RFC 3339, or '-'");
        }
    }

    /** A word, and the space after it. */
    private String word(String name) throws Envelope.Unreadable {
        int end = line.indexOf(' ', at);
        if (end <= at) {
            throw no("the " + name + ", or '-'");
        }
        String word = line.substring(at, end);
        at = end + 1;
        return word;
    }

    private Map<String, Map<String, String>> data() throws Envelope.Unreadable {
        Map<String, Map<String, String>> data = new LinkedHashMap<>();
        if (at < line.length() && line.charAt(at) == '-') {
            at++;
            return data;
        }
        if (at >= line.length() || line.charAt(at) != '[') {
            throw no("structured data, or '-'");
        }
        while (at < line.length() && line.charAt(at) == '[') {
            at++;
            String id = until(" ]");
            Map<String, String> values = data.computeIfAbsent(id, k -> new LinkedHashMap<>());
            while (here() == ' ') {
                at++;
                String name = until("=");
                expect('=', "'='");
                values.put(name, quoted());
            }
            expect(']', "']' after structured data");
        }
        return data;
    }

    private char here() {
        return at < line.length() ? line.charAt(at) : '\0';
    }

    /** A name, which ends before one of some characters. */
    private String until(String ends) throws Envelope.Unreadable {
        int from = at;
        while (at < line.length() && ends.indexOf(line.charAt(at)) < 0) {
            at++;
        }
        if (at == from || at == line.length()) {
            at = from;
            throw no("a name in the structured data");
        }
        return line.substring(from, at);
    }

    private String quoted() throws Envelope.Unreadable {
        expect('"', "'\"' before a value");
        StringBuilder value = new StringBuilder();
        while (at < line.length() && line.charAt(at) != '"') {
            char c = line.charAt(at++);
            // Only these three are escaped; before anything else a backslash is itself.
            if (c == '\\' && at < line.length() && "\"\\]".indexOf(line.charAt(at)) >= 0) {
                c = line.charAt(at++);
            }
            value.append(c);
        }
        expect('"', "'\"' after a value");
        return value.toString();
    }

    private void expect(char c, String what) throws Envelope.Unreadable {
        if (here() != c) {
            throw no(what);
        }
        at++;
    }

    private Envelope.Unreadable no(String expected) {
        return new Envelope.Unreadable(
                "This is no line of RFC 5424: at place " + (at + 1) + " stands not " + expected + ".");
    }
}
