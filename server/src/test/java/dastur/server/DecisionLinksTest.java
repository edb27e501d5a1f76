package dastur.server;

import static org.assertj.core.api.Assertions.assertThat;

import dastur.core.people.PersonId;
import dastur.core.run.VisitId;
import dastur.server.auth.DecisionLinks;
import java.time.Instant;
import org.junit.jupiter.api.Test;

class DecisionLinksTest {
    private static final Instant NOW = Instant.parse("2026-03-02T10:00:00Z");

    private final DecisionLinks links = new DecisionLinks(new byte[32]);
    private final DecisionLinks.Link link =
            new DecisionLinks.Link(new VisitId("I-1.1.2"), 1, "abc", new PersonId("teo"), NOW.plusSeconds(60));

    @Test
    void aLinkSaysWhoseItIsUntilItsTimeIsOver() {
        String token = links.token(link);
        assertThat(links.read(token, NOW)).contains(link);
        assertThat(links.read(token, NOW.plusSeconds(60))).isEmpty();
    }

    @Test
    void anAlteredLinkOrOneOfAnotherKeyIsNone() {
        String token = links.token(link);
        for (int i = 0; i < token.length(); i++) {
            char other = token.charAt(i) == 'A' ? 'B' : 'A';
            String altered = token.substring(0, i) + other + token.substring(i + 1);
            // The last character of unpadded base64 has bits that mean nothing.
            if (i != token.indexOf('.') - 1 && i != token.length() - 1) {
                assertThat(links.read(altered, NOW)).as("character %s", i).isEmpty();
            }
        }
        byte[] other = new byte[32];
        other[0] = 1;
        assertThat(new DecisionLinks(other).read(token, NOW)).isEmpty();
        assertThat(links.read("", NOW)).isEmpty();
        assertThat(links.read("a.b.c", NOW)).isEmpty();
        assertThat(links.read("!.!", NOW)).isEmpty();
        assertThat(links.read("a".repeat(2_000), NOW)).isEmpty();
    }
}
