package dastur.core.notation;

import static org.assertj.core.api.Assertions.assertThat;

import java.util.List;
import net.jqwik.api.ForAll;
import net.jqwik.api.Property;
import net.jqwik.api.constraints.AlphaChars;
import net.jqwik.api.constraints.StringLength;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;

/** What is proposed for a mistyped word. */
class NearTest {
    private static final List<String> KNOWN = List.of("approve", "ask", "automation", "run", "tell");

    @ParameterizedTest
    @CsvSource({
        "aprove, approve",
        "appvroe, approve",
        "APPROVE, approve",
        "aks, ask",
        "tel, tell",
        "rnu, run",
        "xyz,",
        "automatic, automation"
    })
    void theNearestKnownWordIsProposedOrNone(String typed, String near) {
        assertThat(Near.to(typed, KNOWN)).isEqualTo(near);
    }

    @Property(tries = 200)
    void distanceIsAMeasure(
            @ForAll @AlphaChars @StringLength(max = 8) String a, @ForAll @AlphaChars @StringLength(max = 8) String b) {
        assertThat(Near.distance(a, b)).isEqualTo(Near.distance(b, a));
        assertThat(Near.distance(a, b) == 0).isEqualTo(a.equals(b));
        assertThat(Near.distance(a, b)).isLessThanOrEqualTo(Math.max(a.length(), b.length()));
    }
}
