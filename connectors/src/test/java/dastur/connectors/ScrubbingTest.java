package dastur.connectors;

import static org.assertj.core.api.Assertions.assertThat;

import java.net.URLEncoder;
import java.nio.charset.StandardCharsets;
import java.util.ArrayList;
import java.util.Base64;
import java.util.List;
import org.junit.jupiter.api.Test;

/** However a text is cut while it comes, no part of a secret gets through, and nothing else is lost. */
class ScrubbingTest {
    private static final String SECRET = "k/3+\"y\\ 9";

    private static String heard(String secret, String text, int cut, int more) {
        StringBuilder out = new StringBuilder();
        Scrubbing scrubbing = new Scrubbing(secret, out::append);
        int second = Math.min(text.length(), cut + more);
        scrubbing.heard(text.substring(0, cut));
        scrubbing.heard(text.substring(cut, second));
        scrubbing.heard(text.substring(second));
        scrubbing.end();
        return out.toString();
    }

    @Test
    void aSecretThatComesInPiecesIsTakenOut() {
        String text = "token " + SECRET + " used, " + SECRET + SECRET + " again";
        for (int cut = 0; cut <= text.length(); cut++) {
            for (int more = 0; more < 12; more++) {
                assertThat(heard(SECRET, text, cut, more)).isEqualTo("token ••• used, •••••• again");
            }
        }
    }

    /** What is written down in parts would have half a character in each. */
    @Test
    void noCharacterIsCutInTwo() {
        String anchor = new String(Character.toChars(0x1F6A2));
        List<String> parts = new ArrayList<>();
        Scrubbing scrubbing = new Scrubbing(SECRET, parts::add);
        anchor.repeat(40).codePoints().forEach(c -> scrubbing.heard(Character.toString(c)));
        scrubbing.heard("x" + anchor.repeat(40));
        scrubbing.end();
        assertThat(String.join("", parts)).isEqualTo(anchor.repeat(40) + "x" + anchor.repeat(40));
        assertThat(parts).noneMatch(p -> Character.isHighSurrogate(p.charAt(p.length() - 1)));
    }

    @Test
    void itIsTakenOutInTheFormsInWhichItIsSentAround() {
        byte[] bytes = SECRET.getBytes(StandardCharsets.UTF_8);
        for (String form : new String[] {
            Base64.getEncoder().encodeToString(bytes),
            URLEncoder.encode(SECRET, StandardCharsets.UTF_8),
            "k/3+\\\"y\\\\ 9",
        }) {
            assertThat(heard(SECRET, "said " + form + ".", 7, 3)).as(form).isEqualTo("said •••.");
            assertThat(Scrubbing.whole(SECRET, "said " + form + ".")).isEqualTo("said •••.");
        }
    }

    @Test
    void withoutASecretEverythingIsToldAtOnce() {
        StringBuilder out = new StringBuilder();
        new Scrubbing(null, out::append).heard("all of it");
        assertThat(out).hasToString("all of it");
    }
}
