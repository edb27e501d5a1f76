package dastur.server;

import static org.assertj.core.api.Assertions.assertThat;

import com.fasterxml.jackson.databind.JsonNode;
import dastur.server.ApiClient.Answer;
import java.net.http.HttpClient;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.UUID;
import org.junit.jupiter.api.BeforeAll;
import org.junit.jupiter.api.Test;

/** How every trigger stands to a signal, asked for when it is opened (I26). */
class EveryTriggerTest extends OnDemo {
    private static String token;

    @BeforeAll
    static void aSource() {
        Answer set = api.call("halvard", "PUT", "/api/sources/watchers", """
                {"name":"Watchers","open":true,"proof":"token","otherwise":"kept","neverQuiet":false,"mapping":{"rows":[
                     {"to":"sort","from":{"is":"at","pointer":"/sort"}},
                     {"to":"severity","from":{"is":"at","pointer":"/severity"}},
                     {"to":"what","from":{"is":"at","pointer":"/what"}},
                     {"to":"title","from":{"is":"at","pointer":"/what"}}]}}""");
        assertThat(set.status()).as(set.raw().body()).isEqualTo(200);
        token = api.call("halvard", "POST", "/api/sources/watchers/secrets", "{\"which\":1}")
                .body()
                .get("secret")
                .asText();
        DesignedWorkflow.publish(api, """
                workflow watched "Watched" for incident
                  owner ines
                look: ask group service-desk "Look": "Done"
                end: done "looked"
                """);
    }

    private static void trigger(String condition) {
        Answer set = api.call("ines", "PUT", "/api/workflows/watched/triggers", """
                {"triggers":[{"id":"watched-t","on":true,"services":[],"mode":"starts","condition":"%s",
                  "when":{"is":"signal comes","kind":"incident","source":"watchers","sort":"fault"}}]}""".formatted(condition));
        assertThat(set.status()).as(set.raw().body()).isLessThan(300);
    }

    private static String says(String body) {
        Answer answer = api.send(
                HttpClient.newHttpClient(),
                "POST",
                "/in/watchers",
                body,
                Map.of("Authorization", "Bearer " + token, "Content-Type", "application/json"));
        assertThat(answer.status()).as(answer.raw().body()).isEqualTo(202);
        String id = answer.body().get("signal").asText();
        until(() -> !api.call("ada", "GET", "/api/signals/" + id, null)
                .body()
                .at("/line/state")
                .asText()
                .equals("received"));
        return id;
    }

    private static JsonNode table(String id) {
        Answer answer = api.call("ada", "GET", "/api/signals/" + id + "/triggers", null);
        assertThat(answer.status()).as(answer.raw().body()).isEqualTo(200);
        return answer.body();
    }

    private static JsonNode watched(JsonNode table) {
        for (JsonNode look : table.get("looks")) {
            if (look.get("trigger").asText().equals("watched-t")) {
                return look;
            }
        }
        throw new AssertionError("not told of: " + table);
    }

    @Test
    void everyOneIsToldOfAndWhatWouldBeOtherwiseNowIsSaid() {
        trigger("signal.severity == 'critical'");
        String id = says("{\"sort\":\"fault\",\"severity\":\"major\",\"what\":\"" + UUID.randomUUID() + "\"}");
        JsonNode then = table(id);
        assertThat(watched(then).get("started").asBoolean()).isFalse();
        assertThat(watched(then).get("why").asText()).isEqualTo("its condition does not hold");
        assertThat(watched(then).at("/condition/clauses/0/verdict").asText()).isEqualTo("false");
        assertThat(then.get("differs")).isEmpty();
        List<String> others = new ArrayList<>(then.get("looks").findValuesAsText("why"));
        assertThat(others).contains("it listens to another source").hasSizeGreaterThan(1);

        trigger("signal.severity == 'major'");
        JsonNode now = table(id);
        assertThat(watched(now).get("started").asBoolean()).isTrue();
        assertThat(now.get("differs").findValuesAsText("")).isEmpty();
        assertThat(now.get("differs").toString()).isEqualTo("[\"Watched\"]");
        assertThat(api.call("ada", "GET", "/api/signals/" + id, null)
                        .body()
                        .at("/line/ticket")
                        .isMissingNode())
                .as("asking starts nothing")
                .isTrue();
    }

    @Test
    void whatWasNotUnderstoodOrIsNotThereHasNoTable() {
        String id = says("{\"sort\":\"never heard of\",\"what\":\"x\"}");
        assertThat(api.call("ada", "GET", "/api/signals/" + id + "/triggers", null)
                        .status())
                .isEqualTo(409);
        assertThat(api.call("ada", "GET", "/api/signals/nothing/triggers", null).status())
                .isEqualTo(404);
        assertThat(api.call("mira", "GET", "/api/signals/" + id + "/triggers", null)
                        .status())
                .isEqualTo(403);
    }
}
