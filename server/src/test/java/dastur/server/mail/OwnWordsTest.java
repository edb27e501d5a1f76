package dastur.server.mail;

import static org.assertj.core.api.Assertions.assertThat;

import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;

/** What somebody wrote in an answer, without what they answered. */
class OwnWordsTest {
    @ParameterizedTest
    @CsvSource(delimiter = '|', textBlock = """
            yes                                                              | yes
            yes, gate 3 only\\n\\n> Close the lane?\\n> 1 Approve             | yes, gate 3 only
            No\\r\\n\\r\\nOn Mon, 2 Mar 2026 at 10:00, Dastur wrote:\\r\\n> ..   | No
            Nei\\n\\nDen 2. mars 2026 kl. 10.00 skrev Dastur:\\n> ..            | Nei
            ok\\n-- \\nTeo Marchetti\\nDuty manager                           | ok
            ok\\n\\n-----Original message-----\\nFrom: x                      | ok
            ok\\n\\nFrom: Dastur <dastur@kestrel.example>\\nSent: today        | ok
            On Monday it was open.\\nToday it is not.                         | On Monday it was open.\\nToday it is not.
            one\\n\\ntwo                                                      | one\\n\\ntwo
            """)
    void quotesAndSignaturesAreLeftOut(String mail, String written) {
        assertThat(OwnWords.of(unescaped(mail))).isEqualTo(unescaped(written));
    }

    private static String unescaped(String text) {
        return text.replace("\\r", "\r").replace("\\n", "\n");
    }
}
