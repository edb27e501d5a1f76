package dastur.core.json;

import java.nio.charset.StandardCharsets;
import java.util.regex.Pattern;

/** Rules for texts that come in from outside, checked once at the door. */
public final class Texts {
    /** Longest text of any single field, in code units; longer evidence belongs into an attachment. */
    public static final int MAX_TEXT = 20_000;

    private static final Pattern ID = Pattern.compile("[A-Za-z0-9][A-Za-z0-9._-]{0,79}");

    private static final Pattern WORD = Pattern.compile("[a-zA-Z][A-Za-z0-9_]{0,39}");

    /** Characters that are not seen, or turn what follows around. */
    private static final Pattern UNSEEN =
            Pattern.compile("[\\p{Cc}&&[^\\n\\t]]|[\\u200E\\u200F\\u202A-\\u202E\\u2066-\\u2069\\uFEFF]");

    private static final Pattern LINK = Pattern.compile("https?://[^\\s<>\"']+");
    private static final int MAX_LINK = 500;

    private Texts() {}

    /** What others have written, without what is not seen and with every character whole: half of one cannot be kept (RFC 8785). */
    public static String clean(String text) {
        String whole =
                wellFormed(text) ? text : new String(text.getBytes(StandardCharsets.UTF_8), StandardCharsets.UTF_8);
        return UNSEEN.matcher(whole).replaceAll("").strip();
    }

    /** Whether what others have written may be shown as a link: to the web, and of at most {@value #MAX_LINK} characters. */
    public static boolean isLink(String text) {
        return text.length() <= MAX_LINK && LINK.matcher(text).matches();
    }

    /** Refuses an id that is not a short word of letters, digits, dots, dashes and underscores. */
    public static void checkId(String type, String value) {
        if (value == null || !isId(value)) {
            throw new IllegalArgumentException(article(type) + type
                    + " is a word of 1 to 80 letters, digits, dots, dashes or underscores, but was '" + clip(value, 90)
                    + "'.");
        }
    }

    /** Whether something can be a key. */
    public static boolean isId(String value) {
        return ID.matcher(value).matches();
    }

    private static String article(String word) {
        return "aeio".indexOf(Character.toLowerCase(word.charAt(0))) >= 0 ? "An " : "A ";
    }

    /** Refuses what cannot stand as a name in an expression. */
    public static void checkWord(String type, String value) {
        if (value == null || !WORD.matcher(value).matches()) {
            throw new IllegalArgumentException(article(type) + type
                    + " begins with a letter and has at most 40 letters, digits and underscores, but was '"
                    + clip(value, 50) + "'.");
        }
    }

    /** Whether a text that somebody gives can be kept everywhere: well-formed, and without U+0000. */
    public static boolean keepable(String text) {
        return wellFormed(text) && text.indexOf(0) < 0;
    }

    /** Whether every surrogate in the text has its partner; RFC 8785 cannot carry others (D21). */
    public static boolean wellFormed(String text) {
        for (int i = 0; i < text.length(); i++) {
            char c = text.charAt(i);
            if (Character.isHighSurrogate(c)) {
                if (i + 1 == text.length() || !Character.isLowSurrogate(text.charAt(i + 1))) {
                    return false;
                }
                i++;
            } else if (Character.isLowSurrogate(c)) {
                return false;
            }
        }
        return true;
    }

    /** The text, cut to at most {@code max} code units with an ellipsis, and never between two halves of one character. */
    public static String clip(String text, int max) {
        if (text == null) {
            return "";
        }
        if (text.length() <= max) {
            return text;
        }
        int end = Character.isHighSurrogate(text.charAt(max - 2)) ? max - 2 : max - 1;
        return text.substring(0, end) + "…";
    }

    /** Blank and null become absent at the door (D25). */
    public static boolean blank(Object value) {
        return value == null || value instanceof String s && s.isBlank();
    }
}
