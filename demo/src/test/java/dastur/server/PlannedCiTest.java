package dastur.server;

import static org.assertj.core.api.Assertions.assertThat;

import com.fasterxml.jackson.databind.JsonNode;
import dastur.store.Audit;
import org.junit.jupiter.api.Test;

/** CIs that people wish for inside requests and changes (M17), over HTTP. */
class PlannedCiTest extends OnDemo {
    private static String raised(String kind) {
        return api.call(
                        "ada",
                        "POST",
                        "/api/tickets",
                        "{\"kind\":\"" + kind
                                + "\",\"fields\":{\"title\":\"A board for the new berth\",\"requester\":\"mira\"}}")
                .body()
                .get("ticket")
                .asText();
    }

    private static ApiClient.Answer plan(String person, String ticket, String body) {
        return api.call(person, "POST", "/api/tickets/" + ticket + "/planned-ci", body);
    }

    @Test
    void theRequesterWishesForOneWhichIsPlannedOnceAndAudited() {
        String ticket = raised("request");
        ApiClient.Answer planned = plan("mira", ticket, """
                {"id":"ALD-31","kind":"board","values":{"name":"Board 31","model":"Lumen 42"}}""");
        assertThat(planned.status()).as(planned.raw().body()).isLessThan(300);
        JsonNode ci = api.call("ada", "GET", "/api/cis/ALD-31", null).body();
        assertThat(ci.get("ci").get("life").asText()).isEqualTo("planned");
        assertThat(ci.get("ci").get("attributes").get("model").asText()).isEqualTo("Lumen 42");
        assertThat(ci.get("changes").findValuesAsText("ticket")).contains(ticket);
        assertThat(ticket("ada", ticket).get("fields").get("ci").asText()).isEqualTo("ALD-31");
        assertThat(ticket("mira", ticket).get("talk").findValuesAsText("text"))
                .as("the requester reads it too")
                .contains("ALD-31");

        ApiClient.Answer again = plan("ada", raised("change"), "{\"id\":\"ALD-31\",\"kind\":\"board\"}");
        assertThat(again.status()).isEqualTo(422);
        assertThat(again.raw().body()).contains("There is a CI 'ALD-31' already: board, planned.");
        assertThat(new Audit(api.app().database(), api.app().app().kept().log())
                        .run(done -> {})
                        .findings())
                .isEmpty();
    }

    @Test
    void whoeverOnlyAsksPlansNothingOnTicketsOfOthers() {
        String ticket = api.call("ada", "POST", "/api/tickets", """
                        {"kind":"request","fields":{"title":"A kiosk","requester":"emil"}}""")
                .body()
                .get("ticket")
                .asText();
        assertThat(plan("mira", ticket, "{\"id\":\"ALD-32\",\"kind\":\"board\"}")
                        .status())
                .isIn(403, 404);
        assertThat(api.call("ada", "GET", "/api/cis/ALD-32", null).status()).isEqualTo(404);
    }
}
