package dastur.server;

import static org.assertj.core.api.Assertions.assertThat;

import com.fasterxml.jackson.databind.JsonNode;
import dastur.server.ApiClient.Answer;
import dastur.standins.Faults;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.concurrent.ExecutorService;
import java.util.concurrent.Executors;
import java.util.concurrent.Future;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;

/** Reading by hand on a ticket (I13): who may, what may be read, and that what was said, or could not be, stands on the record. */
class HandReadingTest extends OnDemo {
    private static final String LOOK = "{\"action\":\"board.look\",\"inputs\":{\"board\":\"ALD-07\"}}";

    private static String raised() {
        return api.call("ada", "POST", "/api/tickets", """
                        {"kind":"incident","fields":{"title":"Is it dark?","ci":"ALD-07","requester":"mira","impact":3,"urgency":3}}""").body().get("ticket").asText();
    }

    private static Answer read(String person, String ticket, String body) {
        return api.call(person, "POST", "/api/tickets/" + ticket + "/readings", body);
    }

    /** Entries of readings, the oldest first. */
    private static List<JsonNode> readings(String ticket) {
        List<JsonNode> found = new ArrayList<>();
        for (JsonNode e : api.call("ada", "GET", "/api/tickets/" + ticket + "/record", null)
                .body()
                .get("entries")) {
            if (e.get("kind").asText().equals("readByHand")) {
                found.add(e);
            }
        }
        return found;
    }

    private static Answer let(String person, String action, boolean allowed) {
        return api.call(person, "PUT", "/api/actions/" + action + "/by-hand", "{\"allowed\":" + allowed + "}");
    }

    @AfterEach
    void well() {
        api.app().standins().faults().set("kiosks", Faults.Fault.NONE);
        let("ines", "kiosk.heard", true);
    }

    @Test
    void whatIsReadStandsOnTheRecordWithWhoAsked() {
        String ticket = raised();
        Answer kept = read("runa", ticket, LOOK);
        assertThat(kept.status()).as(kept.raw().body()).isEqualTo(200);
        assertThat(kept.body().at("/outputs/Picture").asText()).isEqualTo("moves");
        JsonNode entry = readings(ticket).getFirst();
        assertThat(kept.body().get("seq")).isEqualTo(entry.get("seq"));
        assertThat(entry.at("/body/read").asBoolean()).isTrue();
        assertThat(entry.at("/content/inputs/Board").asText()).isEqualTo("ALD-07");
        assertThat(entry.at("/content/outputs/Picture").asText()).isEqualTo("moves");
        assertThat(entry.toString()).contains("runa");
        assertThat(api.call("ada", "GET", "/api/readings", null).body().findValuesAsText("key"))
                .contains("board.look", "kiosk.heard")
                .doesNotContain("board.restart", "kiosk.fares");
    }

    @Test
    void whatCouldNotBeReadIsSaidAndNotTurnedIntoNothing() {
        String ticket = raised();
        api.app().standins().faults().set("kiosks", Faults.Fault.DOWN);
        Answer kept = read("runa", ticket, "{\"action\":\"kiosk.heard\",\"inputs\":{}}");
        assertThat(kept.status()).as(kept.raw().body()).isEqualTo(200);
        assertThat(kept.body().get("read").asBoolean()).isFalse();
        assertThat(kept.body().get("why").asText()).isNotBlank();
        JsonNode entry = readings(ticket).getFirst();
        assertThat(entry.at("/body/read").asBoolean()).isFalse();
        assertThat(entry.at("/content/why").asText()).isNotBlank();
        assertThat(entry.at("/content/outputs").isEmpty()).isTrue();
    }

    @ParameterizedTest
    @CsvSource(delimiter = '|', textBlock = """
            board.restart | {'board':'ALD-07'}             | action
            kiosk.fares   | {}                             | action
            nothing       | {}                             | action
            board.look    | {}                             | inputs.board
            board.look    | {'board':'ALD-07','more':'x'}  | inputs.more
            """)
    void whatIsNotLetOrDoesNotFitIsRefusedAndNothingIsAsked(String action, String inputs, String where) {
        String ticket = raised();
        Answer refused =
                read("runa", ticket, "{\"action\":\"" + action + "\",\"inputs\":" + inputs.replace('\'', '"') + "}");
        assertThat(refused.status()).as(refused.raw().body()).isEqualTo(422);
        assertThat(refused.where()).isEqualTo(where);
        assertThat(readings(ticket)).isEmpty();
    }

    @Test
    void onlyThoseWhoWorkOnTicketsReadAndOnlyThoseWhoDesignLet() {
        String ticket = raised();
        assertThat(read("mira", ticket, LOOK).status()).isEqualTo(403);
        assertThat(api.call("mira", "GET", "/api/readings", null).status()).isEqualTo(403);
        assertThat(let("runa", "kiosk.fares", true).status()).isEqualTo(403);
        assertThat(let("ines", "board.restart", true).status()).isEqualTo(409);
        assertThat(let("ines", "kiosk.heard", false).status()).isEqualTo(200);
        assertThat(read("runa", ticket, "{\"action\":\"kiosk.heard\",\"inputs\":{}}")
                        .where())
                .isEqualTo("action");
        assertThat(api.call("halvard", "GET", "/api/journal", null).raw().body())
                .contains("hand reading");
        assertThat(read("runa", "I-9999", LOOK).status()).isEqualTo(404);
    }

    @Test
    void sentTwiceItSaysWhatStandsOnTheRecord() {
        String ticket = raised();
        String path = "/api/tickets/" + ticket + "/readings";
        String heard = "{\"action\":\"kiosk.heard\",\"inputs\":{}}";
        Map<String, String> same = Map.of("Idempotency-Key", "once-" + ticket);
        Answer first = api.call("runa", "POST", path, heard, same);
        api.app().standins().kiosks().fallSilent(true);
        Answer again = api.call("runa", "POST", path, heard, same);
        api.app().standins().kiosks().fallSilent(false);
        assertThat(again.body()).isEqualTo(first.body());
        assertThat(readings(ticket)).hasSize(1);
    }

    @Test
    void manyAtOnceEachStandOnTheRecordOnce() throws Exception {
        String ticket = raised();
        try (ExecutorService people = Executors.newVirtualThreadPerTaskExecutor()) {
            List<Future<Answer>> all = new ArrayList<>();
            for (int i = 0; i < 6; i++) {
                String person = i % 2 == 0 ? "runa" : "ada";
                api.as(person);
                all.add(people.submit(() -> read(person, ticket, LOOK)));
            }
            for (Future<Answer> one : all) {
                assertThat(one.get().status()).isEqualTo(200);
            }
        }
        assertThat(readings(ticket)).hasSize(6);
    }
}
