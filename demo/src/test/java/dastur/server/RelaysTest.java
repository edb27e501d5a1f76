package dastur.server;

import static dastur.server.RelayStage.ok;
import static dastur.server.RelayStage.until;
import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import com.fasterxml.jackson.databind.JsonNode;
import dastur.connectors.relay.Lines;
import dastur.connectors.relay.SignedText;
import dastur.connectors.relay.WorkDone;
import dastur.core.json.Json;
import dastur.core.record.Signing;
import dastur.core.step.calling.CallingCommands.CallOutcome;
import dastur.relay.Joining;
import dastur.relay.Relay;
import dastur.server.ApiClient.Answer;
import java.io.IOException;
import java.net.http.HttpClient;
import java.nio.file.Files;
import java.nio.file.Path;
import java.security.KeyPair;
import java.security.KeyPairGenerator;
import java.time.Duration;
import java.time.Instant;
import java.util.List;
import java.util.Map;
import java.util.UUID;
import java.util.concurrent.CountDownLatch;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.TestInfo;
import org.junit.jupiter.api.io.TempDir;

/** Relays, attacked: who may join, what is done, and what becomes of it when line or relay break in the middle (M13 to M15). */
class RelaysTest extends OnDemo {
    private static int zones;

    @TempDir
    Path own;

    private RelayStage stage;

    @BeforeEach
    void zone(TestInfo info) {
        stage = new RelayStage(api, "zone-" + ++zones, own, () -> api.app().port());
        stage.build();
    }

    @AfterEach
    void end() {
        stage.close();
    }

    private static String id() {
        return UUID.randomUUID().toString();
    }

    @Test
    void itJoinsByACodeOnceAndWorksOnlyWhenLetIn() throws Exception {
        stage.furnish("first");
        stage.furnish("second");
        String code = stage.code();
        String fingerprint = Joining.join(stage.folder("first"), stage.address(), code, "first");
        assertThatThrownBy(() -> Joining.join(stage.folder("second"), stage.address(), code, "second"))
                .hasMessageContaining("can be used once");
        assertThat(stage.view().get("strangers").asInt()).isEqualTo(1);
        assertThat(stage.view("first").get("sight").asText()).isEqualTo("ASKS");
        assertThat(stage.view("first").get("fingerprint").asText()).isEqualTo(fingerprint);

        stage.start("first");
        String id = stage.tries(id());
        until("the call waits", () -> stage.view().get("waiting").asInt() == 1);
        assertThat(stage.asked).isEmpty();
        ok(stage.let("first", "let-in"));
        JsonNode tried = stage.over(id);
        assertThat(tried.get("said").asText()).isEqualTo("ok");
        assertThat(tried.at("/gave/address").asText()).isEqualTo("10.0.7.20");
        assertThat(stage.asked).containsExactly("POST /machines");
        assertThat(tried.toString()).doesNotContain("only-in-the-zone");
        assertThat(stage.view("first").get("sight").asText()).isEqualTo("IN_SIGHT");
        assertThat(stage.view("first").get("may").toString()).contains("machines: POST /machines, 60 a minute");
    }

    @Test
    void whatIsLeftOutOfAskingToJoinIsNamed() {
        Map<String, Object> whole =
                Map.of("code", "c", "name", "n", "key", "k", "proof", "p", "protocol", Lines.PROTOCOL);
        for (String left : List.of("code", "name", "key", "proof")) {
            Map<String, Object> body = new java.util.HashMap<>(whole);
            body.remove(left);
            Answer answer = api.send(HttpClient.newHttpClient(), "POST", "/in/relay/join", Json.write(body), Map.of());
            assertThat(answer.status()).as(left).isEqualTo(422);
            assertThat(answer.body().get("where").asText()).isEqualTo(left);
        }
    }

    @Test
    void anotherServerThanTheOneOfTheCodeIsNotBelieved() throws Exception {
        stage.furnish("first");
        String code = stage.code();
        String other = code.substring(0, code.lastIndexOf('.') + 1) + "0".repeat(64);
        assertThatThrownBy(() -> Joining.join(stage.folder("first"), stage.address(), other, "first"))
                .hasMessageContaining("not the server");
        assertThat(stage.folder("first").resolve("server.json")).doesNotExist();
        assertThatThrownBy(() -> Joining.join(stage.folder("first"), "http://dastur.example", stage.code(), "first"))
                .hasMessageContaining("https://");
        assertThatThrownBy(() -> Joining.join(stage.folder("first"), stage.address(), "half-a-code", "first"))
                .hasMessageContaining("whole code");
    }

    @Test
    void whatTheFileDoesNotNameIsNotDone() throws Exception {
        stage.admit("first");
        Files.writeString(
                stage.folder("first").resolve("allowed.json"),
                Files.readString(stage.folder("first").resolve("allowed.json")).replace("\"POST\"", "\"GET\""));
        stage.start("first");
        JsonNode tried = stage.over(stage.tries(id()));
        assertThat(tried.get("said").asText()).isEqualTo("failed");
        assertThat(tried.get("why").asText())
                .contains("does not allow POST /machines")
                .contains("Nothing was done");
        assertThat(stage.asked).isEmpty();
    }

    @Test
    void itIsNotDoneMoreOftenThanTheFileSays() throws Exception {
        stage.admit("first");
        Path file = stage.folder("first").resolve("allowed.json");
        Files.writeString(file, Files.readString(file).replace("\"allow\"", "\"perMinute\": 2, \"allow\""));
        stage.start("first");
        for (int i = 0; i < 2; i++) {
            assertThat(stage.over(stage.tries(id())).get("said").asText()).isEqualTo("ok");
        }
        assertThat(stage.over(stage.tries(id())).get("why").asText()).contains("no more calls");
        assertThat(stage.asked).hasSize(2);
    }

    /** Too much for the line is said to be so, is never cut, and keeps nothing else from being told. */
    @Test
    void whatIsTooMuchToBeToldIsUnsureAndTheNextIsTold() throws Exception {
        stage.admit("first");
        stage.withList();
        stage.start("first");
        stage.list = Json.write(java.util.stream.IntStream.range(0, 15_000)
                .mapToObj(i -> "\"quoted\" " + i)
                .toList());
        JsonNode tried = stage.over(stage.tries(id()));
        assertThat(tried.get("said").asText()).isEqualTo("unsure");
        assertThat(tried.get("why").asText()).contains("too much to be told");
        stage.list = Json.write(java.util.stream.IntStream.range(0, 8_000)
                .mapToObj(i -> "\"quoted\" " + i)
                .toList());
        assertThat(stage.over(stage.tries(id())).get("said").asText()).isEqualTo("ok");
    }

    /** It finishes what it began, and hands in afterwards what came of it. */
    @Test
    void aLineThatIsCutInTheMiddleLosesNothingAndDoublesNothing() throws Exception {
        stage.mayAnswer = new CountDownLatch(1);
        stage.admit("first");
        stage.start("first");
        String id = stage.tries(id());
        until("the machine is asked", () -> !stage.asked.isEmpty());
        stage.line().cut();
        stage.mayAnswer.countDown();
        until("the result is kept on the relay's disk", () -> journal("first").contains("\"DONE\""));
        assertThat(stage.tried(id).get("said").asText()).isEqualTo("under way");
        stage.line().heal();
        assertThat(stage.over(id).get("said").asText()).isEqualTo("ok");
        assertThat(stage.asked).hasSize(1);
        until("the relay knows that it is kept", () -> journal("first").contains("\"TOLD\""));
    }

    private String journal(String relay) {
        try {
            return Files.readString(stage.folder(relay).resolve("journal.jsonl"));
        } catch (IOException e) {
            return "";
        }
    }

    @Test
    void oneThatIsKilledInTheMiddleSaysThatNobodyKnowsAndDoesItNotAgain() throws Exception {
        stage.mayAnswer = new CountDownLatch(1);
        stage.admit("first");
        Process first = stage.process("first");
        String id = stage.tries(id());
        until("the machine is asked", () -> !stage.asked.isEmpty());
        first.destroyForcibly().waitFor();
        stage.mayAnswer.countDown();
        Process again = stage.process("first");
        try {
            JsonNode tried = stage.over(id);
            assertThat(tried.get("said").asText()).isEqualTo("unsure");
            assertThat(tried.get("why").asText()).contains("ended while this was under way");
            assertThat(stage.asked).hasSize(1);
        } finally {
            again.destroyForcibly().waitFor();
        }
    }

    /** A result that is on the relay's disk is told by the next process. */
    @Test
    void oneThatIsKilledAfterItWasDoneStillTellsIt() throws Exception {
        stage.mayAnswer = new CountDownLatch(1);
        stage.admit("first");
        Process first = stage.process("first");
        String id = stage.tries(id());
        until("the machine is asked", () -> !stage.asked.isEmpty());
        stage.line().cut();
        stage.mayAnswer.countDown();
        until("the result is kept on the relay's disk", () -> journal("first").contains("\"DONE\""));
        first.destroyForcibly().waitFor();
        stage.line().heal();
        stage.start("first");
        assertThat(stage.over(id).get("said").asText()).isEqualTo("ok");
        assertThat(stage.asked).hasSize(1);
    }

    @Test
    void aClockThatIsWrongIsToldSoInWords() throws Exception {
        stage.admit("first");
        String id = idOf("first");
        KeyPair key = key("first");
        Answer answer = signed("hello", id, key, Instant.now().minus(Duration.ofHours(1)), hello("b1"));
        assertThat(answer.status()).isEqualTo(401);
        assertThat(answer.body().get("detail").asText())
                .contains("clock of this relay")
                .contains("behind");
    }

    @Test
    void twoProcessesUnderOneKeyAreNoticedAndTheFirstStops() throws Exception {
        stage.admit("first");
        Relay first = stage.start("first");
        until("the first works", () -> stage.view("first").get("sight").asText().equals("IN_SIGHT"));
        assertThat(signed("hello", idOf("first"), key("first"), Instant.now(), hello("a copy"))
                        .status())
                .isEqualTo(200);
        assertThat(first.untilOver()).contains("Another process works under this relay's key");
        assertThat(stage.view("first").get("two").asBoolean()).isTrue();
    }

    @Test
    void oneThatWasLetGoIsHeardNoMore() throws Exception {
        stage.admit("first");
        Relay first = stage.start("first");
        until("it works", () -> stage.view("first").get("sight").asText().equals("IN_SIGHT"));
        ok(stage.let("first", "let-go"));
        // It waits for work at this moment: it gets none any more.
        stage.tries(id());
        assertThat(first.untilOver()).contains("let go");
        assertThat(stage.asked).isEmpty();
        assertThat(stage.view().get("waiting").asInt()).isEqualTo(1);
        assertThat(stage.view().get("relays").size()).isZero();
    }

    // --- who asks, without a relay of ours

    private static String hello(String boot) {
        return Json.write(new Lines.Hello(boot, Lines.PROTOCOL, "test", "hash", List.of()));
    }

    private String idOf(String relay) {
        return stage.view(relay).get("id").asText();
    }

    private KeyPair key(String relay) throws Exception {
        List<String> lines = Files.readAllLines(stage.folder(relay).resolve("relay.key"));
        java.security.KeyFactory keys = java.security.KeyFactory.getInstance("Ed25519");
        return new KeyPair(
                keys.generatePublic(new java.security.spec.X509EncodedKeySpec(
                        java.util.Base64.getDecoder().decode(lines.get(1)))),
                keys.generatePrivate(new java.security.spec.PKCS8EncodedKeySpec(
                        java.util.Base64.getDecoder().decode(lines.get(0)))));
    }

    private static Answer signed(String what, String relay, KeyPair key, Instant at, String body) {
        String path = "/in/relay/" + what;
        return raw(path, relay, at, body, Signing.sign(Lines.request(path, at.toEpochMilli(), body), key));
    }

    private static Answer raw(String path, String relay, Instant at, String body, String signature) {
        return api.send(
                HttpClient.newHttpClient(),
                "POST",
                path,
                body,
                Map.of(
                        Lines.RELAY,
                        relay,
                        Lines.AT,
                        String.valueOf(at.toEpochMilli()),
                        Lines.SIGNATURE,
                        signature,
                        "Content-Type",
                        "application/json"));
    }

    @Test
    void nothingIsGivenToOneWhoHoldsNoKeyThatWasLetIn() throws Exception {
        stage.admit("first");
        String id = idOf("first");
        KeyPair stranger = KeyPairGenerator.getInstance("Ed25519").generateKeyPair();
        Instant now = Instant.now();
        String body = hello("b1");
        assertThat(signed("hello", id, stranger, now, body).status()).isEqualTo(401);
        assertThat(signed("hello", "no-such", key("first"), now, body).status()).isEqualTo(401);
        String signature = Signing.sign(Lines.request("/in/relay/hello", now.toEpochMilli(), body), key("first"));
        assertThat(raw("/in/relay/hello", id, now, body.replace("b1", "b2"), signature)
                        .status())
                .isEqualTo(401);
        assertThat(raw("/in/relay/take", id, now, body, signature).status()).isEqualTo(401);
        assertThat(raw("/in/relay/hello", id, now.plusMillis(1), body, signature)
                        .status())
                .isEqualTo(401);
        assertThat(raw("/in/relay/hello", id, now, body, signature).status()).isEqualTo(200);

        stage.furnish("asks");
        Joining.join(stage.folder("asks"), stage.address(), stage.code(), "asks");
        signed("hello", idOf("asks"), key("asks"), now, body);
        assertThat(signed("take", idOf("asks"), key("asks"), Instant.now(), take("b1", 1))
                        .status())
                .isEqualTo(403);
    }

    private static String take(String boot, long turn) {
        return Json.write(new Lines.Take(boot, turn, 5, List.of()));
    }

    /** Whoever reads the line can send the same again: it gives nothing away, and takes nothing away. */
    @Test
    void aRequestThatIsCopiedOffTheLineGetsNothing() throws Exception {
        stage.admit("first");
        String id = idOf("first");
        KeyPair key = key("first");
        signed("hello", id, key, Instant.now(), hello("b1"));
        stage.tries(id());
        until("the call waits", () -> stage.view().get("waiting").asInt() == 1);
        Instant at = Instant.now();
        Answer first = signed("take", id, key, at, take("b1", 1));
        assertThat(first.body().get("work").size()).isEqualTo(1);
        assertThat(signed("take", id, key, at, take("b1", 1)).status()).isEqualTo(409);
        assertThat(signed("take", id, key, at, take("b0", 2)).status()).isEqualTo(409);
    }

    /** A result counts when the relay that the work was given to has signed it. */
    @Test
    void nobodyElseSaysWhatBecameOfWork() throws Exception {
        stage.admit("first");
        stage.admit("second");
        KeyPair first = key("first");
        signed("hello", idOf("first"), first, Instant.now(), hello("b1"));
        signed("hello", idOf("second"), key("second"), Instant.now(), hello("b2"));
        String tried = stage.tries(id());
        until("the call waits", () -> stage.view().get("waiting").asInt() == 1);
        JsonNode given = signed("take", idOf("first"), first, Instant.now(), take("b1", 1))
                .body();
        String work = Json.parse(given.at("/work/0/text").asText()).get("id").asText();

        CallOutcome lie = new CallOutcome.Done("ok", Map.of("address", "6.6.6.6"), null, null, "", 1, 0);
        tell(
                "second",
                "b2",
                WorkDone.of(work, idOf("second"), lie, 1, null, Instant.now()).signed(key("second")));
        tell(
                "second",
                "b2",
                WorkDone.of(work, idOf("first"), lie, 1, null, Instant.now()).signed(key("second")));
        tell(
                "first",
                "b1",
                WorkDone.of(work, idOf("first"), lie, 1, null, Instant.now()).signed(key("second")));
        assertThat(stage.tried(tried).get("said").asText()).isEqualTo("under way");

        CallOutcome truth = new CallOutcome.Failed("the machine is full");
        SignedText said =
                WorkDone.of(work, idOf("first"), truth, 1, null, Instant.now()).signed(first);
        assertThat(tell("first", "b1", said).body().get("kept").get(0).asText()).isEqualTo(work);
        assertThat(stage.over(tried).get("why").asText()).contains("the machine is full");
        SignedText other =
                WorkDone.of(work, idOf("first"), lie, 1, null, Instant.now()).signed(first);
        assertThat(tell("first", "b1", other).status()).isEqualTo(200);
        assertThat(stage.over(tried).get("why").asText()).contains("the machine is full");
    }

    private Answer tell(String relay, String boot, SignedText done) throws Exception {
        return signed(
                "tell",
                idOf(relay),
                key(relay),
                Instant.now(),
                Json.write(new Lines.Tell(boot, List.of(), List.of(), List.of(done))));
    }

    @Test
    void aConnectionIntoAZoneNamesOneThatThereIsAndNoSecret() {
        Answer nowhere = api.call("halvard", "PUT", "/api/connections/x", """
                {"key":"x","name":"X","base":"relay://nowhere/x?as=http","allowedHosts":[]}""");
        assertThat(nowhere.status()).isEqualTo(422);
        assertThat(nowhere.body().toString()).contains("There is no zone 'nowhere'");
        Answer secret = api.call("halvard", "PUT", "/api/connections/x", """
                {"key":"x","name":"X","base":"relay://zone-%d/x?as=http","allowedHosts":[],"secret":"standins"}""".formatted(zones));
        assertThat(secret.status()).isEqualTo(422);
        assertThat(api.call("ines", "POST", "/api/zones/zone-1/codes", null).status())
                .isEqualTo(403);
    }
}
