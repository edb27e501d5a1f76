package dastur.server;

import static org.assertj.core.api.Assertions.assertThat;

import com.fasterxml.jackson.databind.JsonNode;
import dastur.core.json.Json;
import dastur.core.signal.Source;
import dastur.core.signal.SourceKey;
import dastur.server.ApiClient.Answer;
import java.net.http.HttpClient;
import java.nio.charset.StandardCharsets;
import java.security.GeneralSecurityException;
import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.Base64;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.UUID;
import java.util.concurrent.CountDownLatch;
import javax.crypto.Mac;
import javax.crypto.spec.SecretKeySpec;
import org.jspecify.annotations.Nullable;
import org.junit.jupiter.api.BeforeAll;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;

/** The door for senders, attacked: who may send, what is taken, what is told, and what becomes of it (I1–I5, I19–I25). */
class SourcesTest extends OnDemo {
    private static final String MAPPING = """
            {"rows":[{"to":"sort","from":{"is":"at","pointer":"/sort"}},
                     {"to":"severity","from":{"is":"at","pointer":"/severity"}},
                     {"to":"ci","from":{"is":"at","pointer":"/ci"}},
                     {"to":"what","from":{"is":"at","pointer":"/what"}},
                     {"to":"title","from":{"is":"at","pointer":"/title"}},
                     {"to":"at","from":{"is":"at","pointer":"/at"}}]}""";

    private static String token;
    private static String secret;

    /** Of this test alone: matters of others do not meet it. */
    private String what;

    @BeforeAll
    static void twoSources() {
        token = made("gates", "token", "incident");
        secret = made("kiosks", "signature", "kept");
    }

    private static String made(String key, String proof, String otherwise) {
        Answer set = api.call("halvard", "PUT", "/api/sources/" + key, """
                {"name":"%s","open":true,"proof":"%s","mapping":%s,"otherwise":"%s","group":"service-desk"}""".formatted(key, proof, MAPPING, otherwise));
        assertThat(set.status()).as(set.raw().body()).isEqualTo(200);
        return api.call("halvard", "POST", "/api/sources/" + key + "/secrets", "{\"which\":1}")
                .body()
                .get("secret")
                .asText();
    }

    @BeforeEach
    void own() {
        what = "stuck " + UUID.randomUUID();
    }

    private static Answer send(String path, String body, Map<String, String> headers) {
        return api.send(HttpClient.newHttpClient(), "POST", path, body, headers);
    }

    private static Answer byToken(String body, String... more) {
        Map<String, String> headers = new HashMap<>(Map.of("Authorization", "Bearer " + token));
        headers.put("Content-Type", "application/json");
        for (int i = 0; i < more.length; i += 2) {
            headers.put(more[i], more[i + 1]);
        }
        return send("/in/gates", body, headers);
    }

    /** By the demo's clock, which other tests move. */
    private static Instant now() {
        return api.app().app().clock().instant();
    }

    private static Map<String, String> signed(String with, String id, Instant at, String body) {
        try {
            String time = String.valueOf(at.getEpochSecond());
            Mac mac = Mac.getInstance("HmacSHA256");
            mac.init(new SecretKeySpec(Base64.getDecoder().decode(with.substring(6)), "HmacSHA256"));
            String sign = Base64.getEncoder()
                    .encodeToString(mac.doFinal((id + "." + time + "." + body).getBytes(StandardCharsets.UTF_8)));
            return Map.of(
                    "Content-Type",
                    "application/json",
                    "webhook-id",
                    id,
                    "webhook-timestamp",
                    time,
                    "webhook-signature",
                    "v1," + sign);
        } catch (GeneralSecurityException e) {
            throw new IllegalStateException(e);
        }
    }

    private String body(String sort, String severity) {
        return body(sort, severity, "ALD-G2");
    }

    private String body(String sort, String severity, String ci) {
        return Json.write(
                Map.of("sort", sort, "severity", severity, "ci", ci, "what", what, "title", "Gate is " + what));
    }

    /** Sends one and waits until it is looked at. */
    private JsonNode routed(String body) {
        Answer answer = byToken(body);
        assertThat(answer.status()).as(answer.raw().body()).isEqualTo(202);
        return routedId(answer.body().get("signal").asText());
    }

    private static JsonNode routedId(String id) {
        until(() -> !signal(id).at("/line/state").asText().equals("received"));
        return signal(id);
    }

    private static JsonNode signal(String id) {
        return api.call("ada", "GET", "/api/signals/" + id, null).body();
    }

    private JsonNode matter() {
        for (JsonNode m : api.call("ada", "GET", "/api/matters", null).body().get("matters")) {
            if (m.get("key").asText().equals(("ald-g2/" + what).toLowerCase(java.util.Locale.ROOT))) {
                return m;
            }
        }
        throw new AssertionError("there is no such matter");
    }

    private static long heard(String ticket) {
        return kinds(ticket).stream().filter("signalsHeard"::equals).count();
    }

    private static List<String> kinds(String ticket) {
        return api.call("ada", "GET", "/api/tickets/" + ticket + "/record", null)
                .body()
                .get("entries")
                .findValuesAsText("kind");
    }

    // --- who sends

    @Test
    void nothingIsTakenFromWhoDoesNotShowWhoTheyAre() {
        String fault = body("fault", "major");
        assertThat(send("/in/gates", fault, Map.of()).status()).isEqualTo(401);
        assertThat(send("/in/gates", fault, Map.of("Authorization", "Bearer x"))
                        .body()
                        .get("detail")
                        .asText())
                .contains("not one of this source");
        assertThat(send("/in/nobody", fault, Map.of("Authorization", "Bearer " + token))
                        .status())
                .isEqualTo(404);
        // A token of the API opens nothing here, and a sign-in neither; nor does the source's token open the API.
        ApiClient.Signed halvard = api.as("halvard");
        assertThat(send("/in/gates", fault, Map.of("Cookie", halvard.cookie(), "X-CSRF-Token", halvard.csrf()))
                        .status())
                .isEqualTo(401);
        assertThat(api.send(
                                HttpClient.newHttpClient(),
                                "GET",
                                "/api/desk",
                                null,
                                Map.of("Authorization", "Bearer " + token))
                        .status())
                .isEqualTo(401);
    }

    @Test
    void aSignatureIsOfThisBodyThisTimeAndThisSecret() {
        String fault = body("fault", "major");
        String id = "msg-" + UUID.randomUUID();
        Instant now = now();
        assertThat(send("/in/kiosks", fault, signed(secret, id, now, fault)).status())
                .isEqualTo(202);
        assertThat(send("/in/kiosks", fault + " ", signed(secret, id, now, fault))
                        .status())
                .isEqualTo(401);
        String other = "whsec_" + Base64.getEncoder().encodeToString(new byte[32]);
        assertThat(send("/in/kiosks", fault, signed(other, id, now, fault))
                        .body()
                        .get("detail")
                        .asText())
                .contains("does not fit");
        for (Instant off : List.of(now.minusSeconds(320), now.plusSeconds(320))) {
            assertThat(send("/in/kiosks", fault, signed(secret, id, off, fault))
                            .body()
                            .get("detail")
                            .asText())
                    .contains("minutes off");
        }
        Map<String, String> later = new HashMap<>(signed(secret, id, now, fault));
        later.put("webhook-timestamp", String.valueOf(now.getEpochSecond() + 1));
        assertThat(send("/in/kiosks", fault, later).status()).isEqualTo(401);
    }

    @Test
    void twoSecretsAreLiveUntilOneIsTakenAway() {
        String first = made("rostering", "signature", "kept");
        String second = api.call("halvard", "POST", "/api/sources/rostering/secrets", "{\"which\":2}")
                .body()
                .get("secret")
                .asText();
        String body = body("fault", "minor");
        assertThat(send("/in/rostering", body, signed(first, "a-" + what, now(), body))
                        .status())
                .isEqualTo(202);
        assertThat(send("/in/rostering", body, signed(second, "b-" + what, now(), body))
                        .status())
                .isEqualTo(202);
        assertThat(api.call("halvard", "DELETE", "/api/sources/rostering/secrets/1", null)
                        .status())
                .isEqualTo(204);
        assertThat(send("/in/rostering", body, signed(first, "c-" + what, now(), body))
                        .status())
                .isEqualTo(401);
        assertThat(send("/in/rostering", body, signed(second, "d-" + what, now(), body))
                        .status())
                .isEqualTo(202);
        String all =
                api.call("halvard", "GET", "/api/sources/rostering", null).raw().body()
                        + api.call("halvard", "GET", "/api/secrets", null).raw().body()
                        + api.call("halvard", "GET", "/api/journal", null).raw().body();
        assertThat(all).doesNotContain(first).doesNotContain(second).doesNotContain(second.substring(6));
    }

    @ParameterizedTest
    @CsvSource({
        "runa, PUT, /api/sources/gates",
        "ines, POST, /api/sources/gates/secrets",
        "mira, GET, /api/sources",
        "mira, GET, /api/matters",
        "runa, DELETE, /api/sources/gates/secrets/1",
        "mira, GET, /api/signals/traffic"
    })
    void whoHasNoRightSetsAndSeesNothing(String person, String method, String path) {
        assertThat(api.call(person, method, path, method.equals("GET") || method.equals("DELETE") ? null : "{}")
                        .status())
                .isEqualTo(403);
    }

    // --- what is taken

    @ParameterizedTest
    @CsvSource(
            delimiter = '|',
            value = {
                "application/json|{|400|broken",
                "application/json|7|400|JSON object",
                "text/plain|hello|400|not understood here",
                "application/cloudevents+json|{}|400|specversion"
            })
    void whatCannotBeReadSaysWhyAndStandsOnTheSourcesPage(String type, String body, int status, String why) {
        Answer answer = byToken(body, "Content-Type", type);
        assertThat(answer.status()).isEqualTo(status);
        assertThat(answer.body().get("detail").asText()).contains(why);
        until(() -> api.call("ada", "GET", "/api/sources/gates", null)
                .body()
                .get("refused")
                .toString()
                .contains("not readable"));
    }

    @Test
    void tooLargeTooDeepAndNotUtf8AreRefused() {
        assertThat(byToken("{\"a\":\"" + "x".repeat(256 * 1024) + "\"}").status())
                .isEqualTo(413);
        assertThat(byToken("{\"a\":" + "[".repeat(5_000) + "]".repeat(5_000) + "}")
                        .status())
                .isEqualTo(400);
        // ISO-8859-1 for ø is no UTF-8.
        try (HttpClient client = HttpClient.newHttpClient()) {
            var request = java.net.http.HttpRequest.newBuilder(
                            java.net.URI.create("http://127.0.0.1:" + api.app().port() + "/in/gates"))
                    .header("Authorization", "Bearer " + token)
                    .header("Content-Type", "application/json")
                    .POST(java.net.http.HttpRequest.BodyPublishers.ofByteArray(
                            "{\"what\":\"bl\u00f8\"}".getBytes(StandardCharsets.ISO_8859_1)))
                    .build();
            var answer = client.send(request, java.net.http.HttpResponse.BodyHandlers.ofString());
            assertThat(answer.statusCode()).isEqualTo(400);
            assertThat(answer.body()).contains("not UTF-8");
        } catch (java.io.IOException | InterruptedException e) {
            throw new IllegalStateException(e);
        }
    }

    @Test
    void theSameDeliveryAgainGetsTheSameAnswerAndAnotherBodyUnderItIsRefused() {
        String fault = body("fault", "major");
        String id = "delivery-" + UUID.randomUUID();
        Answer first = byToken(fault, "Idempotency-Key", id);
        assertThat(byToken(fault, "Idempotency-Key", id).body()).isEqualTo(first.body());
        Answer other = byToken(body("recovered", "cleared"), "Idempotency-Key", id);
        assertThat(other.status()).isEqualTo(422);
        assertThat(other.body().get("detail").asText())
                .contains(first.body().get("signal").asText());
        routedId(first.body().get("signal").asText());
        assertThat(matter().get("count").asLong()).isEqualTo(1);
        // Without an id nothing counts as the same.
        routed(fault);
        routed(fault);
        assertThat(matter().get("count").asLong()).isEqualTo(3);
    }

    @Test
    void theSameDeliveryFromManyAtOnceIsKeptOnce() throws InterruptedException {
        String fault = body("fault", "major");
        String id = "at-once-" + UUID.randomUUID();
        List<String> ids = java.util.Collections.synchronizedList(new ArrayList<>());
        CountDownLatch go = new CountDownLatch(1);
        List<Thread> threads = new ArrayList<>();
        for (int i = 0; i < 12; i++) {
            threads.add(Thread.ofVirtual().start(() -> {
                try {
                    go.await();
                } catch (InterruptedException e) {
                    return;
                }
                ids.add(byToken(fault, "Idempotency-Key", id)
                        .body()
                        .get("signal")
                        .asText());
            }));
        }
        go.countDown();
        for (Thread thread : threads) {
            thread.join();
        }
        assertThat(ids).hasSize(12);
        assertThat(ids.stream().distinct()).hasSize(1);
    }

    @Test
    void aShutSourceTakesNothingAndSaysSo() {
        made("berths", "token", "kept");
        String other = api.call("halvard", "POST", "/api/sources/berths/secrets", "{\"which\":2}")
                .body()
                .get("secret")
                .asText();
        api.call("halvard", "PUT", "/api/sources/berths", """
                {"name":"berths","open":false,"proof":"token","mapping":%s,"otherwise":"kept"}""".formatted(MAPPING));
        Answer answer = send("/in/berths", body("fault", "minor"), Map.of("Authorization", "Bearer " + other));
        assertThat(answer.status()).isEqualTo(409);
        assertThat(answer.body().get("detail").asText()).contains("shut");
    }

    @Test
    void ofABatchEachIsOneAndWhatIsNotUnderstoodCanBeLookedAtAgainAfterTheMappingIsMended() {
        String batch = Json.write(List.of(
                Map.of(
                        "specversion",
                        "1.0",
                        "id",
                        "1-" + what,
                        "source",
                        "/g",
                        "type",
                        "t",
                        "sort",
                        "fault",
                        "ci",
                        "ALD-G2",
                        "what",
                        what),
                Map.of("no", "event"),
                Map.of(
                        "specversion",
                        "1.0",
                        "id",
                        "2-" + what,
                        "source",
                        "/g",
                        "type",
                        "t",
                        "sort",
                        "asleep",
                        "ci",
                        "ALD-G2",
                        "what",
                        what)));
        Answer answer = byToken(batch, "Content-Type", "application/cloudevents-batch+json");
        JsonNode ids = answer.body().get("signals");
        assertThat(ids).hasSize(3);
        JsonNode last = routedId(ids.get(2).asText());
        assertThat(last.at("/line/state").asText()).isEqualTo("not understood");
        assertThat(last.at("/line/problem").asText()).contains("asleep");
        assertThat(routedId(ids.get(0).asText()).at("/line/state").asText()).isEqualTo("opened");
        assertThat(api.call("ada", "POST", "/api/signals/" + ids.get(0).asText() + "/again", null)
                        .status())
                .isEqualTo(409);
        assertThat(api.call("ada", "POST", "/api/signals/" + ids.get(2).asText() + "/again", null)
                        .status())
                .isEqualTo(204);
        assertThat(routedId(ids.get(2).asText()).at("/line/state").asText()).isEqualTo("not understood");
    }

    // --- what becomes of it

    private JsonNode foreseen(String body) {
        Answer answer = api.call("ada", "POST", "/api/sources/gates/trials", Json.write(Map.of("raw", body)));
        assertThat(answer.status()).as(answer.raw().body()).isEqualTo(200);
        return answer.body().get("foreseen");
    }

    /** I4: it says what would be, by the same rules, and does none of it. */
    @Test
    void whatWouldHappenIsSaidAndDoesNot() {
        JsonNode first = foreseen(body("fault", "major"));
        assertThat(first.get("does").asText()).isEqualTo("opened");
        assertThat(first.get("kind").asText()).isEqualTo("incident");
        assertThat(first.get("told").toString()).contains("it begins");
        assertThat(api.call("ada", "GET", "/api/matters", null).raw().body()).doesNotContain(what);
        assertThat(foreseen(body("recovered", "cleared")).get("does").asText()).isEqualTo("kept");

        String ticket = routed(body("fault", "major")).at("/line/ticket").asText();
        int seq = ticket("ada", ticket).get("seq").asInt();
        JsonNode worse = foreseen(body("fault", "critical"));
        assertThat(worse.get("does").asText()).isEqualTo("joined");
        assertThat(worse.get("turn").asText()).isEqualTo("worse");
        assertThat(worse.get("ticket").asText()).isEqualTo(ticket);
        assertThat(ticket("ada", ticket).get("seq").asInt()).isEqualTo(seq);
        assertThat(foreseen(body("fault", "major")).get("turn").asText()).isEqualTo("repeats");

        Answer unknown = api.call(
                "ada", "POST", "/api/sources/gates/trials", Json.write(Map.of("raw", body("asleep", "major"))));
        assertThat(unknown.body().has("foreseen")).isFalse();
        assertThat(unknown.body().at("/reading/problem").asText()).contains("asleep");
        assertThat(api.call("mira", "POST", "/api/sources/gates/trials", "{\"raw\":\"{}\"}")
                        .status())
                .isEqualTo(403);
    }

    @Test
    void aFaultOpensATicketWhatRepeatsJoinsItAndTheRecordTellsOfBoth() {
        JsonNode first = routed(body("fault", "major"));
        assertThat(first.at("/line/state").asText()).isEqualTo("opened");
        String ticket = first.at("/line/ticket").asText();
        JsonNode there = ticket("ada", ticket);
        assertThat(there.at("/fields/ci").asText()).isEqualTo("ALD-G2");
        assertThat(there.at("/fields/priority").asText()).isEqualTo("P2");
        assertThat(there.at("/fields/group").asText()).isEqualTo("service-desk");
        assertThat(first.get("told").toString()).contains("none is").contains("an incident");
        JsonNode second = routed(body("fault", "major"));
        assertThat(second.at("/line/state").asText()).isEqualTo("joined");
        assertThat(second.at("/line/ticket").asText()).isEqualTo(ticket);
        until(() -> heard(ticket) == 2);
        assertThat(matter().get("count").asLong()).isEqualTo(2);
        assertThat(api.call("ada", "GET", "/api/tickets/" + ticket + "/matters", null)
                        .body())
                .hasSize(1);
    }

    @Test
    void aHundredAtOnceAreOneTicketAndFewEntriesAndNoneIsLost() throws InterruptedException {
        List<Thread> threads = new ArrayList<>();
        for (int i = 0; i < 100; i++) {
            threads.add(Thread.ofVirtual()
                    .start(() ->
                            assertThat(byToken(body("fault", "major")).status()).isEqualTo(202)));
        }
        for (Thread thread : threads) {
            thread.join();
        }
        until(() -> api.call("ada", "GET", "/api/matters", null).raw().body().contains(what)
                && matter().get("count").asLong() == 100);
        String ticket = matter().get("ticket").asText();
        // The last are entered when their time has come.
        until(() -> counted(ticket) == 100);
        assertThat(heard(ticket)).isLessThan(8);
    }

    private static long counted(String ticket) {
        long all = 0;
        for (JsonNode e : api.call("ada", "GET", "/api/tickets/" + ticket + "/record", null)
                .body()
                .get("entries")) {
            all += e.get("kind").asText().equals("signalsHeard")
                    ? e.at("/body/count").asLong()
                    : 0;
        }
        return all;
    }

    @Test
    void whatComesAfterItsTicketWasClosedOpensAnotherThatIsLinkedWithIt() {
        String first = routed(body("fault", "major")).at("/line/ticket").asText();
        Answer ended = api.call("ada", "PUT", "/api/tickets/" + first, """
                {"fields":{"state":"cancelled"},"reason":"A test."}""");
        assertThat(ended.status()).as(ended.raw().body()).isEqualTo(200);
        JsonNode next = routed(body("fault", "major"));
        assertThat(next.at("/line/state").asText()).isEqualTo("opened");
        String second = next.at("/line/ticket").asText();
        assertThat(second).isNotEqualTo(first);
        until(() -> ticket("ada", second).get("links").toString().contains(first));
    }

    /** Somebody says that it is restored, and the monitor says that it is not. */
    @Test
    void whatIsSaidAgainAfterItWasRestoredByHandIsTakenUpAgain() {
        String ticket = routed(body("fault", "major")).at("/line/ticket").asText();
        Answer restored = api.call("ada", "PUT", "/api/tickets/" + ticket, "{\"fields\":{\"state\":\"restored\"}}");
        assertThat(restored.status()).as(restored.raw().body()).isEqualTo(200);
        JsonNode again = routed(body("fault", "major"));
        assertThat(again.at("/line/turn").asText()).isEqualTo("begins");
        assertThat(again.at("/line/ticket").asText()).isEqualTo(ticket);
        assertThat(ticket("ada", ticket).get("state").asText()).isEqualTo("diagnosing");
    }

    @Test
    void aFaultOfBeforeTheTicketEndedOpensNothing() {
        Instant before = now();
        String first = routed(body("fault", "major")).at("/line/ticket").asText();
        api.call(
                "ada", "PUT", "/api/tickets/" + first, "{\"fields\":{\"state\":\"cancelled\"},\"reason\":\"A test.\"}");
        JsonNode late = routed(body("fault", "major").replace("{\"", "{\"at\":\"" + before + "\",\""));
        assertThat(late.at("/line/turn").asText()).isEqualTo("out of order");
        assertThat(late.at("/line/state").asText()).isEqualTo("kept");
    }

    @Test
    void aRecoveryIsToldToTheTicketOnceItHasStayedWell() {
        String ticket = routed(body("fault", "major")).at("/line/ticket").asText();
        routed(body("recovered", "cleared"));
        assertThat(kinds(ticket)).doesNotContain("recoveryHeard");
        app().advance().accept(Duration.ofMinutes(6));
        until(() -> kinds(ticket).contains("recoveryHeard"));
        // It is proposed, and nobody has said yes.
        assertThat(ticket("ada", ticket).get("state").asText()).isEqualTo("logged");
        assertThat(matter().get("recoveryTold").asBoolean()).isTrue();
        routed(body("recovered", "cleared"));
        app().advance().accept(Duration.ofMinutes(6));
        routed(body("fault", "minor"));
        assertThat(kinds(ticket).stream().filter("recoveryHeard"::equals)).hasSize(1);
    }

    private static App.Demo app() {
        return api.app().app().demo();
    }

    @Test
    void whatTurnsToAndFroNeedsSomebodyAndStartsNothingMore() {
        String ticket = routed(body("fault", "minor")).at("/line/ticket").asText();
        for (int i = 0; i < 6; i++) {
            routed(body(i % 2 == 0 ? "recovered" : "fault", "minor"));
        }
        assertThat(matter().has("unsteadyUntil")).isTrue();
        assertThat(matter().get("ticket").asText()).isEqualTo(ticket);
        assertThat(api.call("ada", "GET", "/api/matters?only=needing", null)
                        .raw()
                        .body())
                .contains(what);
    }

    @Test
    void aFrozenBoardIsReadRestartedAndLookedAtByItself() {
        api.app().standins().devices().freeze("GNQ-03", true);
        until(() -> api.call("ada", "GET", "/api/matters", null).raw().body().contains("gnq-03/stands still"));
        JsonNode why = api.call("ada", "GET", "/api/matters/why?matter=gnq-03/stands%20still", null)
                .body();
        String ticket = why.at("/line/ticket").asText();
        assertThat(why.get("looks"))
                .anyMatch(l -> l.get("started").asBoolean()
                        && l.get("trigger").asText().equals("frozen-departure-board-signal"));
        assertThat(why.at("/signal/values/pictureAge").asLong()).isGreaterThanOrEqualTo(60);
        assertThat(why.at("/raw/data/state").asText()).isEqualTo("FROZEN");
        until(() -> ticket("ada", ticket).get("state").asText().equals("closed"));
        assertThat(kinds(ticket))
                .containsSubsequence(
                        "ticketRaised",
                        "signalsHeard",
                        "triggersLookedAt",
                        "runStarted",
                        "callDone",
                        "checked",
                        "updated",
                        "runEnded");
        until(() ->
                !api.call("ada", "GET", "/api/matters", null).raw().body().contains("\"inFault\":[\"Board monitor\"]"));
    }

    /** A step that waits for this source and key is told, and alone: no ticket is opened for the signal. */
    @Test
    void aStepThatWaitsForTheSourceAndKeyTakesIt() {
        api.call("halvard", "PUT", "/api/sources/printers", """
                {"name":"printers","open":true,"proof":"token","otherwise":"incident","mapping":{"rows":[
                {"to":"what","from":{"is":"at","pointer":"/what"}},{"to":"key","from":{"is":"at","pointer":"/order"}}]}}""");
        String printers = api.call("halvard", "POST", "/api/sources/printers/secrets", "{\"which\":1}")
                .body()
                .get("secret")
                .asText();
        DesignedWorkflow.publish(api, """
                workflow print-the-plan "Print the plan" for request
                  owner ines
                printed: wait for signal "printers" with key ticket.number
                end: done "printed"
                """);
        String number = api.call("ada", "POST", "/api/tickets", """
                        {"kind":"request","fields":{"title":"A plan on paper","requester":"mira"}}""")
                .body()
                .get("ticket")
                .asText();
        api.call("ines", "POST", "/api/tickets/" + number + "/runs", "{\"workflow\":\"print-the-plan\"}");
        Map<String, String> by = Map.of("Authorization", "Bearer " + printers, "Content-Type", "application/json");
        String id = send("/in/printers", Json.write(Map.of("what", what, "order", number)), by)
                .body()
                .get("signal")
                .asText();
        assertThat(routedId(id).at("/line/state").asText()).isEqualTo("taken");
        assertThat(ticket("ada", number).at("/runs/0/status").asText()).isEqualTo("finished");
        // Nobody waits for the next one, so it is what its source says.
        String next = send("/in/printers", Json.write(Map.of("what", what + " more", "order", number)), by)
                .body()
                .get("signal")
                .asText();
        assertThat(routedId(next).at("/line/state").asText()).isEqualTo("opened");
    }

    /** More than a burst of 10,000 is refused in part, and the sender told when to come again; what was taken is kept. */
    @Test
    void aFloodIsRefusedAboveItsBurst() throws InterruptedException {
        made("flood", "token", "kept");
        String flood = api.call("halvard", "POST", "/api/sources/flood/secrets", "{\"which\":2}")
                .body()
                .get("secret")
                .asText();
        String event = Json.write(Map.of("specversion", "1.0", "id", "x", "source", "/f", "type", "t", "what", what));
        List<Answer> answers = java.util.Collections.synchronizedList(new ArrayList<>());
        List<Thread> threads = new ArrayList<>();
        for (int i = 0; i < 40; i++) {
            String batch = "[" + String.join(",", java.util.Collections.nCopies(500, event)) + "]";
            threads.add(Thread.ofVirtual()
                    .start(() -> answers.add(send(
                            "/in/flood",
                            batch,
                            Map.of(
                                    "Authorization",
                                    "Bearer " + flood,
                                    "Content-Type",
                                    "application/cloudevents-batch+json")))));
        }
        for (Thread thread : threads) {
            thread.join();
        }
        assertThat(answers).allMatch(a -> a.status() == 202 || a.status() == 429);
        assertThat(answers).filteredOn(a -> a.status() == 202).hasSizeGreaterThanOrEqualTo(20);
        assertThat(answers).filteredOn(a -> a.status() == 429).isNotEmpty().allSatisfy(a -> assertThat(
                        a.raw().headers().firstValue("Retry-After"))
                .contains("1"));
    }

    /** Two sources call different things by one name: each condition reads that of its own. */
    @Test
    void aValueIsOfItsSourceWhateverAnotherCallsSo() {
        for (String type : List.of("text", "whole number")) {
            String key = type.equals("text") ? "lifts" : "pumps";
            api.call("halvard", "PUT", "/api/sources/" + key, """
                    {"name":"%s","open":true,"proof":"token","otherwise":"kept","mapping":{"rows":[
                    {"to":"what","from":{"is":"at","pointer":"/what"}},
                    {"to":"value","name":"stage","type":"%s","from":{"is":"at","pointer":"/stage"}}]}}""".formatted(key, type));
        }
        String pumps = api.call("halvard", "POST", "/api/sources/pumps/secrets", "{\"which\":1}")
                .body()
                .get("secret")
                .asText();
        DesignedWorkflow.publish(api, """
                workflow pump-the-bilge "Pump the bilge" for incident
                  owner ines
                look: ask group pier-technicians "Pump" within 1 h: "Pumped"
                end: done "dry"
                """);
        Answer set = api.call("ines", "PUT", "/api/workflows/pump-the-bilge/triggers", """
                {"triggers":[{"id":"pump-signal","on":true,"services":[],"mode":"starts",
                "when":{"is":"signal comes","source":"pumps"},"condition":"signal.stage >= 3"}]}""");
        assertThat(set.status()).as(set.raw().body()).isBetween(200, 204);
        String id = send(
                        "/in/pumps",
                        Json.write(Map.of("what", what, "stage", 3)),
                        Map.of("Authorization", "Bearer " + pumps, "Content-Type", "application/json"))
                .body()
                .get("signal")
                .asText();
        JsonNode routed = routedId(id);
        assertThat(routed.at("/line/state").asText()).as(routed.toString()).isEqualTo("opened");
        assertThat(ticket("ada", routed.at("/line/ticket").asText())
                        .at("/runs/0/workflow")
                        .asText())
                .isEqualTo("pump-the-bilge");
    }

    // --- too often

    /** I27: a storm starts so much and no more; the rest stands together, and one answer starts it or lets it be. */
    @Test
    void whatSignalsStartTooOftenIsHeldBackTogether() {
        api.call("halvard", "PUT", "/api/sources/sluices", """
                {"name":"sluices","open":true,"proof":"token","otherwise":"kept","mapping":{"rows":[
                {"to":"what","from":{"is":"at","pointer":"/what"}},
                {"to":"ci","from":{"is":"at","pointer":"/ci"}}]}}""");
        String secret = api.call("halvard", "POST", "/api/sources/sluices/secrets", "{\"which\":1}")
                .body()
                .get("secret")
                .asText();
        DesignedWorkflow.publish(api, """
                workflow open-the-sluice "Open the sluice" for incident
                  owner ines
                look: ask group pier-technicians "Open it" within 1 h: "Open"
                end: done "dry"
                """);
        api.call("ines", "PUT", "/api/workflows/open-the-sluice/triggers", """
                {"triggers":[{"id":"sluice-signal","on":true,"services":[],"mode":"starts",
                "when":{"is":"signal comes","source":"sluices","mostAMinute":2}}]}""");
        List<String> tickets = new ArrayList<>();
        for (int i = 1; i <= 5; i++) {
            String id = send(
                            "/in/sluices",
                            Json.write(Map.of("what", what, "ci", "kiosk-0" + i)),
                            Map.of("Authorization", "Bearer " + secret, "Content-Type", "application/json"))
                    .body()
                    .get("signal")
                    .asText();
            tickets.add(routedId(id).at("/line/ticket").asText());
        }
        assertThat(tickets).doesNotHaveDuplicates().doesNotContain("");
        assertThat(tickets.stream().filter(t -> runsOn(t) == 1)).hasSize(2);
        assertThat(sluices().get("count").asLong()).isEqualTo(3);
        List<String> held = heldTickets();
        assertThat(held).hasSize(3).isSubsetOf(tickets).allMatch(t -> runsOn(t) == 0);

        assertThat(answer("mira", held, true).status()).isEqualTo(403);
        assertThat(answer("ines", List.of(), true).status()).isEqualTo(422);
        Answer two = answer("ines", List.of(held.get(0), held.get(1), "I-999999"), true);
        assertThat(two.body().at("/answered/0").has("problem")).isFalse();
        assertThat(two.body().at("/answered/2/problem").asText()).isNotBlank();
        assertThat(held.subList(0, 2)).allMatch(t -> runsOn(t) == 1);
        // Answered already: that is said, and nothing starts twice.
        assertThat(answer("ada", held, true).body().at("/answered/0/problem").asText())
                .contains("answered");
        assertThat(held).allMatch(t -> runsOn(t) == 1);
        assertThat(heldTickets()).isEmpty();
        assertThat(sluices().isMissingNode()).isTrue();
    }

    /** I26: what has to be evaluated for each signal is bounded; what compares a value with a fixed one is not. */
    @Test
    void triggersThatHaveToBeEvaluatedForEachSignalAreFew() {
        List<String> workflows = List.of("many-a", "many-b");
        for (String key : workflows) {
            DesignedWorkflow.publish(api, """
                    workflow %s "Many" for incident
                      owner ines
                    look: ask group pier-technicians "Look": "Done"
                    end: done "done"
                    """.formatted(key));
        }
        assertThat(many("many-a", 40, null).status()).isLessThan(300);
        Answer refused = many("many-b", 50, null);
        assertThat(refused.status()).isEqualTo(422);
        assertThat(refused.body().get("where").asText()).matches("triggers\\[\\d+\\]\\.condition");
        assertThat(refused.body().get("detail").asText()).contains("compare a value with a fixed one");
        assertThat(many("many-b", 50, "signal.what == 'wet'").status()).isLessThan(300);
        workflows.forEach(key -> many(key, 0, null));
    }

    /** Sets so many triggers on signals of gates, switched on; without a condition they listen to any source. */
    private static Answer many(String workflow, int count, @Nullable String condition) {
        List<Map<String, Object>> triggers = new ArrayList<>();
        for (int i = 0; i < count; i++) {
            Map<String, Object> one =
                    new HashMap<>(Map.of("id", workflow + "-" + i, "on", true, "services", List.of()));
            one.put("mode", "only notes");
            one.put(
                    "when",
                    condition == null
                            ? Map.of("is", "signal comes", "sort", "news")
                            : Map.of("is", "signal comes", "sort", "news", "source", "gates"));
            if (condition != null) {
                one.put("condition", condition);
            }
            triggers.add(one);
        }
        return api.call(
                "ines", "PUT", "/api/workflows/" + workflow + "/triggers", Json.write(Map.of("triggers", triggers)));
    }

    private static int runsOn(String ticket) {
        return ticket("ada", ticket).get("runs").size();
    }

    private static JsonNode sluices() {
        for (JsonNode line : api.call("ines", "GET", "/api/held-starts", null).body()) {
            if (line.at("/live/trigger/id").asText().equals("sluice-signal")) {
                return line;
            }
        }
        return com.fasterxml.jackson.databind.node.MissingNode.getInstance();
    }

    private static List<String> heldTickets() {
        List<String> held = new ArrayList<>();
        api.call("ines", "GET", "/api/held-starts/sluice-signal", null)
                .body()
                .forEach(h -> held.add(h.get("ticket").asText()));
        return held;
    }

    private static Answer answer(String person, List<String> tickets, boolean start) {
        return api.call(
                person,
                "POST",
                "/api/held-starts/sluice-signal",
                Json.write(Map.of("start", start, "tickets", tickets)));
    }

    // --- tried before

    @Test
    void aMappingIsTriedOnWhatCameAndChangesNothing() {
        String id = routed(body("fault", "major")).at("/line/id").asText();
        Answer tried = api.call("ada", "POST", "/api/sources/gates/readings", """
                {"signal":"%s","mapping":{"rows":[{"to":"title","from":{"is":"text","text":"{{ signal.source }}!"}}]}}""".formatted(id));
        assertThat(tried.body().at("/signal/title").asText()).isEqualTo("gates!");
        assertThat(signal(id).at("/signal/title").asText()).isEqualTo("Gate is " + what);
        Answer wrong = api.call("ada", "POST", "/api/sources/gates/readings", """
                {"signal":"%s","mapping":{"rows":[{"to":"title","from":{"is":"text","text":"{{ signal.colour }}"}}]}}""".formatted(id));
        assertThat(wrong.status()).isEqualTo(422);
        assertThat(wrong.body().get("where").asText()).isEqualTo("mapping.rows[0].from.text");
        assertThat(api.call("ada", "POST", "/api/sources/kiosks/readings", "{\"signal\":\"" + id + "\"}")
                        .status())
                .isEqualTo(404);
    }

    /** I4: what came goes after a month, a sample that is kept stays, is read and followed through, and is let go. */
    @Test
    void whatCameIsKeptByANameAndTriedLater() {
        String id = routed(body("fault", "major")).at("/line/id").asText();
        String samples = "/api/sources/gates/samples";
        String named = samples + "/Grave%20fault";
        assertThat(api.call("ines", "PUT", named, "{\"signal\":\"" + id + "\"}").status())
                .isEqualTo(403);
        assertThat(api.call("halvard", "PUT", named, "{\"signal\":\"nothing\"}").status())
                .isEqualTo(404);
        assertThat(api.call("halvard", "PUT", samples + "/" + "x".repeat(81), "{\"signal\":\"" + id + "\"}")
                        .status())
                .isEqualTo(422);
        assertThat(api.call("ada", "GET", samples, null).body()).isEmpty();

        assertThat(api.call("halvard", "PUT", named, "{\"signal\":\"" + id + "\"}")
                        .status())
                .isLessThan(300);
        assertThat(api.call("ada", "GET", samples, null).body())
                .singleElement()
                .satisfies(s -> assertThat(s.get("name").asText()).isEqualTo("Grave fault"));
        assertThat(api.call("ada", "GET", named, null).body().get("raw"))
                .isEqualTo(api.call("ada", "GET", "/api/signals/" + id, null)
                        .body()
                        .get("raw"));
        Answer read = api.call("ada", "POST", "/api/sources/gates/readings", "{\"kept\":\"Grave fault\"}");
        assertThat(read.body().at("/signal/title").asText()).isEqualTo("Gate is " + what);
        Answer tried = api.call("ada", "POST", "/api/sources/gates/trials", "{\"kept\":\"Grave fault\"}");
        assertThat(tried.body().at("/foreseen/does").asText()).isNotBlank();
        // Another source has none of it.
        assertThat(api.call("ada", "POST", "/api/sources/kiosks/readings", "{\"kept\":\"Grave fault\"}")
                        .status())
                .isEqualTo(404);
        assertThat(api.call("halvard", "GET", "/api/journal", null).raw().body())
                .contains("gates Grave fault");

        assertThat(api.call("ines", "DELETE", named, null).status()).isEqualTo(403);
        assertThat(api.call("halvard", "DELETE", named, null).status()).isLessThan(300);
        assertThat(api.call("halvard", "DELETE", named, null).status()).isEqualTo(404);
        assertThat(api.call("ada", "GET", samples, null).body()).isEmpty();
    }

    @Test
    void noMoreSamplesAreKeptThanASourceMayHave() {
        String id = routed(body("fault", "major")).at("/line/id").asText();
        String body = "{\"signal\":\"" + id + "\"}";
        for (int i = 0; i < 50; i++) {
            assertThat(api.call("halvard", "PUT", "/api/sources/gates/samples/s" + i, body)
                            .status())
                    .isLessThan(300);
        }
        assertThat(api.call("halvard", "PUT", "/api/sources/gates/samples/one-more", body)
                        .status())
                .isEqualTo(409);
        // In the place of one there is room.
        assertThat(api.call("halvard", "PUT", "/api/sources/gates/samples/s7", body)
                        .status())
                .isLessThan(300);
        for (int i = 0; i < 50; i++) {
            api.call("halvard", "DELETE", "/api/sources/gates/samples/s" + i, null);
        }
    }

    @Test
    void aConditionIsTriedOnTheLastSignals() {
        routed(body("fault", "major"));
        JsonNode all = api.call(
                        "ines",
                        "POST",
                        "/api/signals/conditions",
                        "{\"condition\":\"signal.source == 'gates'\",\"source\":\"gates\"}")
                .body();
        assertThat(all.get("tried").asInt())
                .isPositive()
                .isEqualTo(all.get("holds").asInt());
        JsonNode none = api.call("ines", "POST", "/api/signals/conditions", "{\"condition\":\"signal.link == 'x'\"}")
                .body();
        assertThat(none.get("cannotSay").asInt()).isEqualTo(none.get("tried").asInt());
        assertThat(api.call("ines", "POST", "/api/signals/conditions", "{\"condition\":\"ticket.impact == 1\"}")
                        .status())
                .isEqualTo(422);
    }

    @Test
    void aTriggerOnASourceThatIsNotThereOrOnAValueThatItDoesNotSayIsRefused() {
        String form = "{\"triggers\":[{\"id\":\"s-x\",\"on\":true,\"services\":[],\"mode\":\"starts\","
                + "\"when\":{\"is\":\"signal comes\",\"source\":\"%s\"},\"condition\":\"%s\"}]}";
        Answer nowhere =
                api.call("ines", "PUT", "/api/workflows/wifi-portal-move/triggers", form.formatted("nobody", "true"));
        assertThat(nowhere.body().get("detail").asText()).contains("no source 'nobody'");
        Answer unsaid = api.call(
                "ines",
                "PUT",
                "/api/workflows/wifi-portal-move/triggers",
                form.formatted("gates", "signal.pictureAge > 1"));
        assertThat(unsaid.status()).isEqualTo(422);
    }

    @Test
    void aSourceCannotBeOfTheOtherKindWhileItsSecretsAreThere() {
        Answer answer = api.call("halvard", "PUT", "/api/sources/gates", """
                {"name":"gates","open":true,"proof":"signature","mapping":%s,"otherwise":"incident"}""".formatted(MAPPING));
        assertThat(answer.status()).isEqualTo(422);
        assertThat(answer.body().get("where").asText()).isEqualTo("proof");
        assertThat(api.app()
                        .app()
                        .signalling()
                        .sources()
                        .find(new SourceKey("gates"))
                        .map(Source::proof))
                .contains(Source.Proof.TOKEN);
    }
}
