package dastur.server;

import static org.assertj.core.api.Assertions.assertThat;

import com.fasterxml.jackson.databind.JsonNode;
import dastur.core.json.Json;
import dastur.server.ApiClient.Answer;
import java.net.URI;
import java.net.http.HttpClient;
import java.net.http.HttpRequest;
import java.net.http.HttpResponse;
import java.nio.charset.StandardCharsets;
import java.util.Arrays;
import java.util.Map;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;

/** Questions before a decision, help with a task, what requester and desk say to each other, and files. */
class AskingTest extends OnDemo {
    private static final byte[] PNG = {(byte) 0x89, 'P', 'N', 'G', 13, 10, 26, 10, 1, 2, 3};

    private static Answer post(String person, String path, Object body) {
        return api.call(person, "POST", path, Json.write(body));
    }

    @Test
    void whoDecidesAsksFirstAndTheRequesterAnswersFromTheirDesk() {
        String number = raiseGate("ALD-G4");
        String task = ticket("runa", number).get("asks").get(0).get("visit").asText();
        post("runa", "/api/tasks/" + task + "/complete", Map.of("outcome", "Close the lane"));
        String visit = ticket("teo", number).get("asks").get(0).get("visit").asText();

        assertThat(post("runa", "/api/approvals/" + visit + "/question", Map.of("text", "x"))
                        .status())
                .isEqualTo(403);
        assertThat(post("teo", "/api/approvals/" + visit + "/question", Map.of("text", " "))
                        .status())
                .isEqualTo(422);
        assertThat(post("teo", "/api/approvals/" + visit + "/question", Map.of("text", "Is the other gate open?"))
                        .status())
                .isEqualTo(200);
        assertThat(desk("mira", "visit")).contains(visit + "?question");
        JsonNode seen = ticket("mira", number).get("questions").get(0);
        assertThat(seen.get("text").asText()).isEqualTo("Is the other gate open?");

        assertThat(post("oskar", "/api/approvals/" + visit + "/answer", Map.of("text", "Yes."))
                        .status())
                .isEqualTo(403);
        assertThat(post("mira", "/api/approvals/" + visit + "/answer", Map.of("text", "Yes."))
                        .status())
                .isEqualTo(200);
        assertThat(desk("mira", "visit")).doesNotContain(visit + "?question");
        assertThat(ticket("teo", number)
                        .get("asks")
                        .get(0)
                        .get("approval")
                        .get("questionOpen")
                        .asBoolean())
                .isFalse();
        assertThat(post("mira", "/api/approvals/" + visit + "/answer", Map.of("text", "Yes."))
                        .status())
                .isEqualTo(409);
    }

    @Test
    void aQuestionThatIsStillOpenLeavesTheDesksWhenTheDecisionIsMade() {
        String number = raiseGate("ALD-G4");
        String task = ticket("runa", number).get("asks").get(0).get("visit").asText();
        post("runa", "/api/tasks/" + task + "/complete", Map.of("outcome", "Close the lane"));
        JsonNode ask = ticket("teo", number).get("asks").get(0);
        String visit = ask.get("visit").asText();
        post("teo", "/api/approvals/" + visit + "/question", Map.of("text", "Why?"));
        post(
                "priya",
                "/api/approvals/" + visit + "/vote",
                Map.of(
                        "round", ask.get("approval").get("round").asInt(),
                        "digest", ask.get("approval").get("digest").asText(),
                        "approve", true));
        assertThat(desk("mira", "visit")).doesNotContain(visit + "?question");
    }

    @Test
    void helpIsAskedForAndTheHelperMayDoTheTask() {
        String number = raiseGate("ALD-G4");
        String task = ticket("runa", number).get("asks").get(0).get("visit").asText();
        assertThat(desk("ada", "visit")).doesNotContain(task);
        assertThat(post("runa", "/api/tasks/" + task + "/help", Map.of("person", "ada", "text", ""))
                        .status())
                .isEqualTo(422);
        assertThat(post("runa", "/api/tasks/" + task + "/help", Map.of("person", "ada", "text", "Which key fits?"))
                        .status())
                .isEqualTo(200);
        assertThat(desk("ada", "visit")).contains(task);
        assertThat(desk("runa", "visit")).contains(task);
        assertThat(post("ada", "/api/tasks/" + task + "/complete", Map.of("outcome", "Cleared on the spot"))
                        .status())
                .isEqualTo(200);
    }

    @Test
    void theRequesterSeesWhatIsMeantForThemAndNothingElse() {
        String number = raiseGate("ALD-G4");
        String notes = "/api/tickets/" + number + "/notes";
        post("ada", notes, Map.of("text", "Between us: that gate again.", "toRequester", false));
        post("ada", notes, Map.of("text", "Somebody is on the way.", "toRequester", true));
        assertThat(post("mira", notes, Map.of("text", "Thank you!", "toRequester", false))
                        .status())
                .isEqualTo(200);
        JsonNode talk = ticket("mira", number).get("talk");
        assertThat(talk.findValuesAsText("text")).containsExactly("Somebody is on the way.", "Thank you!");
        assertThat(talk.get(0).get("by").asText()).isEqualTo("Ada Brandvold");
        assertThat(talk.get(1).get("mine").asBoolean()).isTrue();
    }

    private static HttpResponse<byte[]> send(String person, String method, String path, String type, byte[] body)
            throws Exception {
        ApiClient.Signed by = api.as(person);
        HttpRequest.Builder request = HttpRequest.newBuilder(
                        URI.create("http://127.0.0.1:" + api.app().port() + path))
                .header("Cookie", by.cookie())
                .header("X-CSRF-Token", by.csrf());
        if (type != null) {
            request.header("Content-Type", type);
        }
        request.method(
                method,
                body == null ? HttpRequest.BodyPublishers.noBody() : HttpRequest.BodyPublishers.ofByteArray(body));
        return HttpClient.newHttpClient().send(request.build(), HttpResponse.BodyHandlers.ofByteArray());
    }

    @Test
    void aFileIsKeptUnderItsHashShownSafelyAndGoesWithItsEntry() throws Exception {
        String number = raiseGate("ALD-G4");
        String path = "/api/tickets/" + number + "/files";
        assertThat(send("runa", "POST", path + "?name=lane.png", "image/png", PNG)
                        .statusCode())
                .isEqualTo(201);
        JsonNode file = ticket("runa", number).get("files").get(0);
        assertThat(file.get("name").asText()).isEqualTo("lane.png");
        String hash = file.get("hash").asText();
        assertThat(hash)
                .isEqualTo(java.util.HexFormat.of()
                        .formatHex(java.security.MessageDigest.getInstance("SHA-256")
                                .digest(PNG)));

        HttpResponse<byte[]> got = send("runa", "GET", path + "/" + hash, null, null);
        assertThat(got.body()).isEqualTo(PNG);
        assertThat(got.headers().firstValue("Content-Security-Policy").orElse(""))
                .contains("sandbox");
        assertThat(got.headers().firstValue("X-Content-Type-Options")).hasValue("nosniff");
        assertThat(send("mira", "GET", path + "/" + hash, null, null).statusCode())
                .as("the requester was not meant to see it")
                .isEqualTo(404);
        assertThat(send("runa", "GET", "/api/tickets/I-1045/files/" + hash, null, null)
                        .statusCode())
                .as("another ticket's file")
                .isEqualTo(404);
    }

    @Test
    void aRequestersOwnFileIsTheirsToSee() throws Exception {
        String number = raiseGate("ALD-G4");
        String path = "/api/tickets/" + number + "/files";
        send("mira", "POST", path + "?name=what-i-saw.txt", "text/plain", "open".getBytes(StandardCharsets.UTF_8));
        JsonNode file = ticket("mira", number).get("files").get(0);
        assertThat(file.get("toRequester").asBoolean()).isTrue();
        assertThat(send("mira", "GET", path + "/" + file.get("hash").asText(), null, null)
                        .statusCode())
                .isEqualTo(200);
    }

    @ParameterizedTest
    @CsvSource({
        "page.html, text/html, <script>",
        "drawing.svg, image/svg+xml, <svg>",
        "fake.png, image/png, no picture",
        "fake.pdf, application/pdf, no document",
        "nothing.txt, text/plain, ''",
        "'', text/plain, x"
    })
    void whatABrowserCouldRunOrIsNotWhatItSaysIsRefused(String name, String type, String body) throws Exception {
        String number = raiseGate("ALD-G4");
        HttpResponse<byte[]> answer = send(
                "runa",
                "POST",
                "/api/tickets/" + number + "/files?name=" + name,
                type,
                body.getBytes(StandardCharsets.UTF_8));
        assertThat(answer.statusCode()).isEqualTo(422);
        assertThat(ticket("runa", number).get("files")).isEmpty();
    }

    @Test
    void aFileThatIsTooBigIsRefused() throws Exception {
        byte[] big = new byte[10_000_001];
        Arrays.fill(big, (byte) 'x');
        assertThat(send(
                                "runa",
                                "POST",
                                "/api/tickets/" + raiseGate("ALD-G4") + "/files?name=big.txt",
                                "text/plain",
                                big)
                        .statusCode())
                .isEqualTo(422);
    }
}
