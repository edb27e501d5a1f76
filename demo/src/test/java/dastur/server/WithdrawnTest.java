package dastur.server;

import static org.assertj.core.api.Assertions.assertThat;

import com.fasterxml.jackson.databind.JsonNode;
import com.fasterxml.jackson.databind.node.ObjectNode;
import dastur.core.json.Json;
import dastur.server.ApiClient.Answer;
import java.util.Map;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.BeforeAll;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;

/** Actions that are mended or withdrawn between a yes and what it was said to (M1, D19). */
class WithdrawnTest extends OnDemo {
    private static final String LANE = "/api/actions/lane.close";

    @BeforeAll
    static void workflow() {
        DesignedWorkflow.publish(api, """
                workflow agreed "Close a lane that was agreed to" for incident
                  owner ines
                go: approve "Close the lane?" by any one of group duty-managers
                  shows ticket.title
                  declined -> broken
                ready: ask person runa "Nobody is in it": "Clear"
                close: run lane.close "Close the lane"
                  with gate = 'GNQ-G2'
                  with why = ticket.title
                  already closed -> closed
                  failed -> broken
                closed: done "closed"
                broken: done "broken"
                """);
    }

    @AfterEach
    void inUse() {
        done(api.call("ines", "POST", LANE + "/versions/1/use", null));
    }

    private static Answer done(Answer answer) {
        assertThat(answer.status()).as(answer.raw().body()).isLessThan(300);
        return answer;
    }

    private static JsonNode page() {
        return api.call("ines", "GET", LANE, null).body();
    }

    private static Answer withdraw(String person, String version, String why) {
        return api.call(person, "PUT", LANE + "/versions/" + version + "/withdrawal", Json.write(Map.of("why", why)));
    }

    /** One that was agreed to, and waits for a person to say that nobody is in the lane. */
    private static String agreed() {
        String number = done(api.call(
                        "ada",
                        "POST",
                        "/api/tickets",
                        Json.write(Map.of(
                                "kind",
                                "incident",
                                "fields",
                                Map.of("title", "A thing to look at", "ci", "kiosk-03", "requester", "mira")))))
                .body()
                .get("ticket")
                .asText();
        done(api.call("ada", "POST", "/api/tickets/" + number + "/runs", "{\"workflow\":\"agreed\"}"));
        JsonNode ask = ask("teo", number);
        done(api.call(
                "teo",
                "POST",
                "/api/approvals/" + ask.get("visit").asText() + "/vote",
                Json.write(Map.of(
                        "round",
                        ask.at("/approval/round").asInt(),
                        "digest",
                        ask.at("/approval/digest").asText(),
                        "approve",
                        true))));
        return number;
    }

    private static void clear(String number) {
        done(api.call(
                "runa",
                "POST",
                "/api/tasks/" + ask("runa", number).get("visit").asText() + "/complete",
                "{\"outcome\":\"Clear\",\"form\":{}}"));
    }

    private static String stall(String number) {
        return ticket("ines", number).at("/asks/0/stall/why").asText();
    }

    private static void intervene(String number, String kind) {
        JsonNode ask = ask("ines", number);
        done(api.call(
                "ines",
                "POST",
                "/api/tickets/" + number + "/interventions",
                Json.write(Map.of(
                        "run",
                        ask.get("run").asText(),
                        "visit",
                        ask.get("visit").asText(),
                        "kind",
                        kind,
                        "reason",
                        "Looked at it"))));
    }

    private static String result(String number) {
        return ticket("ada", number).at("/runs/0/result").asText();
    }

    private static int calls() {
        return api.app().standins().lanes().calls();
    }

    @Test
    void nothingBeginsByWhatIsWithdrawnUntilItIsLetInAgain() {
        String number = agreed();
        int before = calls();
        JsonNode withdrawn =
                done(withdraw("ines", "1", "It closes the lane beside it.")).body();
        assertThat(withdrawn.at("/action/withdrawn").asText()).isEqualTo("It closes the lane beside it.");
        assertThat(withdrawn.at("/versions/0/by").asText()).isEqualTo("ines");
        clear(number);
        assertThat(stall(number)).contains("'Close a lane' was withdrawn: It closes the lane beside it.");
        intervene(number, "retry");
        assertThat(stall(number)).contains("was withdrawn");
        assertThat(calls()).isEqualTo(before);

        done(api.call("ines", "POST", LANE + "/versions/1/use", null));
        intervene(number, "retry");
        until("it is closed", () -> result(number).equals("closed"));
        assertThat(calls()).isEqualTo(before + 1);
        assertThat(api.call("halvard", "GET", "/api/journal", null).raw().body())
                .contains("\"did\":\"withdrew\"", "It closes the lane beside it.", "\"did\":\"let in again\"");
    }

    @Test
    void whatWasMendedSinceTheYesIsAskedForAnew() {
        String number = agreed();
        int before = calls();
        JsonNode view = page();
        ObjectNode action = view.get("action").deepCopy();
        ((ObjectNode) action.get("call")).put("body", "{\"why\":\"{{ input.why }}\",\"all\":true}");
        ObjectNode body = Json.mapper().createObjectNode();
        body.set("action", action);
        body.set("on", view.get("number"));
        body.put("why", "the whole pier");
        done(api.call("ines", "PUT", LANE, body.toString()));
        clear(number);
        assertThat(stall(number)).contains("'Close the lane?'").contains("the action 'Close a lane'");
        assertThat(calls()).isEqualTo(before);
        intervene(number, "ask again");
        assertThat(ask("teo", number).get("kind").asText()).isEqualTo("approval");
    }

    /** A mend of a version that is withdrawn puts it in use again: whoever mends it has looked at it. */
    @Test
    void aMendPutsItInUse() {
        done(withdraw("ines", "1", "It is slow."));
        JsonNode view = page();
        ObjectNode body = Json.mapper().createObjectNode();
        body.set("action", ((ObjectNode) view.get("action").deepCopy()).put("timeLimit", "25 s"));
        body.set("on", view.get("number"));
        body.put("why", "given more time");
        JsonNode mended = done(api.call("ines", "PUT", LANE, body.toString())).body();
        assertThat(mended.at("/action").has("withdrawn")).isFalse();
        assertThat(mended.at("/action/timeLimit").asText()).isEqualTo("25 s");
    }

    @ParameterizedTest
    @CsvSource({
        "ada, 1, It is slow., 403",
        "teo, 1, It is slow., 403",
        "ines, 1, ' ', 422",
        "ines, 7, It is slow., 404",
        "ines, 0, It is slow., 404",
        "ines, 99999999999999999999, It is slow., 404",
        "ines, one, It is slow., 404"
    })
    void whoMayNotOrDoesNotSayWhyChangesNothing(String person, String version, String why, int status) {
        String before = page().get("number").toString();
        assertThat(withdraw(person, version, why).status()).isEqualTo(status);
        assertThat(page().get("number").toString()).isEqualTo(before);
    }

    @Test
    void aWorkflowThatRunsItIsNotPublished() {
        done(withdraw("ines", "1", "It is slow."));
        JsonNode found = api.call("ines", "GET", "/api/workflows/agreed", null).body();
        assertThat(found.findValuesAsText("code")).contains("action withdrawn");
    }
}
