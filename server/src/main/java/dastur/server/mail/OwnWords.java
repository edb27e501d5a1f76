package dastur.server.mail;

import java.util.ArrayList;
import java.util.List;
import java.util.regex.Pattern;

/** What somebody wrote in an answer, without what they answered and without their signature. */
final class OwnWords {
    /** How programs that write mail begin the mail that is answered, in the languages of our piers. */
    private static final Pattern QUOTED = Pattern.compile(
            "^(>.*|-{2,}\\s*(original|forwarded).*|_{5,}|(from|von|fra|från):\\s.*@.*|(on|am|den|på)\\s.{5,200}(wrote|schrieb|skrev).*:)$",
            Pattern.CASE_INSENSITIVE);

    private OwnWords() {}

    static String of(String text) {
        List<String> lines = new ArrayList<>();
        for (String line : text.replace("\r\n", "\n").split("\n", -1)) {
            if (line.stripTrailing().equals("--")
                    || QUOTED.matcher(line.strip()).matches()) {
                break;
            }
            lines.add(line.stripTrailing());
        }
        return String.join("\n", lines).strip();
    }
}
