package dastur.server;

import static org.assertj.core.api.Assertions.assertThat;

import com.fasterxml.jackson.databind.JsonNode;
import org.junit.jupiter.api.Test;

/** A ticket as it stood after any of its entries (O10). */
class AsItStoodTest extends OnDemo {
    private static JsonNode get(String path) {
        ApiClient.Answer answer = api.call("ada", "GET", path, null);
        assertThat(answer.status()).as(answer.raw().body()).isEqualTo(200);
        return answer.body();
    }

    private static JsonNode then(String number, long seq) {
        return get("/api/tickets/" + number + "/then/" + seq);
    }

    /** After its last entry it stands as it stands; after its first nothing has begun; each moment in between is that of its entry. */
    @Test
    void everyMomentIsTheFoldOfItsEntries() {
        String number = "I-1045";
        JsonNode now = get("/api/tickets/" + number);
        JsonNode record = get("/api/tickets/" + number + "/record").get("entries");
        for (JsonNode entry : record) {
            assertThat(then(number, entry.get("seq").asLong()).get("at")).isEqualTo(entry.get("at"));
        }
        JsonNode last = then(number, now.get("seq").asLong());
        assertThat(last.get("state")).isEqualTo(now.get("state"));
        assertThat(last.get("fields").get("priority"))
                .isEqualTo(now.get("fields").get("priority"));
        assertThat(last.get("runs")).isEqualTo(now.get("runs"));
        assertThat(last.get("asked").findValuesAsText("name")).contains("Close the lane?");

        JsonNode first = then(number, 1);
        assertThat(first.get("runs")).isEmpty();
        assertThat(first.get("asked")).isEmpty();
        assertThat(first.get("state").asText()).isEqualTo("logged");
        long offered = record.valueStream()
                .filter(e -> e.get("kind").asText().equals("taskOffered"))
                .findFirst()
                .orElseThrow()
                .get("seq")
                .asLong();
        assertThat(then(number, offered).get("asked").findValuesAsText("name")).containsExactly("Look at the gate");
    }

    @Test
    void whatIsNotOnTheRecordOrNotTheirsToReadIsRefused() {
        for (String seq : new String[] {"0", "-1", "99999", "now"}) {
            assertThat(api.call("ada", "GET", "/api/tickets/I-1045/then/" + seq, null)
                            .status())
                    .as(seq)
                    .isIn(404, 422);
        }
        assertThat(api.call("mira", "GET", "/api/tickets/I-1045/then/1", null).status())
                .isEqualTo(403);
    }
}
