package dastur.core.workflow;

import java.util.List;
import java.util.Optional;
import java.util.Set;
import org.jspecify.annotations.Nullable;

/**
 * One SQL statement, whose values never stand in its text. It is read with the rules of quoting of SQL and PostgreSQL, so that what is
 * one statement to us is one to the server, and a value can stand only where a value may.
 *
 * @param text as the driver takes it: {@code ?} in the place of each value
 */
public record SqlStatement(String text) {
    /** In the place of a value while a text is read; no text that is typed has it. */
    public static final char MARK = '\uE000';

    private static final Set<String> READS = Set.of("select", "with", "values", "table", "show");
    private static final Set<String> CHANGES = Set.of("insert", "update", "delete", "merge", "with", "select", "call");

    /** A text is no statement that may be sent. */
    public static final class Unfit extends Exception {
        Unfit(String message) {
            super(message, null, false, false);
        }
    }

    /**
     * Reads a statement.
     *
     * @param marked with {@link #MARK} in the place of each value
     * @param method QUERY or CHANGE
     */
    public static SqlStatement of(String marked, String method) throws Unfit {
        Reader reader = new Reader(marked);
        reader.read();
        String first = reader.firstWord().toLowerCase(java.util.Locale.ROOT);
        Set<String> may = method.equals("QUERY") ? READS : CHANGES;
        if (!may.contains(first)) {
            throw new Unfit("A statement of " + method + " begins with "
                    + String.join(", ", may.stream().sorted().toList()) + ".");
        }
        return new SqlStatement(reader.out.toString());
    }

    /** What is wrong with a text; empty when it is one statement. */
    public static Optional<String> problem(String marked, String method) {
        try {
            of(marked, method);
            return Optional.empty();
        } catch (Unfit e) {
            return Optional.ofNullable(e.getMessage());
        }
    }

    /**
     * A statement as it goes out, in the body of a call.
     *
     * @param statement null where it is none
     * @param values in the order of their places; null where one is absent
     * @param unfit why it is none; null where it is one
     */
    public record Sent(
            @Nullable String statement,
            List<@Nullable Object> values,
            @Nullable String unfit) {}

    private static final class Reader {
        private final String in;
        private final StringBuilder out = new StringBuilder();
        private int at;
        private boolean ended;
        private @Nullable String first;

        Reader(String in) {
            this.in = in;
        }

        String firstWord() {
            return first == null ? "" : first;
        }

        void read() throws Unfit {
            while (at < in.length()) {
                char c = in.charAt(at);
                if (in.startsWith("--", at)) {
                    int end = in.indexOf('\n', at);
                    take(end < 0 ? in.length() : end, "a comment");
                } else if (in.startsWith("/*", at)) {
                    take(endOfComment(), "a comment");
                } else if (Character.isWhitespace(c)) {
                    take(at + 1, "");
                } else if (ended) {
                    throw new Unfit("It is more than one statement.");
                } else if (c == ';') {
                    ended = true;
                    at++;
                } else {
                    token(c);
                }
            }
        }

        private void token(char c) throws Unfit {
            if (c == '\'') {
                boolean escapes = at > 0 && "eE".indexOf(in.charAt(at - 1)) >= 0 && !isWord(at - 2);
                take(endOfQuoted('\'', escapes), "quotes");
            } else if (c == '"') {
                take(endOfQuoted('"', false), "quotes");
            } else if (c == '$' && !isWord(at - 1)) {
                dollar();
            } else if (c == MARK) {
                out.append('?');
                at++;
            } else if (c == '?') {
                // The driver's own way to say a question mark that is an operator.
                out.append("??");
                at++;
            } else {
                word();
            }
        }

        private boolean isWord(int place) {
            return place >= 0 && (Character.isLetterOrDigit(in.charAt(place)) || in.charAt(place) == '_');
        }

        private void word() {
            int end = at + 1;
            while (isWord(at) && end < in.length() && isWord(end)) {
                end++;
            }
            if (first == null) {
                first = in.substring(at, end);
            }
            out.append(in, at, end);
            at = end;
        }

        private void dollar() throws Unfit {
            int end = at + 1;
            while (end < in.length() && isWord(end)) {
                end++;
            }
            if (end >= in.length() || in.charAt(end) != '$') {
                throw new Unfit("A value is put in by {{ input.… }}, not by $1.");
            }
            String tag = in.substring(at, end + 1);
            int close = in.indexOf(tag, end + 1);
            if (close < 0) {
                throw new Unfit("The quotes " + tag + " are not closed.");
            }
            take(close + tag.length(), "quotes");
        }

        private int endOfQuoted(char quote, boolean escapes) throws Unfit {
            int place = at + 1;
            while (place < in.length()) {
                char c = in.charAt(place);
                if (escapes && c == '\\') {
                    place += 2;
                } else if (c == quote && place + 1 < in.length() && in.charAt(place + 1) == quote) {
                    place += 2;
                } else if (c == quote) {
                    return place + 1;
                } else {
                    place++;
                }
            }
            throw new Unfit("A quote is not closed.");
        }

        /** Comments stand in comments (SQL:2016, 5.2). */
        private int endOfComment() throws Unfit {
            int depth = 0;
            int place = at;
            while (place < in.length()) {
                if (in.startsWith("/*", place)) {
                    depth++;
                    place += 2;
                } else if (in.startsWith("*/", place)) {
                    depth--;
                    place += 2;
                    if (depth == 0) {
                        return place;
                    }
                } else {
                    place++;
                }
            }
            throw new Unfit("A comment is not closed.");
        }

        private void take(int end, String where) throws Unfit {
            String part = in.substring(at, end);
            if (part.indexOf(MARK) >= 0) {
                throw new Unfit("A value stands in " + where + ": take the quotes away, it is no part of the text.");
            }
            out.append(part);
            at = end;
        }
    }
}
