package dastur.server;

import static org.assertj.core.api.Assertions.assertThat;

import com.fasterxml.jackson.databind.JsonNode;
import com.fasterxml.jackson.databind.node.ObjectNode;
import dastur.server.ApiClient.Answer;
import java.net.http.HttpClient;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import org.junit.jupiter.api.Test;

/** A sender that has died says nothing: after a while that is a fault like any other, and over when something comes (I2). */
class SilenceTest extends OnDemo {
    private static final String SOURCE = "/api/sources/gate-log";

    private static Answer set(Object minutes) {
        ObjectNode body = (ObjectNode) source().get("source").deepCopy();
        body.remove("key");
        body.putPOJO("silentAfterMinutes", minutes);
        return api.call("halvard", "PUT", SOURCE, body.toString());
    }

    private static JsonNode source() {
        return api.call("ada", "GET", SOURCE, null).body();
    }

    private static void pass(int minutes) {
        assertThat(api.call("ada", "POST", "/api/demo/clock", "{\"minutes\":" + minutes + "}")
                        .status())
                .isLessThan(300);
    }

    private static boolean silent() {
        return source().at("/line/silentSince").isTextual();
    }

    /** What was said of it, the newest first. */
    private static List<String> said() {
        List<String> said = new ArrayList<>();
        for (JsonNode line : api.call("ada", "GET", "/api/signals?source=gate-log", null)
                .body()
                .get("lines")) {
            if (line.path("matter").asText().equals("silence of gate-log")) {
                said.add(line.get("sort").asText());
            }
        }
        return said;
    }

    private static void send() {
        Answer token = api.call("halvard", "POST", SOURCE + "/secrets", "{\"which\":1}");
        Map<String, String> headers = Map.of(
                "Authorization", "Bearer " + token.body().get("secret").asText(), "Content-Type", "application/json");
        Answer sent =
                api.send(HttpClient.newHttpClient(), "POST", "/in/gate-log", "{\"text\":\"all is well\"}", headers);
        assertThat(sent.status()).as(sent.raw().body()).isEqualTo(202);
    }

    @Test
    void isToldOpensAnIncidentAndIsOverWhenSomethingComes() {
        ObjectNode byToken = (ObjectNode) source().get("source").deepCopy();
        byToken.remove("key");
        byToken.remove("from");
        assertThat(api.call(
                                "halvard",
                                "PUT",
                                SOURCE,
                                byToken.put("proof", "token").toString())
                        .status())
                .isEqualTo(200);

        for (int wrong : new int[] {4, 20_161, -1}) {
            assertThat(set(wrong).where()).isEqualTo("silentAfterMinutes");
        }
        assertThat(set("soon").status()).isEqualTo(400);
        assertThat(source().at("/source/silentAfterMinutes").asInt()).isEqualTo(24 * 60);
        assertThat(set(120).status()).isEqualTo(200);

        send();
        until(() -> source().at("/line/day").asInt() > 0);
        pass(110);
        pass(1);
        assertThat(silent()).isFalse();
        pass(15);
        until(SilenceTest::silent);
        // Nobody is told twice of one silence.
        pass(30);
        pass(30);
        JsonNode matter = null;
        for (JsonNode one : api.call("ada", "GET", "/api/matters", null).body().get("matters")) {
            matter = one.get("key").asText().equals("silence of gate-log") ? one : matter;
        }
        assertThat(matter).isNotNull();
        assertThat(matter.get("count").asInt()).isEqualTo(1);
        JsonNode incident = ticket("ada", matter.get("ticket").asText());
        assertThat(incident.at("/fields/title").asText()).isEqualTo("Nothing comes from Gates, by syslog");
        assertThat(incident.at("/fields/group").asText()).isEqualTo("service-desk");

        send();
        pass(1);
        until(() -> !silent());
        assertThat(said()).containsExactly("recovered", "fault");

        // Silent again, and then shut: nobody is there to hear, so nothing is silent.
        pass(130);
        until(SilenceTest::silent);
        ObjectNode shut = (ObjectNode) source().get("source").deepCopy();
        shut.remove("key");
        assertThat(api.call("halvard", "PUT", SOURCE, shut.put("open", false).toString())
                        .status())
                .isEqualTo(200);
        pass(1);
        until(() -> !silent());
        assertThat(said()).containsExactly("recovered", "fault", "recovered", "fault");
    }
}
