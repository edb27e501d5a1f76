package dastur.server;

import static org.assertj.core.api.Assertions.assertThat;

import com.fasterxml.jackson.databind.JsonNode;
import dastur.server.ApiClient.Answer;
import java.net.URLEncoder;
import java.nio.charset.StandardCharsets;
import java.sql.SQLException;
import java.util.List;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;

/** Two measurements side by side, over HTTP: what one may compare, and what nobody can make it say (N52, M18). */
class ComparisonTest extends OnDemo {
    private static Answer compared(String person, String before, String after) {
        return api.call(person, "GET", "/api/comparisons?before=" + before + "&after=" + after, null);
    }

    private static String change(String title) {
        return api.call(
                        "ada",
                        "GET",
                        "/api/tickets?kind=change&text=" + URLEncoder.encode(title, StandardCharsets.UTF_8),
                        null)
                .body()
                .get("items")
                .get(0)
                .get("number")
                .asText();
    }

    private static List<String> refs(String number) {
        return api.call("ada", "GET", "/api/tickets/" + number + "/captures", null)
                .body()
                .findValuesAsText("ref");
    }

    @Test
    void whatWasMeasuredOnATicketStandsUnderTheNamesThatPeopleKnow() {
        String number = change("Software 7.2.1 for the gateway at GNQ");
        JsonNode captures = api.call("ada", "GET", "/api/tickets/" + number + "/captures", null)
                .body();
        assertThat(captures.findValuesAsText("name"))
                .startsWith("Count the devices before", "Install the new software", "Enough devices answer again")
                .endsWith("Count the devices after");
        assertThat(captures.get(0).at("/labels/answering").asText()).isEqualTo("How many answer");
        JsonNode before = captures.get(0);
        JsonNode after = captures.get(captures.size() - 1);
        JsonNode view = compared(
                        "ada", before.get("ref").asText(), after.get("ref").asText())
                .body();
        assertThat(view.get("differing").asInt()).as(view.toString()).isEqualTo(1);
        assertThat(view.get("unknown").asInt()).isZero();
        assertThat(view.at("/sides/tables/0/key").asText()).isEqualTo("device");
        JsonNode entry = api.call("ada", "GET", "/api/tickets/" + number + "/record", null)
                .body()
                .get("entries")
                .get(4);
        assertThat(entry.at("/labels/input.atLeast").asText())
                .isEqualTo("Devices that must answer afterwards, in percent");
    }

    @Test
    void oneOfTwoTicketsAndTwoCisCanBeCompared() {
        String one = refs(change("Software 7.2.1 for the gateway at GNQ")).getFirst();
        String other = refs(change("Software 7.3.0 for the gateway at NSL")).getFirst();
        assertThat(compared("ada", one, other).body().at("/sides/tables/0/rows"))
                .as("devices of two piers")
                .hasSize(12 + 8);
        JsonNode cis = compared("ada", "ci:GNQ-G1", "ci:GNQ-G2").body();
        assertThat(cis.at("/sides/values").findValuesAsText("name")).contains("site", "firmware");
        assertThat(api.call("ada", "GET", "/api/cis/GNQ-GW1/captures", null)
                        .body()
                        .findValuesAsText("name"))
                .contains("Count the devices after");
    }

    @ParameterizedTest
    @CsvSource({
        "C-1,ci:GNQ-G1,400,before",
        "C-1:x,ci:GNQ-G1,400,before",
        "C-1:99999999999,ci:GNQ-G1,400,before",
        "ci:GNQ-G1,ci:a%20b,400,after",
        "ci:GNQ-G1,'',400,after",
        "ci:GNQ-G1,ci:NO-SUCH,404,",
        "C-99999:4,ci:GNQ-G1,404,",
        "I-1043:1,ci:GNQ-G1,404,",
    })
    void whatCannotBeComparedIsSaid(String before, String after, int status, String where) {
        Answer answer = compared("ada", before, after);
        assertThat(answer.status()).as(answer.raw().body()).isEqualTo(status);
        if (where != null) {
            assertThat(answer.body().get("where").asText()).isEqualTo(where);
        }
    }

    @ParameterizedTest
    @CsvSource(
            delimiter = ';',
            value = {
                "{\"devices\":\"firmware\"}; does not name the rows",
                "[]; JSON object",
                "{\"devices\":7}; JSON object",
                "{; JSON object"
            })
    void aColumnThatNamesNothingIsRefused(String keys, String said) {
        String number = change("Software 7.2.1 for the gateway at GNQ");
        List<String> refs = refs(number);
        Answer answer = api.call(
                "ada",
                "GET",
                "/api/comparisons?before=" + refs.getFirst() + "&after=" + refs.getLast() + "&keys="
                        + URLEncoder.encode(keys, StandardCharsets.UTF_8),
                null);
        assertThat(answer.status()).isEqualTo(400);
        assertThat(answer.raw().body()).contains(said);
    }

    @Test
    void whoeverMaySeeNoTicketsComparesNone() {
        String ref = refs(change("Software 7.2.1 for the gateway at GNQ")).getFirst();
        assertThat(compared("mira", ref, ref).status()).isEqualTo(403);
        assertThat(compared("mira", "ci:GNQ-G1", "ci:GNQ-G2").status()).isEqualTo(403);
    }

    /** Somebody who holds the database makes five devices answer that did not: from there on nothing is compared. */
    @Test
    void whatWasForgedIsNotCompared() throws SQLException {
        String number = change("Software 7.3.0 for the gateway at NSL");
        List<String> refs = refs(number);
        assertThat(refs).hasSizeGreaterThan(3);
        long second = Long.parseLong(refs.get(1).substring(refs.get(1).indexOf(':') + 1));
        try (var connection = api.app().database().dataSource().getConnection();
                var statement = connection.createStatement()) {
            assertThat(statement.executeUpdate("update entry set content = replace(content, '7.3.0', '7.2.1')"
                            + " where ticket = '" + number + "' and seq = " + second))
                    .isOne();
            connection.commit();
        }
        assertThat(refs(number)).containsExactly(refs.getFirst());
        Answer answer = compared("ada", refs.getFirst(), refs.getLast());
        assertThat(answer.status()).isEqualTo(409);
        assertThat(answer.raw().body()).contains("broken at entry " + second);
    }
}
