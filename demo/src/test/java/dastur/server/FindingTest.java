package dastur.server;

import static org.assertj.core.api.Assertions.assertThat;

import com.fasterxml.jackson.databind.JsonNode;
import dastur.core.json.Json;
import dastur.server.ApiClient.Answer;
import java.net.URLEncoder;
import java.nio.charset.StandardCharsets;
import java.util.List;
import java.util.Map;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;

/** Finding tickets by words of their record, narrowing down, saved views, further lists, known answers. */
class FindingTest extends OnDemo {
    private static String raise(String title, String description) {
        return api.call(
                        "ada",
                        "POST",
                        "/api/tickets",
                        Json.write(Map.of(
                                "kind",
                                "request",
                                "fields",
                                Map.of(
                                        "title",
                                        title,
                                        "description",
                                        description,
                                        "requester",
                                        "mira",
                                        "impact",
                                        4,
                                        "urgency",
                                        4))))
                .body()
                .get("ticket")
                .asText();
    }

    private static List<String> found(String person, String text, String more) {
        return api.call(
                        person,
                        "GET",
                        "/api/tickets?text=" + URLEncoder.encode(text, StandardCharsets.UTF_8) + more,
                        null)
                .body()
                .get("items")
                .findValuesAsText("number");
    }

    @Test
    void ticketsAreFoundByWordsOfTheirRecordWhereverTheyStand() {
        String number = raise("A quay lamp flickers", "Seen near the ferry ramp at dusk");
        assertThat(found("ada", "flickers dusk", "")).containsExactly(number);
        assertThat(found("ada", "RAMP flick", "")).containsExactly(number);
        assertThat(found("ada", "flickers submarine", "")).isEmpty();
        api.call(
                "ada",
                "POST",
                "/api/tickets/" + number + "/notes",
                "{\"text\":\"Ballast replaced, spare 4711\",\"toRequester\":false}");
        assertThat(found("ada", "4711", "&open=true")).containsExactly(number);
        assertThat(found("ada", number.toLowerCase(), "")).containsExactly(number);
        assertThat(found("ada", "4711", "&kind=incident")).isEmpty();
        assertThat(found("ada", "' or 1=1", "")).isEmpty();
        assertThat(found("ada", "%", "")).isEmpty();
    }

    @Test
    void whatWasTakenOffTheRecordIsNotFoundAnyMore() {
        String number = raise("Lost badge", "nothing");
        api.call(
                "ada",
                "POST",
                "/api/tickets/" + number + "/notes",
                "{\"text\":\"Her phone is zebrafish-7\",\"toRequester\":false}");
        assertThat(found("ada", "zebrafish", "")).containsExactly(number);
        JsonNode entries = api.call("ada", "GET", "/api/tickets/" + number + "/record", null)
                .body()
                .get("entries");
        long seq = 0;
        for (JsonNode e : entries) {
            seq = e.get("kind").asText().equals("noteAdded") ? e.get("seq").asLong() : seq;
        }
        assertThat(api.call(
                                "halvard",
                                "POST",
                                "/api/tickets/" + number + "/record/" + seq + "/redaction",
                                "{\"reason\":\"private\"}")
                        .status())
                .isEqualTo(200);
        assertThat(found("ada", "zebrafish", "")).isEmpty();
    }

    @Test
    void aRequesterFindsTheirOwnByTitleAndLearnsNothingFromInternalNotes() {
        String number = raise("A bench is wet", "rain");
        api.call(
                "ada",
                "POST",
                "/api/tickets/" + number + "/notes",
                "{\"text\":\"She complains a lot\",\"toRequester\":false}");
        assertThat(found("mira", "bench", "")).containsExactly(number);
        assertThat(found("mira", "complains", "")).isEmpty();
        assertThat(kinds("mira")).as("only of what they may see").isPositive().isLessThan(kinds("ada"));
    }

    private static long kinds(String person) {
        long sum = 0;
        for (JsonNode f : api.call(person, "GET", "/api/facets", null).body()) {
            sum += f.get("field").asText().equals("kind") ? f.get("count").asLong() : 0;
        }
        return sum;
    }

    @Test
    void facetsCountWhatTheListHolds() {
        raise("For the facets", "x");
        JsonNode facets = api.call("ada", "GET", "/api/facets?open=true&kind=request", null)
                .body();
        long kinds = 0;
        for (JsonNode f : facets) {
            if (f.get("field").asText().equals("kind")) {
                assertThat(f.get("value").asText()).isEqualTo("request");
                kinds = f.get("count").asLong();
            }
        }
        assertThat(kinds)
                .isEqualTo(api.call("ada", "GET", "/api/tickets?open=true&kind=request", null)
                        .body()
                        .get("items")
                        .size());
    }

    @Test
    void aViewIsSavedSharedAndDeletedByItsOwnerOnly() {
        String body = "{\"name\":\"Burning\",\"query\":\"open=true&priority=P1\",\"shared\":true}";
        Answer saved = api.call("ada", "POST", "/api/views", body);
        assertThat(saved.status()).isEqualTo(201);
        String id = saved.body().get("id").asText();
        assertThat(api.call("runa", "GET", "/api/views", null).body().findValuesAsText("name"))
                .contains("Burning");
        assertThat(api.call("runa", "DELETE", "/api/views/" + id, null).status())
                .isEqualTo(404);
        assertThat(api.call("ada", "DELETE", "/api/views/" + id, null).status()).isEqualTo(204);
        assertThat(api.call("ada", "POST", "/api/views", "{\"name\":\"\",\"query\":\"\",\"shared\":false}")
                        .status())
                .isEqualTo(422);
        assertThat(api.call("ada", "POST", "/api/views", "{\"name\":\"x\",\"query\":\"<script>\",\"shared\":false}")
                        .status())
                .isEqualTo(422);
    }

    @Test
    void theDeskTellsWhatOthersHaveToDoAndWhatIDid() {
        String number = api.call("ada", "POST", "/api/tickets", """
                        {"kind":"incident","fields":{"title":"Gate stands open","ci":"ALD-G4","requester":"ada",
                        "impact":2,"urgency":2,"group":"pier-technicians"}}""")
                .body()
                .get("ticket")
                .asText();
        JsonNode further = api.call("ada", "GET", "/api/desk/further", null).body();
        assertThat(further.get("waiting").findValuesAsText("ticket")).contains(number);
        String task = api.call("runa", "GET", "/api/tickets/" + number, null)
                .body()
                .get("asks")
                .get(0)
                .get("visit")
                .asText();
        api.call("runa", "POST", "/api/tasks/" + task + "/complete", "{\"outcome\":\"Cleared on the spot\"}");
        assertThat(api.call("runa", "GET", "/api/desk/further", null)
                        .body()
                        .get("done")
                        .get(0)
                        .get("visit")
                        .asText())
                .isEqualTo(task);
    }

    @ParameterizedTest
    @CsvSource(delimiter = '|', textBlock = """
            the printer in the crew room prints nothing | printer-crew
            guests cannot get onto the Wi-Fi            | wifi-guest
            my roster shows no shifts next week         | roster-missing
            a gate at Alder Pier stands open            |
            help                                        |
            """)
    void aKnownAnswerIsOfferedOnlyWhenItFitsWell(String text, String id) {
        JsonNode fits = api.call(
                        "mira",
                        "GET",
                        "/api/known-answers/fitting?text=" + URLEncoder.encode(text, StandardCharsets.UTF_8),
                        null)
                .body();
        if (id == null) {
            assertThat(fits).isEmpty();
        } else {
            assertThat(fits.get(0).get("answer").get("id").asText()).isEqualTo(id);
        }
    }

    @Test
    void anAnswerIsKeptCountedAndNoLongerOfferedWhenItsTimeIsOver() {
        String path = "/api/known-answers/mooring";
        String body =
                "{\"question\":\"Which mooring colour means closed?\",\"answer\":\"Red.\",\"source\":\"Harbour\"%s}";
        assertThat(api.call("mira", "PUT", path, body.formatted("")).status()).isEqualTo(403);
        assertThat(api.call("ada", "PUT", path, "{\"question\":\"\",\"answer\":\"x\",\"source\":\"x\"}")
                        .status())
                .isEqualTo(422);
        assertThat(api.call("ada", "PUT", path, body.formatted("")).status()).isEqualTo(204);
        assertThat(api.call("mira", "POST", path + "/helped", null).status()).isEqualTo(204);
        String asked = "/api/known-answers/fitting?text=which+mooring+colour+is+closed";
        assertThat(api.call("mira", "GET", asked, null)
                        .body()
                        .get(0)
                        .get("answer")
                        .get("helped")
                        .asInt())
                .isEqualTo(1);
        api.call("ada", "PUT", path, body.formatted(",\"validUntil\":\"2020-01-01\""));
        assertThat(api.call("mira", "GET", asked, null).body()).isEmpty();
        assertThat(api.call("ada", "DELETE", path, null).status()).isEqualTo(204);
        assertThat(api.call("ada", "DELETE", path, null).status()).isEqualTo(404);
    }

    @Test
    void severalTicketsAreGivenToSomebodyAtOnceAndEachSaysWhatBecameOfIt() {
        String one = raised("Bulk one");
        String two = raised("Bulk two");
        String body = "{\"tickets\":[\"" + one + "\",\"" + two
                + "\",\"I-999999\"],\"fields\":{\"group\":\"network-radio\"}," + "\"note\":\"All of one kind.\"}";
        assertThat(api.call("mira", "POST", "/api/bulk", body).status()).isEqualTo(403);
        var answer = api.call("ada", "POST", "/api/bulk", body);
        assertThat(answer.status()).isEqualTo(200);
        assertThat(answer.body().get("done").get(0).has("problem")).isFalse();
        assertThat(answer.body().get("done").get(2).get("problem").asText()).contains("There is no ticket");
        for (String number : java.util.List.of(one, two)) {
            var seen = api.call("ada", "GET", "/api/tickets/" + number, null).body();
            assertThat(seen.get("fields").get("group").asText()).isEqualTo("network-radio");
        }
        var unsafe = api.call("ada", "POST", "/api/bulk", """
                {"tickets":["%s"],"fields":{"state":"closed"}}""".formatted(one));
        assertThat(unsafe.status()).isEqualTo(422);
        assertThat(unsafe.body().get("where").asText()).isEqualTo("fields.state");
        assertThat(api.call("ada", "POST", "/api/bulk", "{\"tickets\":[]}").status())
                .isEqualTo(422);
    }

    private static String raised(String title) {
        return api.call("ada", "POST", "/api/tickets", """
                        {"kind":"incident","fields":{"title":"%s","requester":"mira"}}""".formatted(title))
                .body()
                .get("ticket")
                .asText();
    }
}
