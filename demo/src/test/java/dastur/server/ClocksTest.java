package dastur.server;

import static org.assertj.core.api.Assertions.assertThat;

import com.fasterxml.jackson.databind.JsonNode;
import org.junit.jupiter.api.Test;

/** Targets of services on tickets, taking an outcome back, and what people are called in as, over HTTP. */
class ClocksTest extends OnDemo {
    private static String raise(String more) {
        return api.call("ada", "POST", "/api/tickets", """
                        {"kind":"incident","fields":{"title":"Clocked","requester":"mira"%s}}""".formatted(more))
                .body()
                .get("ticket")
                .asText();
    }

    private static JsonNode ticket(String number) {
        return api.call("ada", "GET", "/api/tickets/" + number, null).body();
    }

    private static JsonNode listed(String number) {
        return api.call("ada", "GET", "/api/tickets?text=" + number, null)
                .body()
                .get("items")
                .get(0);
    }

    private static int put(String person, String path, String body) {
        return api.call(person, "PUT", path, body).status();
    }

    @Test
    void aTicketHasTheTargetsOfItsServiceAndTheListShowsTheNext() {
        assertThat(put("mira", "/api/services/office-tools", "{\"name\":\"x\",\"passengers\":false}"))
                .isEqualTo(403);
        assertThat(put("halvard", "/api/services/office-tools", """
                {"name":"Office tools","passengers":false,"owner":"service-desk","calendar":"office",
                 "targets":{"P9":{"respond":"1 h"}}}""")).isEqualTo(422);
        assertThat(put("halvard", "/api/services/office-tools", """
                {"name":"Office tools","passengers":false,"owner":"service-desk","calendar":"office",
                 "targets":{"P2":{"respond":"1 h","restore":"8 h"},"P3":{}}}""")).isLessThan(300);
        String number = raise(",\"service\":\"office-tools\",\"impact\":2,\"urgency\":2");
        JsonNode seen = ticket(number).get("targets");
        assertThat(seen.get("respond").get("due").asText()).isNotBlank();
        assertThat(listed(number).get("target").asText()).isEqualTo("respond");
        assertThat(put("ada", "/api/tickets/" + number, "{\"fields\":{\"state\":\"waiting\"}}"))
                .isEqualTo(200);
        assertThat(listed(number).get("target").asText()).isEqualTo("restore");
        assertThat(listed(number).has("targetDue")).isFalse();
        assertThat(ticket(number).get("targets").get("restore").get("rest").asText())
                .contains("min");
    }

    @Test
    void anOutcomeIsTakenBackAndTheTaskStandsOnTheDeskAgain() {
        String number = raise(",\"ci\":\"ALD-G2\",\"impact\":2,\"urgency\":2");
        String task = ticket(number).get("asks").get(0).get("visit").asText();
        String path = "/api/tasks/" + task;
        assertThat(api.call("runa", "POST", path + "/complete", "{\"outcome\":\"Close the lane\"}")
                        .status())
                .isEqualTo(200);
        assertThat(desk("runa")).doesNotContain(task);
        assertThat(api.call("teo", "POST", path + "/take-back", null).status()).isEqualTo(403);
        assertThat(api.call("runa", "POST", path + "/take-back", null).status()).isEqualTo(200);
        assertThat(desk("runa")).contains(task);
        assertThat(ticket(number).get("asks")).hasSize(1);
        assertThat(ticket(number).get("asks").get(0).get("visit").asText()).isEqualTo(task);
        assertThat(api.call("runa", "POST", path + "/take-back", null).status()).isEqualTo(409);
        assertThat(api.call("runa", "POST", path + "/complete", "{\"outcome\":\"Cleared on the spot\"}")
                        .status())
                .isEqualTo(200);
    }

    @Test
    void theOrganisationNamesWhatPeopleTakePartAs() {
        assertThat(put("runa", "/api/parts", "{\"names\":[\"scribe\"]}")).isEqualTo(403);
        assertThat(put("ines", "/api/parts", "{\"names\":[\"" + "x".repeat(81) + "\"]}"))
                .isEqualTo(422);
        assertThat(put("ines", "/api/parts", "{\"names\":[\"scribe\",\" scribe \",\"\"]}"))
                .isLessThan(300);
        assertThat(api.call("ines", "GET", "/api/directory", null)
                        .body()
                        .get("parts")
                        .toString())
                .isEqualTo("[\"scribe\"]");
    }
}
