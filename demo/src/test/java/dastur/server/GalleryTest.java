package dastur.server;

import static org.assertj.core.api.Assertions.assertThat;

import com.fasterxml.jackson.databind.JsonNode;
import com.fasterxml.jackson.databind.node.ObjectNode;
import dastur.core.json.Json;
import dastur.server.ApiClient.Answer;
import java.util.List;
import java.util.stream.Stream;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.MethodSource;

/** The workflows that ship with the product, to begin with (O3). */
class GalleryTest extends OnDemo {
    static Stream<String> templates() {
        JsonNode all = api.call("ines", "GET", "/api/gallery", null).body();
        return all.valueStream().map(t -> t.get("key").asText()).toList().stream();
    }

    private static Answer make(String key, String from) {
        return api.call("ines", "POST", "/api/workflows", """
                {"key":"%s","name":"From the gallery","from":%s}""".formatted(key, from));
    }

    @Test
    void thereAreTenEachSaidInASentence() {
        JsonNode all = api.call("ines", "GET", "/api/gallery", null).body();
        assertThat(all).hasSize(10);
        assertThat(all.valueStream())
                .allMatch(t -> t.get("purpose").asText().length() > 40
                        && t.get("steps").asInt() > 5);
    }

    /** Whoever takes one can publish it as it is, and every way through it comes to an end. */
    @ParameterizedTest
    @MethodSource("templates")
    void eachCanBePublishedAsItIsAndComesToAnEnd(String key) {
        Answer made = make("g-" + key, """
                {"template":"%s","work":"pier-technicians","decide":"duty-managers"}""".formatted(key));
        assertThat(made.status()).as(made.raw().body()).isEqualTo(201);
        JsonNode draft = made.body().get("draft");
        assertThat(draft.get("owner").asText()).isEqualTo("ines");
        assertThat(draft.toString()).doesNotContain("WORK", "DECIDE", "OWNER");
        assertThat(made.body().get("findings").valueStream())
                .filteredOn(f -> f.get("severity").asText().equals("blocks"))
                .isEmpty();
        ObjectNode inputs = Json.mapper().createObjectNode();
        draft.get("startForm")
                .forEach(f -> inputs.put(
                        f.get("name").asText(),
                        f.get("type").asText().equals("time") ? "2026-12-01T12:00:00Z" : "something"));
        Answer explored = api.call(
                "ines", "POST", "/api/rehearsals/explore", "{\"version\":" + draft + ",\"inputs\":" + inputs + "}");
        assertThat(explored.status()).as(explored.raw().body()).isEqualTo(200);
        assertThat(explored.body().get("endings").valueStream()).isNotEmpty();
        assertThat(explored.body().get("endings").valueStream())
                .as("%s: %s", key, explored.body().get("endings"))
                .noneMatch(e -> e.path("stalls").asBoolean(false));
    }

    @Test
    void whatIsMissingOrUnknownIsSaidAndNothingIsMade() {
        for (List<String> one : List.of(
                List.of("{\"template\":\"nothing\",\"work\":\"pier-technicians\"}", "from.template"),
                List.of(
                        "{\"template\":\"access-to-something\",\"work\":\"nobody\",\"decide\":\"nobody\"}",
                        "from.work"),
                List.of("{\"template\":\"access-to-something\",\"work\":\"pier-technicians\"}", "from.decide"))) {
            Answer refused = make("g-refused", one.getFirst());
            assertThat(refused.status()).isEqualTo(422);
            assertThat(refused.body().get("where").asText()).isEqualTo(one.getLast());
        }
        assertThat(api.call("ines", "GET", "/api/workflows/g-refused", null).status())
                .isEqualTo(404);
    }
}
