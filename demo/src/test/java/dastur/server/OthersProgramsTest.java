package dastur.server;

import static org.assertj.core.api.Assertions.assertThat;

import com.fasterxml.jackson.databind.JsonNode;
import dastur.core.json.Json;
import java.io.BufferedReader;
import java.io.IOException;
import java.io.InputStreamReader;
import java.nio.charset.StandardCharsets;
import java.nio.file.Path;
import java.util.ArrayList;
import java.util.Base64;
import java.util.Collections;
import java.util.List;
import java.util.concurrent.TimeUnit;
import java.util.stream.Stream;
import org.junit.jupiter.api.Test;

/** Signals in and events out, with libraries that nobody here wrote on the other side: CloudEvents and Standard Webhooks (I18). */
class OthersProgramsTest extends OnDemo {
    private static final Path WEB = Path.of("..", "web");

    private static Process node(String... arguments) throws IOException {
        return new ProcessBuilder(
                        Stream.concat(Stream.of("node"), Stream.of(arguments)).toList())
                .directory(WEB.toFile())
                .redirectError(ProcessBuilder.Redirect.INHERIT)
                .start();
    }

    private static BufferedReader lines(Process process) {
        return new BufferedReader(new InputStreamReader(process.getInputStream(), StandardCharsets.UTF_8));
    }

    private static List<JsonNode> sent(String key, String secret) throws IOException, InterruptedException {
        String to = "http://127.0.0.1:" + api.app().port() + "/in/" + key;
        Process sender = node("others/send.mjs", to, secret, "ALD-G1", "ALD-G2");
        List<JsonNode> answers = lines(sender)
                .lines()
                .map(line -> Json.read(line, JsonNode.class))
                .toList();
        assertThat(sender.waitFor(60, TimeUnit.SECONDS)).isTrue();
        assertThat(sender.exitValue()).isZero();
        return answers;
    }

    private static String source(String key) {
        assertThat(api.call("halvard", "PUT", "/api/sources/" + key, """
                {"name":"Others","open":true,"proof":"signature","otherwise":"kept","mapping":{"rows":[
                 {"to":"sort","from":{"is":"at","pointer":"/data/sort"}},
                 {"to":"severity","from":{"is":"at","pointer":"/data/severity"}},
                 {"to":"ci","from":{"is":"at","pointer":"/data/ci"}},
                 {"to":"what","from":{"is":"at","pointer":"/data/what"}}]}}""").status())
                .isEqualTo(200);
        return api.call("halvard", "POST", "/api/sources/" + key + "/secrets", "{\"which\":1}")
                .body()
                .get("secret")
                .asText();
    }

    @Test
    void whatTheirLibrariesWriteAndSignIsTakenAndUnderstood() throws Exception {
        String secret = source("others");
        List<JsonNode> answers = sent("others", secret);
        assertThat(answers).hasSize(6).allMatch(a -> a.get("status").asInt() == 202);
        assertThat(answers.get(1).get("signal"))
                .as("the same delivery")
                .isEqualTo(answers.get(0).get("signal"));
        assertThat(answers.get(2).get("signal"))
                .as("another")
                .isNotEqualTo(answers.get(0).get("signal"));
        for (JsonNode answer : answers) {
            String id = answer.get("signal").asText();
            until(() -> !signal(id).at("/line/state").asText().equals("received"));
            assertThat(signal(id).at("/line/severity").asText())
                    .as(signal(id).toString())
                    .isEqualTo("major");
            assertThat(signal(id).at("/line/ci").asText()).startsWith("ALD-G");
        }
        String forged = "whsec_" + Base64.getEncoder().encodeToString(new byte[32]);
        assertThat(sent("others", forged)).allMatch(a -> a.get("status").asInt() == 401);
    }

    private static JsonNode signal(String id) {
        return api.call("ada", "GET", "/api/signals/" + id, null).body();
    }

    @Test
    void whatASubscriptionSendsTheirLibrariesVerifyAndRead() throws Exception {
        assertThat(subscription("http://127.0.0.1:1/events", false)).isEqualTo(200);
        String secret = api.call("halvard", "POST", "/api/subscriptions/others/secret", "{}")
                .body()
                .get("secret")
                .asText();
        Process receiver = node("others/receive.mjs", secret);
        BufferedReader lines = lines(receiver);
        try {
            String port = lines.readLine();
            List<JsonNode> heard = Collections.synchronizedList(new ArrayList<>());
            Thread.ofPlatform().daemon().start(() -> lines.lines()
                    .forEach(l -> heard.add(Json.read(l, JsonNode.class))));
            assertThat(subscription("http://127.0.0.1:" + port + "/events", true))
                    .isEqualTo(200);
            until(() -> api.call("ada", "GET", "/api/subscriptions/others", null)
                    .body()
                    .at("/view/stand")
                    .isObject());
            String ticket = raiseGate("ALD-G3");
            until(() -> heard.stream().anyMatch(h -> h.path("id").asText().startsWith(ticket + "/")));
            assertThat(heard).allMatch(h -> h.get("ok").asBoolean());
            assertThat(heard.stream().map(h -> h.get("type").asText())).contains("dastur.ticketRaised.v1");
        } finally {
            // Whoever reads its lines ends with it.
            receiver.destroy();
            subscription("http://127.0.0.1:1/events", false);
        }
    }

    private static int subscription(String to, boolean on) {
        return api.call("halvard", "PUT", "/api/subscriptions/others", """
                        {"name":"Others","on":%s,"address":"%s","wanted":{"kinds":[],"tickets":[]},
                         "fields":["title","priority"],"as":"ada"}""".formatted(on, to))
                .status();
    }
}
