package dastur.server;

import static org.assertj.core.api.Assertions.assertThat;

import com.fasterxml.jackson.databind.JsonNode;
import dastur.core.json.Json;
import dastur.server.ApiClient.Answer;
import java.util.Map;
import org.junit.jupiter.api.Test;

/** What one person or ticket does reaches another's only where it should. */
class OthersTest extends OnDemo {
    @Test
    void theSameKeyFromSomebodyElseIsAnotherCommand() {
        Map<String, String> key = Map.of("Idempotency-Key", "one-key-for-two");
        String body = "{\"kind\":\"incident\",\"fields\":{\"title\":\"%s\"}}";
        String ofAda = api.call("ada", "POST", "/api/tickets", body.formatted("Ada's lamp"), key)
                .body()
                .get("ticket")
                .asText();
        String ofTeo = api.call("teo", "POST", "/api/tickets", body.formatted("Teo's lamp"), key)
                .body()
                .get("ticket")
                .asText();
        assertThat(ofTeo).isNotEqualTo(ofAda);
        assertThat(ticket("teo", ofTeo).get("title").asText()).isEqualTo("Teo's lamp");
    }

    /** An approval shows what is known of the CI; when a run on another ticket changes it, that approval is asked anew (D18). */
    @Test
    void whatOneTicketChangesOnACiIsSeenByWhoeverDecidesOnAnother() {
        DesignedWorkflow.publish(api, """
                workflow paint "Paint the lane" for incident
                  owner ines
                decide: approve "Paint it?" by any one of group duty-managers
                  shows ci.lane
                  approved -> paint
                  declined -> done
                paint: update "Note the paint"
                  set ci.lane = "painted for " + ticket.number
                done: done "done"
                """);
        String first = painted("First");
        String second = painted("Second");
        assertThat(approval(second).get("round").asInt()).isEqualTo(1);
        JsonNode asked = asked(first);
        Answer yes = api.call(
                "teo",
                "POST",
                "/api/approvals/" + asked.get("visit").asText() + "/vote",
                Json.write(Map.of(
                        "round",
                        1,
                        "digest",
                        asked.get("approval").get("digest").asText(),
                        "approve",
                        true)));
        assertThat(yes.status()).as(yes.raw().body()).isEqualTo(200);
        until(() -> approval(second).get("round").asInt() == 2);
        assertThat(approval(second).toString()).contains("painted for " + first);
    }

    private static JsonNode asked(String number) {
        for (JsonNode ask : ticket("teo", number).get("asks")) {
            if (ask.path("name").asText().equals("Paint it?")) {
                return ask;
            }
        }
        throw new AssertionError("Nobody is asked on " + number);
    }

    private static JsonNode approval(String number) {
        return asked(number).get("approval");
    }

    private static String painted(String title) {
        String number = api.call("ada", "POST", "/api/tickets", """
                        {"kind":"incident","fields":{"title":"%s","ci":"ALD-G1","requester":"mira"}}""".formatted(title))
                .body()
                .get("ticket")
                .asText();
        Answer begun = api.call("ada", "POST", "/api/tickets/" + number + "/runs", "{\"workflow\":\"paint\"}");
        assertThat(begun.status()).as(begun.raw().body()).isLessThan(300);
        return number;
    }
}
