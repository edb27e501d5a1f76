package dastur.server;

import static org.assertj.core.api.Assertions.assertThat;

import com.fasterxml.jackson.databind.JsonNode;
import com.fasterxml.jackson.databind.node.ObjectNode;
import dastur.server.ApiClient.Answer;
import dastur.server.machines.Trials;
import dastur.standins.Faults;
import dastur.store.ActionTries.Try;
import java.time.Duration;
import java.time.Instant;
import java.util.List;
import java.util.Map;
import java.util.UUID;
import java.util.concurrent.CompletableFuture;
import java.util.concurrent.locks.LockSupport;
import java.util.function.Supplier;
import java.util.stream.IntStream;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;

/** An action's page, attacked: what is tried dry sends nothing, in earnest once, and nobody gets another action than they think (M1–M3). */
class ActionPageTest extends OnDemo {
    private static final String LANE = "/api/actions/lane.close";

    private static JsonNode page(String path) {
        return api.call("ines", "GET", path, null).body();
    }

    private static Answer begin(String person, String path, String id, String inputs, String why) {
        return api.call(person, "PUT", path + "/tries/" + id, "{\"inputs\":" + inputs + ",\"why\":" + why + "}");
    }

    private static JsonNode over(String path, String id) {
        return until(() -> {
            JsonNode tried = page(path + "/tries/" + id).get("tried");
            return tried.get("said").asText().equals("under way") ? null : tried;
        });
    }

    private static <T> T until(Supplier<T> so) {
        Instant end = Instant.now().plus(Duration.ofSeconds(60));
        for (T found = so.get(); ; found = so.get()) {
            if (found != null) {
                return found;
            }
            assertThat(Instant.now()).as("it never came to be so").isBefore(end);
            LockSupport.parkNanos(20_000_000);
        }
    }

    private static String set(JsonNode view, ObjectNode action, String why) {
        ObjectNode body = dastur.core.json.Json.mapper().createObjectNode();
        body.set("action", action);
        body.set("on", view.get("number"));
        body.put("why", why);
        return body.toString();
    }

    @AfterEach
    void allWell() {
        api.app().standins().faults().set("lanes", Faults.Fault.NONE);
    }

    @Test
    void dryShowsWhatWouldBeSentAndSendsNothing() {
        int calls = api.app().standins().lanes().calls();
        Answer answer = api.call(
                "ines", "POST", LANE + "/dry", "{\"inputs\":{\"gate\":\"ALD-G1\",\"why\":\"a \\\"b\\\"\\nc\"}}");
        assertThat(answer.body().get("text").asText())
                .contains("POST ")
                .contains("/lanes/ALD-G1/close")
                .contains("{\"why\":\"a \\\"b\\\"\\nc\"}")
                .contains("signed in with the secret standins")
                .doesNotContain(secret());
        assertThat(api.app().standins().lanes().calls()).isEqualTo(calls);
        assertThat(page(LANE).get("tries").findValuesAsText("sent")).noneMatch(s -> s.contains("a \\\"b"));
    }

    /** M4: what an input may be holds for whoever gives it, also where it is only tried; a limit that fits no input is not saved. */
    @Test
    void aValueBeyondItsLimitIsNotEvenTried() {
        String enrol = "/api/actions/kiosk.enrol";
        assertThat(page(enrol).at("/action/limits/kiosk/kinds/0").asText()).isEqualTo("kiosk");
        assertThat(api.call("ines", "POST", enrol + "/dry", "{\"inputs\":{\"kiosk\":\"kiosk-03\"}}")
                        .status())
                .isEqualTo(200);
        for (String other : List.of("ALD-G1", "kiosk-99", "../../lanes/ALD-G1/close")) {
            Answer refused = api.call("ines", "POST", enrol + "/dry", "{\"inputs\":{\"kiosk\":\"" + other + "\"}}");
            assertThat(refused.status()).as(other).isEqualTo(422);
            assertThat(refused.body().get("where").asText()).isEqualTo("inputs.kiosk");
            Answer begun =
                    begin("ines", enrol, UUID.randomUUID().toString(), "{\"kiosk\":\"" + other + "\"}", "\"to see\"");
            assertThat(begun.status()).as(other).isEqualTo(422);
        }
        JsonNode view = page(enrol);
        ObjectNode action = view.get("action").deepCopy();
        action.putObject("limits").putObject("kiosk").put("least", 3);
        Answer saved = api.call("ines", "PUT", enrol, set(view, action, "to see"));
        assertThat(saved.status()).isEqualTo(422);
        assertThat(saved.raw().body()).contains("limits.kiosk").contains("no number");
        assertThat(page(enrol).get("number")).isEqualTo(view.get("number"));
    }

    private static String secret() {
        return api.app().app().design().secrets().find("standins").orElseThrow();
    }

    @Test
    void inEarnestItIsSentOnceHoweverOftenItIsAskedFor() {
        String id = UUID.randomUUID().toString();
        int before = api.app().standins().lanes().calls();
        page(LANE);
        List<CompletableFuture<Answer>> asked = IntStream.range(0, 6)
                .mapToObj(i -> CompletableFuture.supplyAsync(() ->
                        begin("ines", LANE, id, "{\"gate\":\"BRK-G1\",\"why\":\"a try\"}", "\"before the season\"")))
                .toList();
        asked.forEach(a -> assertThat(a.join().status()).isEqualTo(200));
        JsonNode tried = over(LANE, id);
        assertThat(tried.get("said").asText()).isEqualTo("ok");
        assertThat(tried.at("/gave/lock").asText()).startsWith("L-");
        assertThat(tried.get("answer").asText()).contains("\"lane\":\"BRK-G1\"");
        assertThat(tried.toString()).doesNotContain(secret());
        assertThat(api.app().standins().lanes().calls()).isEqualTo(before + 1);
        assertThat(api.call("halvard", "GET", "/api/journal", null).raw().body())
                .containsOnlyOnce("over Lane controller: before the season");
        assertThat(page(LANE).at("/tries/0/id").asText()).isEqualTo(id);
    }

    @Test
    void whatNobodyKnowsIsUnsureAndWhatWasRefusedFailed() {
        api.app().standins().faults().set("lanes", Faults.Fault.LOSES_ANSWERS);
        String lost = UUID.randomUUID().toString();
        begin("ines", LANE, lost, "{\"gate\":\"BRK-G2\"}", "\"to see\"");
        assertThat(over(LANE, lost).get("said").asText()).isEqualTo("unsure");
        api.app().standins().faults().set("lanes", Faults.Fault.DOWN);
        String down = UUID.randomUUID().toString();
        begin("ines", LANE, down, "{\"gate\":\"BRK-G2\"}", "\"to see\"");
        JsonNode refused = over(LANE, down);
        assertThat(refused.get("said").asText()).isEqualTo("failed");
        assertThat(refused.get("why").asText()).isNotBlank();
    }

    @Test
    void oneThatWasCutOffIsUnsureOnceNobodyWaitsForIt() {
        Instant begun = Instant.parse("2026-03-02T10:00:00Z");
        Try cut = new Try(
                "a",
                new dastur.core.workflow.ActionKey("lane.close"),
                begun,
                begun.plusSeconds(50),
                new dastur.core.people.PersonId("ines"),
                Map.of(),
                "POST",
                Try.UNDER_WAY,
                null,
                null,
                null,
                null);
        assertThat(Trials.asOf(cut, begun.plusSeconds(49)).said()).isEqualTo(Try.UNDER_WAY);
        assertThat(Trials.asOf(cut, begun.plusSeconds(51)).said()).isEqualTo(Try.UNSURE);
    }

    @ParameterizedTest
    @CsvSource(
            delimiter = '|',
            quoteCharacter = '~',
            value = {
                "{}                                   | inputs.gate",
                "{\"gate\":7}                         | inputs.gate",
                "{\"gate\":\"ALD-G1\",\"colour\":1}   | inputs.colour",
            })
    void inputsThatDoNotFitAreRefusedAndNothingIsSent(String inputs, String where) {
        int calls = api.app().standins().lanes().calls();
        Answer answer = begin("ines", LANE, UUID.randomUUID().toString(), inputs, "\"to see\"");
        assertThat(answer.status()).isEqualTo(422);
        assertThat(answer.body().get("where").asText()).isEqualTo(where);
        assertThat(api.app().standins().lanes().calls()).isEqualTo(calls);
    }

    @Test
    void whatChangesTheWorldIsTriedWithAReasonAndOnlyByThoseWhoDesign() {
        String id = UUID.randomUUID().toString();
        String gate = "{\"gate\":\"ALD-G1\"}";
        assertThat(begin("ines", LANE, id, gate, "null").body().get("where").asText())
                .isEqualTo("why");
        assertThat(begin("runa", LANE, id, gate, "\"to see\"").status()).isEqualTo(403);
        assertThat(begin("ines", LANE, "../x", gate, "\"to see\"").status()).isBetween(400, 422);
        assertThat(api.call("runa", "GET", LANE, null).body().get("tries"))
                .as("what was answered")
                .isEmpty();
        assertThat(api.call("runa", "GET", LANE + "/tries/" + id, null).status())
                .isEqualTo(403);
    }

    @Test
    void aMendIsSaidWhyAndOneOnSomethingOlderIsRefused() {
        String key = page("/api/automation").at("/uses").fieldNames().next();
        JsonNode view = page("/api/actions/" + key);
        ObjectNode action = view.get("action").deepCopy();
        action.put("timeLimit", "25 s");
        Answer without = api.call("ines", "PUT", "/api/actions/" + key, set(view, action, ""));
        assertThat(without.body().get("where").asText()).isEqualTo("why");
        Answer mended = api.call("ines", "PUT", "/api/actions/" + key, set(view, action, "it is slow at night"));
        assertThat(mended.status()).as(mended.raw().body()).isEqualTo(200);
        assertThat(mended.body().at("/number/mend").asInt())
                .isEqualTo(view.at("/number/mend").asInt() + 1);
        action.put("timeLimit", "26 s");
        assertThat(api.call("ines", "PUT", "/api/actions/" + key, set(view, action, "again"))
                        .status())
                .isEqualTo(409);
        JsonNode checked = api.call("ines", "POST", "/api/actions/" + key + "/checks", action.toString())
                .body();
        assertThat(checked.get("mends").asBoolean()).isTrue();
        assertThat(checked.get("users")).isNotEmpty();
        action.put("repeat", action.get("repeat").asText().equals("never") ? "free" : "never");
        assertThat(api.call("ines", "POST", "/api/actions/" + key + "/checks", action.toString())
                        .body()
                        .at("/becomes/version")
                        .asInt())
                .as("other terms are another version")
                .isEqualTo(view.at("/number/version").asInt() + 1);
    }

    @Test
    void whatIsWrongIsSaidWithItsPlaceAndIsNotSaved() {
        JsonNode view = page(LANE);
        ObjectNode action = view.get("action").deepCopy();
        ((ObjectNode) action.get("call")).put("body", "{\"why\":{{ input.why }}}");
        JsonNode checked =
                api.call("ines", "POST", LANE + "/checks", action.toString()).body();
        assertThat(checked.get("findings").findValuesAsText("field")).contains("call.body");
        Answer refused = api.call("ines", "PUT", LANE, set(view, action, "to see"));
        assertThat(refused.status()).isEqualTo(422);
        assertThat(refused.body().get("where").asText()).isEqualTo("call.body");
        assertThat(page(LANE).get("number")).isEqualTo(view.get("number"));
    }

    @Test
    void whatTheDemoShipsHasNothingWrong() {
        for (JsonNode action : page("/api/automation").get("actions")) {
            assertThat(page("/api/actions/" + action.get("key").asText()).get("findings"))
                    .as(action.get("key").asText())
                    .isEmpty();
        }
    }

    @Test
    void aCallOfAWorkflowIsHeardWhileItGoesOnAndIsCounted() {
        String enrolments = "/figures/kiosk.enrol/calls";
        long before = page("/api/automation").at(enrolments).asLong();
        JsonNode approval = ask("teo", "C-309").get("approval");
        Answer vote = api.call(
                "teo",
                "POST",
                "/api/approvals/" + ask("teo", "C-309").get("visit").asText() + "/vote",
                dastur.core.json.Json.write(Map.of(
                        "approve", true,
                        "round", approval.get("round").asLong(),
                        "digest", approval.get("digest").asText())));
        assertThat(vote.status()).as(vote.raw().body()).isEqualTo(200);
        String call = until(() -> IntStream.rangeClosed(1, 9)
                .mapToObj(i -> "/api/tickets/C-309/calls/C-309.1." + i + "/1")
                .filter(path -> page(path).get("text").asText().contains("\"enrolling\""))
                .findFirst()
                .orElse(null));
        JsonNode first = page(call);
        assertThat(first.get("text").asText())
                .contains("POST ")
                .contains("/enrol → 20")
                .doesNotContain(secret());
        assertThat(page(call + "?from=" + first.get("next").asInt()).get("text").asText())
                .doesNotContain("/enrol → 20");
        assertThat(api.call("mira", "GET", call, null).status())
                .as("a requester")
                .isEqualTo(403);
        assertThat(page(call.replace("C-309/", "C-308/")).get("status").asInt())
                .as("of another ticket")
                .isEqualTo(404);
        until(() -> page("/api/automation").at(enrolments).asLong() == before + 1 ? call : null);
        assertThat(page("/api/automation").at("/health/kiosks/lastGood").asText())
                .isNotBlank();
    }
}
