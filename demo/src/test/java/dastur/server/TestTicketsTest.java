package dastur.server;

import static org.assertj.core.api.Assertions.assertThat;

import com.fasterxml.jackson.databind.JsonNode;
import dastur.core.json.Json;
import dastur.server.ApiClient.Answer;
import dastur.store.Audit;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.UUID;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.ValueSource;

/** What a signal does, tried on a ticket that is a test: through the whole chain, and nothing of it in earnest (I4). */
class TestTicketsTest extends OnDemo {
    private static final String KEPT = "{\"kept\":\"A board stands still\"}";

    private static Answer test(String person, String body) {
        return api.call(person, "POST", "/api/sources/board-monitor/tests", body);
    }

    private static String begun() {
        Answer opened = test("ines", KEPT);
        assertThat(opened.status()).as(opened.raw().body()).isEqualTo(200);
        return opened.body().get("ticket").asText();
    }

    private static boolean lists(String person, String path, String ticket) {
        Answer list = api.call(person, "GET", path, null);
        assertThat(list.status()).as(path).isEqualTo(200);
        return list.raw().body().contains("\"" + ticket + "\"");
    }

    private static List<Long> counts() {
        JsonNode health = api.call("ada", "GET", "/api/health", null).body();
        return List.of(
                health.get("openTickets").asLong(), health.get("stalledRuns").asLong());
    }

    private static JsonNode withheld(String ticket) {
        until("it is never withheld", () -> ticket("ines", ticket)
                .get("asks")
                .findValuesAsText("code")
                .contains("withheld"));
        return ask("ines", ticket);
    }

    private static Answer intervene(JsonNode ask, String ticket, Map<String, String> how) {
        Map<String, Object> body = new HashMap<>(how);
        body.put("run", ask.get("run").asText());
        body.put("visit", ask.get("visit").asText());
        body.put("reason", "as a test");
        return api.call("ines", "POST", "/api/tickets/" + ticket + "/interventions", Json.write(body));
    }

    /** The log is read for real, since that changes nothing; the restart waits, and is done when whoever tries it says so. */
    @Test
    void itReadsForRealAndWithholdsTheRestart() {
        String ticket = begun();
        JsonNode restart = withheld(ticket);
        assertThat(restart.get("name").asText()).isEqualTo("Restart the board");
        assertThat(restart.get("stall").get("why").asText()).contains("with board ALD-07");
        assertThat(api.call("ines", "GET", "/api/tickets/" + ticket + "/record", null)
                        .raw()
                        .body())
                .contains("callDone")
                .contains("markedAsTest");
        assertThat(lists("ines", "/api/desk", ticket)).isTrue();
        assertThat(lists("teo", "/api/desk", ticket)).isFalse();

        // In earnest: the board is restarted, looked at for real, and the incident closes by itself.
        assertThat(intervene(restart, ticket, Map.of("kind", "retry")).status()).isEqualTo(200);
        until("it never ends", () -> ticket("ines", ticket).get("ended").asBoolean());
        assertThat(ticket("ines", ticket).get("state").asText()).isEqualTo("closed");
    }

    @Test
    void whatIsAskedOfOthersIsAskedOfWhoeverTriesIt() {
        String ticket = begun();
        assertThat(intervene(withheld(ticket), ticket, Map.of("kind", "take exit", "exit", "failed"))
                        .status())
                .isEqualTo(200);
        JsonNode task = ask("ines", ticket);
        assertThat(task.get("name").asText()).isEqualTo("Look at the board on site");
        assertThat(desk("ines", "name")).contains("Test: Look at the board on site");
        assertThat(desk("runa", "ticket")).doesNotContain(ticket);
        Answer done = api.call("ines", "POST", "/api/tasks/" + task.get("visit").asText() + "/complete", """
                {"outcome":"It needs a part","form":{"found":"a cable"}}""");
        assertThat(done.status()).as(done.raw().body()).isEqualTo(200);
        assertThat(ask("ines", ticket).get("name").asText()).isEqualTo("Order a part for the board?");
    }

    @Test
    void itStandsInNoListAndGoesNowhere() {
        List<Long> counts = counts();
        String from = api.call("ada", "GET", "/api/events", null)
                .raw()
                .headers()
                .firstValue("Dastur-Place")
                .orElseThrow();
        String ticket = begun();
        withheld(ticket);
        assertThat(counts()).isEqualTo(counts);
        String inEarnest = raiseGate("ALD-G2");
        until("nothing is told", () -> lists("ada", "/api/events?after=" + from, inEarnest));
        for (String path : List.of(
                "/api/tickets?open=true",
                "/api/tickets?text=stands%20still",
                "/api/tickets?ci=ALD-07",
                "/api/runs",
                "/api/events?after=" + from,
                "/api/cis/ALD-07")) {
            assertThat(lists("ada", path, ticket)).as(path).isFalse();
        }
        assertThat(lists("ada", "/api/tickets?tests=true", ticket)).isTrue();
        assertThat(ticket("ada", ticket).get("test").get("by").asText()).isEqualTo("ines");
        // A second one of the same board joins nothing, and neither does a board that really stands still.
        assertThat(begun()).isNotEqualTo(ticket);
        assertThat(new Audit(api.app().database(), api.app().app().kept().log())
                        .run(done -> {})
                        .findings())
                .isEmpty();
    }

    @Test
    void saidTwiceItIsOneTest() {
        Map<String, String> key = Map.of("Idempotency-Key", UUID.randomUUID().toString());
        String first = api.call("ines", "POST", "/api/sources/board-monitor/tests", KEPT, key)
                .body()
                .get("ticket")
                .asText();
        assertThat(api.call("ines", "POST", "/api/sources/board-monitor/tests", KEPT, key)
                        .body()
                        .get("ticket")
                        .asText())
                .isEqualTo(first);
    }

    @ParameterizedTest
    @ValueSource(strings = {"ada", "mira", "oskar"})
    void whoDoesNotDesignTriesNothing(String person) {
        assertThat(test(person, KEPT).status()).isEqualTo(403);
    }

    @Test
    void whatOpensNothingIsSaid() {
        Answer none = test("ines", "{\"raw\":" + Json.write("{\"data\":{\"state\":\"MOVING\",\"level\":0}}") + "}");
        assertThat(none.status()).isEqualTo(409);
        assertThat(none.body().get("detail").asText()).startsWith("It opens no ticket, so there is nothing to try:");
        assertThat(test("ines", "{\"kept\":\"no such\"}").status()).isEqualTo(404);
    }
}
