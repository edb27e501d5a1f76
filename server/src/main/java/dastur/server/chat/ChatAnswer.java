package dastur.server.chat;

import java.util.Locale;
import java.util.Optional;
import java.util.regex.Matcher;
import java.util.regex.Pattern;
import org.jspecify.annotations.Nullable;

/**
 * What somebody answers to a message with numbered choices (N41). Read by a plain grammar: a choice first, then words
 * after a comma, colon, dash or line break. What does not begin with a choice is not understood, and never taken as a no.
 */
public sealed interface ChatAnswer {
    /** @param rest the words after it: a condition or a comment; null for none */
    record Yes(@Nullable String rest) implements ChatAnswer {}

    record No(@Nullable String rest) implements ChatAnswer {}

    record Question(String text) implements ChatAnswer {}

    private static Pattern choice(String words) {
        return Pattern.compile("(?:" + words + ")(?:\\s*[,:;.–—\\n-]\\s*(.*)|\\s*)", Pattern.DOTALL);
    }

    Pattern YES = choice("1|1️⃣|yes|y|approve|approved|ok|okay|👍|✅");
    Pattern NO = choice("2|2️⃣|no|n|decline|declined|👎|❌");
    Pattern QUESTION = Pattern.compile("(?:\\?|3(?:️⃣)?\\s*[,:;.–—\\n-])\\s*(.+)", Pattern.DOTALL);

    /** What was meant; empty when it is not understood. */
    static Optional<ChatAnswer> read(String text) {
        String said = text.strip();
        String small = said.toLowerCase(Locale.ROOT);
        Matcher yes = YES.matcher(small);
        if (yes.matches()) {
            return Optional.of(new Yes(rest(said, yes)));
        }
        Matcher no = NO.matcher(small);
        if (no.matches()) {
            return Optional.of(new No(rest(said, no)));
        }
        Matcher question = QUESTION.matcher(said);
        return question.matches() ? Optional.of(new Question(question.group(1).strip())) : Optional.empty();
    }

    private static @Nullable String rest(String said, Matcher matcher) {
        if (matcher.group(1) == null || matcher.group(1).isBlank()) {
            return null;
        }
        return said.substring(Math.min(said.length(), matcher.start(1))).strip();
    }
}
