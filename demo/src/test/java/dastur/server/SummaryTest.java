package dastur.server;

import static org.assertj.core.api.Assertions.assertThat;

import com.fasterxml.jackson.databind.JsonNode;
import java.util.Map;
import org.junit.jupiter.api.Test;

/** A run in one document: times planned and actual, values in and out, as data and as Markdown (N50, N53, N55). */
class SummaryTest extends OnDemo {
    /** A gate that a technician cleared, with a title that would break a table if it were not escaped. */
    private static String cleared() {
        String number = api.call("ada", "POST", "/api/tickets", """
                        {"kind":"incident","fields":{"title":"Gate | *open*","ci":"ALD-G4","requester":"mira",
                        "impact":2,"urgency":2,"group":"pier-technicians"}}""")
                .body()
                .get("ticket")
                .asText();
        String task = api.call("runa", "GET", "/api/tickets/" + number, null)
                .body()
                .get("asks")
                .get(0)
                .get("visit")
                .asText();
        api.call(
                "runa",
                "POST",
                "/api/tasks/" + task + "/complete",
                "{\"outcome\":\"Cleared on the spot\",\"form\":{\"seen\":\"a bent arm\"}}");
        return number;
    }

    @Test
    void everyStepStandsWithItsTimesItsDoerAndItsValues() {
        String number = cleared();
        JsonNode summary = api.call("ada", "GET", "/api/tickets/" + number + "/runs/" + number + ".1/summary", null)
                .body();
        assertThat(summary.get("workflow").asText()).isEqualTo("Gate lane stuck open");
        JsonNode look = summary.get("steps").get(0);
        assertThat(look.get("name").asText()).isEqualTo("Look at the gate");
        assertThat(look.get("by").asText()).isEqualTo("Runa Feld");
        assertThat(look.get("exit").asText()).isEqualTo("Cleared on the spot");
        assertThat(look.get("due").asText()).isNotEmpty();
        assertThat(look.get("overrunSeconds").asLong()).isZero();
        assertThat(look.get("lines").findValuesAsText("value")).contains("a bent arm");
        assertThat(look.get("lines").findValuesAsText("label")).contains("What you saw");
        assertThat(summary.get("result").asText()).isNotEmpty();
    }

    @Test
    void asMarkdownItIsOneFileWithTablesThatHold() {
        String number = cleared();
        String text = api.call(
                        "ada",
                        "GET",
                        "/api/tickets/" + number + "/runs/" + number + ".1/summary",
                        null,
                        Map.of("Accept", "text/markdown"))
                .raw()
                .body();
        assertThat(text).startsWith("# Gate lane stuck open on " + number).contains("Gate | \\*open\\*");
        assertThat(text.lines()
                        .filter(l -> l.startsWith("| Look at the gate"))
                        .findFirst()
                        .orElseThrow())
                .contains("Runa Feld")
                .contains("Cleared on the spot");
        long columns = text.lines()
                .filter(l -> l.startsWith("| step |"))
                .findFirst()
                .orElseThrow()
                .chars()
                .filter(c -> c == '|')
                .count();
        assertThat(text.lines().filter(l -> l.startsWith("| Look at the gate")))
                .allSatisfy(
                        l -> assertThat(l.chars().filter(c -> c == '|').count()).isEqualTo(columns));
    }

    @Test
    void whatIsNotThereOrNotTheirsToSeeIsRefused() {
        String number = cleared();
        assertThat(api.call("ada", "GET", "/api/tickets/" + number + "/runs/" + number + ".9/summary", null)
                        .status())
                .isEqualTo(404);
        assertThat(api.call("mira", "GET", "/api/tickets/" + number + "/runs/" + number + ".1/summary", null)
                        .status())
                .isEqualTo(403);
    }
}
