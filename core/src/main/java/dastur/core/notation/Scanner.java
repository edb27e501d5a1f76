package dastur.core.notation;

import dastur.core.time.Span;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.regex.Matcher;
import java.util.regex.Pattern;

/** Reads one line from left to right. */
public final class Scanner {
    static final Pattern ID = Pattern.compile("[A-Za-z][A-Za-z0-9_-]*");
    private static final Pattern KEY = Pattern.compile("[A-Za-z][A-Za-z0-9_.-]*");
    private static final Pattern SPAN =
            Pattern.compile("\\d+\\s*(?:working\\s+)?(?:seconds?|sec|s|minutes?|min|hours?|h|days?)\\b");
    private static final Pattern WORDS = Pattern.compile("[a-z]+(?: [a-z]+)*");

    private final String text;
    private final int line;
    private final int indent;
    private final Names names;
    private int at;

    /** @param indent how far the text stands in, so that columns are those of the file */
    Scanner(String text, int line, int indent, Names names) {
        this.names = names;
        this.text = text;
        this.line = line;
        this.indent = indent;
        space();
    }

    private void space() {
        while (at < text.length() && text.charAt(at) == ' ') {
            at++;
        }
    }

    /** What may be named. */
    public Names names() {
        return names;
    }

    boolean atEnd() {
        return at >= text.length();
    }

    public String left() {
        return text.substring(at);
    }

    public Wrong wrong(String message) {
        return wrong(message, null);
    }

    public Wrong wrong(String message, @org.jspecify.annotations.Nullable String proposal) {
        return new Wrong(line, indent + at + 1, message, proposal);
    }

    /** Takes a phrase if it stands here as whole words. */
    public boolean take(String phrase) {
        boolean there = text.startsWith(phrase, at);
        int end = at + phrase.length();
        boolean whole = there
                && (end >= text.length()
                        || !Character.isLetterOrDigit(phrase.charAt(phrase.length() - 1))
                        || !Character.isLetterOrDigit(text.charAt(end))
                                && text.charAt(end) != '_'
                                && text.charAt(end) != '-');
        if (whole) {
            at = end;
            space();
        }
        return whole;
    }

    public void expect(String phrase) {
        if (!take(phrase)) {
            throw wrong("'" + phrase + "' is expected here.", phrase);
        }
    }

    private Optional<String> match(Pattern pattern) {
        Matcher m = pattern.matcher(text).region(at, text.length());
        if (!m.lookingAt()) {
            return Optional.empty();
        }
        at = m.end();
        space();
        return Optional.of(m.group());
    }

    public String id(String what) {
        return match(ID).orElseThrow(() -> wrong(what + " is expected here: a word of letters, digits, - and _."));
    }

    public String key(String what) {
        return match(KEY).orElseThrow(() -> wrong(what + " is expected here."));
    }

    public int number(String what) {
        String digits =
                match(Pattern.compile("\\d{1,6}")).orElseThrow(() -> wrong(what + " is expected here: a number."));
        return Integer.parseInt(digits);
    }

    public Span span() {
        return match(SPAN)
                .map(Span::parse)
                .orElseThrow(() -> wrong("A length of time is expected here, such as 30 min or 2 working days."));
    }

    public Optional<Span> spanAfter(String phrase) {
        return take(phrase) ? Optional.of(span()) : Optional.empty();
    }

    public boolean atQuote() {
        return at < text.length() && text.charAt(at) == '"';
    }

    public String quoted(String what) {
        if (!atQuote()) {
            throw wrong(what + " in quotes is expected here.");
        }
        StringBuilder out = new StringBuilder();
        int i = at + 1;
        while (i < text.length() && text.charAt(i) != '"') {
            if (text.charAt(i) == '\\' && i + 1 < text.length()) {
                i++;
                i = escaped(i, out);
            } else {
                out.append(text.charAt(i));
            }
            i++;
        }
        if (i >= text.length()) {
            throw wrong("The quote that begins here does not end on this line.", "\"");
        }
        at = i + 1;
        space();
        return out.toString();
    }

    /** Reads what follows a backslash; returns where it ends. */
    private int escaped(int i, StringBuilder out) {
        switch (text.charAt(i)) {
            case 'n' -> out.append('\n');
            case 't' -> out.append('\t');
            case 'r' -> out.append('\r');
            case 'u' -> {
                if (!text.substring(i + 1, Math.min(text.length(), i + 5)).matches("[0-9a-fA-F]{4}")) {
                    throw wrong("After \\u four hexadecimal digits are expected.");
                }
                out.append((char) Integer.parseInt(text.substring(i + 1, i + 5), 16));
                return i + 4;
            }
            default -> out.append(text.charAt(i));
        }
        return i;
    }

    public Optional<String> quotedIfThere() {
        return atQuote() ? Optional.of(quoted("A text")) : Optional.empty();
    }

    /** An exit's name: in quotes, or plain small words. */
    String exit() {
        if (atQuote()) {
            return quoted("An exit");
        }
        return match(WORDS).orElseThrow(() -> wrong("The name of an exit is expected here."));
    }

    /** Everything up to the end of the line. */
    public String rest(String what) {
        if (atEnd()) {
            throw wrong(what + " is expected here.");
        }
        String rest = text.substring(at).strip();
        at = text.length();
        return rest;
    }

    /** Everything up to one of some phrases that stands outside quotes and parentheses, or to the end. */
    public String until(String what, List<String> phrases) {
        int end = find(phrases);
        String part = text.substring(at, end).strip();
        if (part.isEmpty()) {
            throw wrong(what + " is expected here.");
        }
        at = end;
        space();
        return part;
    }

    private int find(List<String> phrases) {
        int depth = 0;
        for (int i = at; i < text.length(); i++) {
            int here = i;
            if (depth == 0 && phrases.stream().anyMatch(p -> text.startsWith(p, here))) {
                return i;
            }
            switch (text.charAt(i)) {
                case '"', '\'' -> i = closing(i);
                case '(', '[', '{' -> depth++;
                case ')', ']', '}' -> depth--;
                default -> {}
            }
        }
        return text.length();
    }

    private int closing(int open) {
        for (int i = open + 1; i < text.length(); i++) {
            if (text.charAt(i) == '\\') {
                i++;
            } else if (text.charAt(i) == text.charAt(open)) {
                return i;
            }
        }
        return text.length() - 1;
    }

    /** An id or the name people know it by; the longest that fits. Unknown words are taken as an id where nothing is known. */
    public String named(String what, Map<String, String> known) {
        String left = left();
        String best = null;
        int length = 0;
        for (Map.Entry<String, String> e : known.entrySet()) {
            for (String form : List.of(e.getKey(), e.getValue())) {
                boolean fits = form.length() > length
                        && left.regionMatches(true, 0, form, 0, form.length())
                        && (left.length() == form.length()
                                || !Character.isLetterOrDigit(left.charAt(form.length()))
                                        && left.charAt(form.length()) != '-');
                if (fits) {
                    best = e.getKey();
                    length = form.length();
                }
            }
        }
        if (best != null) {
            at += length;
            space();
            return best;
        }
        Matcher word = KEY.matcher(left);
        String typed = text.substring(at, find(List.of("\"", ",", ":", " within ", " and ")))
                .strip();
        if (!word.lookingAt() || typed.length() > word.end() && !known.isEmpty()) {
            List<String> forms = new ArrayList<>(known.keySet());
            forms.addAll(known.values());
            String near = Near.to(typed, forms);
            throw wrong(
                    "There is no " + what + " '" + dastur.core.json.Texts.clip(typed, 60) + "'.",
                    near == null ? Near.to(typed.split(" ", 2)[0], forms) : near);
        }
        return key("A " + what);
    }

    void end() {
        if (!atEnd()) {
            throw wrong("Nothing more is expected here, but '" + dastur.core.json.Texts.clip(left(), 40) + "' stands.");
        }
    }
}
