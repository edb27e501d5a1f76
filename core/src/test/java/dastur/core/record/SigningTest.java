package dastur.core.record;

import static org.assertj.core.api.Assertions.assertThat;

import java.security.KeyPair;
import java.security.KeyPairGenerator;
import java.util.ArrayList;
import java.util.List;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;

/** A signature holds for one text, one key and one spelling of both. */
class SigningTest {
    private static final String LETTERS = "ABCDEFGHIJKLMNOPQRSTUVWXYZabcdefghijklmnopqrstuvwxyz0123456789+/";
    private static final String TEXT = "who decided what, and when";

    private String signature;
    private String key;

    @BeforeEach
    void sign() throws Exception {
        KeyPair pair = KeyPairGenerator.getInstance("Ed25519").generateKeyPair();
        signature = Signing.sign(TEXT, pair);
        key = Signing.publicKey(pair);
    }

    @Test
    void itHolds() {
        assertThat(Signing.holds(TEXT, signature, key)).isTrue();
        assertThat(Signing.holds(TEXT + " ", signature, key)).isFalse();
    }

    /** The last letters of both carry bits that say nothing; a letter that differs in those alone is a changed one. */
    @Test
    void noOtherSpellingHolds() {
        for (String other : spellings(signature)) {
            assertThat(Signing.holds(TEXT, other, key)).as(other).isFalse();
        }
        for (String other : spellings(key)) {
            assertThat(Signing.holds(TEXT, signature, other)).as(other).isFalse();
        }
    }

    /** Each of the last three letters replaced by each other one; without its filling, and with white space at its end. */
    private static List<String> spellings(String base64) {
        List<String> all = new ArrayList<>();
        String bare = base64.replace("=", "");
        for (int at = bare.length() - 3; at < bare.length(); at++) {
            for (char letter : LETTERS.toCharArray()) {
                if (letter != bare.charAt(at)) {
                    all.add(base64.substring(0, at) + letter + base64.substring(at + 1));
                }
            }
        }
        all.add(bare);
        all.add(base64 + "\n");
        return all;
    }
}
