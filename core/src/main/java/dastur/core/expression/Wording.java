package dastur.core.expression;

import java.util.Comparator;
import java.util.Optional;
import java.util.regex.Matcher;
import java.util.regex.Pattern;

/** Turns the library's complaints about an expression into sentences for its writer, with a proposal where one is near. */
final class Wording {
    private static final Pattern FIELD = Pattern.compile("undefined field '([^']*)'");
    private static final Pattern NAME = Pattern.compile("undeclared reference to '([^']*)'");
    private static final Pattern OVERLOAD =
            Pattern.compile("no matching overload for '([^']*)' applied to '\\(([^)]*)\\)'");

    private Wording() {}

    static String of(String message, Vocabulary vocabulary) {
        Matcher m = FIELD.matcher(message);
        if (m.find()) {
            return "There is no field '" + m.group(1) + "'." + near(m.group(1), vocabulary);
        }
        m = NAME.matcher(message);
        if (m.find()) {
            return "'" + m.group(1) + "' is not known here." + near(m.group(1), vocabulary);
        }
        m = OVERLOAD.matcher(message);
        if (m.find()) {
            return "'" + m.group(1).replace("_", "").trim() + "' does not work on " + types(m.group(2)) + ".";
        }
        if (message.contains("recursion")) {
            return "This is nested too deeply.";
        }
        return "This is not a complete expression.";
    }

    private static String types(String list) {
        return list.replace("google.protobuf.Timestamp", "a time")
                .replace("google.protobuf.Duration", "a length of time")
                .replaceAll("\\bint\\b", "a whole number")
                .replaceAll("\\bstring\\b", "a text")
                .replaceAll("\\bdouble\\b", "a number")
                .replaceAll("\\bbool\\b", "yes or no")
                .replace(", ", " and ");
    }

    private static String near(String name, Vocabulary vocabulary) {
        Optional<String> best = vocabulary.paths().keySet().stream()
                .filter(path -> distance(last(path), name) <= 2)
                .min(Comparator.comparingInt(path -> distance(last(path), name)));
        return best.map(path -> " Did you mean " + path + "?").orElse("");
    }

    private static String last(String path) {
        return path.substring(path.lastIndexOf('.') + 1);
    }

    /** Edit distance, given up beyond 3. */
    private static int distance(String a, String b) {
        if (Math.abs(a.length() - b.length()) > 3) {
            return 99;
        }
        int[] row = new int[b.length() + 1];
        for (int j = 0; j <= b.length(); j++) {
            row[j] = j;
        }
        for (int i = 1; i <= a.length(); i++) {
            int diagonal = row[0];
            row[0] = i;
            for (int j = 1; j <= b.length(); j++) {
                int above = row[j];
                row[j] = Math.min(
                        Math.min(row[j], row[j - 1]) + 1, diagonal + (a.charAt(i - 1) == b.charAt(j - 1) ? 0 : 1));
                diagonal = above;
            }
        }
        return row[b.length()];
    }
}
