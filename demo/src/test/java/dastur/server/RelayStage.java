package dastur.server;

import static org.assertj.core.api.Assertions.assertThat;

import com.fasterxml.jackson.databind.JsonNode;
import com.fasterxml.jackson.databind.node.ArrayNode;
import com.fasterxml.jackson.databind.node.ObjectNode;
import com.sun.net.httpserver.HttpServer;
import dastur.core.json.Json;
import dastur.relay.Joining;
import dastur.relay.Relay;
import dastur.server.ApiClient.Answer;
import java.io.IOException;
import java.io.UncheckedIOException;
import java.net.InetSocketAddress;
import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.nio.file.Path;
import java.time.Duration;
import java.time.Instant;
import java.time.InstantSource;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.concurrent.CountDownLatch;
import java.util.concurrent.Executors;
import java.util.concurrent.locks.LockSupport;
import java.util.function.BooleanSupplier;

/** A zone with its relays and a machine in it, for tests: the relays are real, and reach the application over a line that can be cut. */
final class RelayStage implements AutoCloseable {
    private static final String TOKEN = "only-in-the-zone-9f2c";

    private final ApiClient api;
    private final String zone;
    private final Path folder;
    private final Proxy line;
    private final HttpServer machine;
    private final List<Relay> relays = new ArrayList<>();
    /** What the machine was asked, line by line. */
    final List<String> asked = java.util.Collections.synchronizedList(new ArrayList<>());

    /** What the machine answers. */
    volatile String list = "[]";

    /** What the machine waits for before it answers. */
    volatile CountDownLatch mayAnswer = new CountDownLatch(0);

    /** @param port where the application is, now */
    RelayStage(ApiClient api, String zone, Path folder, java.util.function.IntSupplier port) {
        this.api = api;
        this.zone = zone;
        this.folder = folder;
        this.line = new Proxy(() -> List.of(port.getAsInt()));
        try {
            machine = HttpServer.create(new InetSocketAddress("127.0.0.1", 0), 0);
        } catch (IOException e) {
            throw new UncheckedIOException(e);
        }
        machine.setExecutor(Executors.newVirtualThreadPerTaskExecutor());
        machine.createContext("/", exchange -> {
            asked.add(exchange.getRequestMethod() + " " + exchange.getRequestURI());
            try {
                mayAnswer.await();
                boolean known =
                        ("Bearer " + TOKEN).equals(exchange.getRequestHeaders().getFirst("Authorization"));
                byte[] answer = ("{\"address\":\"10.0.7.20\",\"said\":\"" + TOKEN + "\",\"list\":" + list + "}")
                        .getBytes(StandardCharsets.UTF_8);
                exchange.sendResponseHeaders(known ? 200 : 401, answer.length);
                exchange.getResponseBody().write(answer);
            } catch (InterruptedException | IOException callerIsGone) {
                Thread.currentThread().interrupt();
            } finally {
                exchange.close();
            }
        });
        machine.start();
    }

    Proxy line() {
        return line;
    }

    Path folder(String relay) {
        return folder.resolve(relay);
    }

    String address() {
        return "http://127.0.0.1:" + line.port();
    }

    /** Makes the zone, a connection into it, and an action over that: what it does is never to be done twice. */
    void build() {
        ok(api.call(
                "halvard", "PUT", "/api/zones/" + zone, "{\"key\":\"" + zone + "\",\"name\":\"Zone " + zone + "\"}"));
        ok(api.call("halvard", "PUT", "/api/connections/" + zone, """
                {"key":"%1$s","name":"Machines of %1$s","base":"relay://%1$s/machines?as=http","allowedHosts":[]}""".formatted(zone)));
        ok(api.call("ines", "PUT", "/api/actions/launch." + zone, """
                {"action":{"key":"launch.%1$s","name":"Launch in %1$s","description":"Launches a machine.","connection":"%1$s",
                "call":{"method":"POST","path":"/machines","body":"{\\"name\\":\\"{{ input.name }}\\"}"},
                "inputs":[{"name":"name","label":"Name","type":"text","required":true}],
                "outputs":[{"field":{"name":"address","label":"Address","type":"text","required":true},"pointer":"/address"}],
                "results":[],"repeat":"never","changesWorld":true,"timeLimit":"2 min","tries":1,"pause":"1 s"}}""".formatted(zone)));
    }

    /** The action reads a list out of the answer too. */
    void withList() {
        JsonNode view =
                api.call("ines", "GET", "/api/actions/launch." + zone, null).body();
        ObjectNode action = (ObjectNode) view.get("action");
        ObjectNode output = ((ArrayNode) action.get("outputs")).addObject();
        output.putObject("field")
                .put("name", "list")
                .put("label", "List")
                .put("type", "list")
                .put("required", true);
        output.put("pointer", "/list");
        ObjectNode body = Json.mapper().createObjectNode();
        body.set("action", action);
        body.set("on", view.get("number"));
        ok(api.call("ines", "PUT", "/api/actions/launch." + zone, body.toString()));
    }

    /** What stands in the relay's folder before it joins. */
    void furnish(String relay) throws IOException {
        Files.createDirectories(folder(relay).resolve("secrets"));
        Files.writeString(folder(relay).resolve("secrets/token"), TOKEN + "\n");
        Files.writeString(folder(relay).resolve("allowed.json"), """
                {"zone": "%s", "connections": {"machines": {"address": "http://127.0.0.1:%d", "secret": "token",
                  "allow": [{"method": "POST", "path": "/machines"}]}}}
                """.formatted(
                        zone, machine.getAddress().getPort()));
    }

    String code() {
        return ok(api.call("halvard", "POST", "/api/zones/" + zone + "/codes", null))
                .get("code")
                .asText();
    }

    JsonNode view() {
        for (JsonNode each : api.call("ada", "GET", "/api/zones", null).body()) {
            if (each.at("/zone/key").asText().equals(zone)) {
                return each;
            }
        }
        throw new AssertionError("there is no zone " + zone);
    }

    JsonNode view(String relay) {
        for (JsonNode each : view().get("relays")) {
            if (each.get("name").asText().equals(relay)) {
                return each;
            }
        }
        throw new AssertionError("the page does not show " + relay);
    }

    /** Joins and is let in. */
    void admit(String relay) throws IOException, InterruptedException {
        furnish(relay);
        Joining.join(folder(relay), address(), code(), relay);
        let(relay, "let-in");
    }

    Answer let(String relay, String how) {
        return api.call(
                "halvard",
                "POST",
                "/api/zones/" + zone + "/relays/" + view(relay).get("id").asText() + "/" + how,
                null);
    }

    Relay start(String relay) throws IOException {
        Relay running = new Relay(folder(relay), InstantSource.system());
        relays.add(running);
        running.start();
        return running;
    }

    /** The same in a process of its own, which can be killed. */
    Process process(String relay) throws IOException {
        return new ProcessBuilder(
                        Path.of(System.getProperty("java.home"), "bin", "java").toString(),
                        "-Xmx128m",
                        "-cp",
                        System.getProperty("java.class.path"),
                        "dastur.relay.Main",
                        "run",
                        "--folder",
                        folder(relay).toString())
                .redirectErrorStream(true)
                .redirectOutput(folder(relay).resolve("out").toFile())
                .start();
    }

    /** Tries the action; returns the id of the try. */
    String tries(String id) {
        ok(api.call(
                "ines",
                "PUT",
                "/api/actions/launch." + zone + "/tries/" + id,
                Json.write(Map.of("inputs", Map.of("name", "crew-7"), "why", "a test"))));
        return id;
    }

    JsonNode tried(String id) {
        return ok(api.call("ines", "GET", "/api/actions/launch." + zone + "/tries/" + id, null))
                .get("tried");
    }

    JsonNode over(String id) {
        until("the try is over", () -> !tried(id).get("said").asText().equals("under way"));
        return tried(id);
    }

    static JsonNode ok(Answer answer) {
        assertThat(answer.status()).as(answer.raw().body()).isLessThan(300);
        return answer.body();
    }

    static void until(String what, BooleanSupplier condition) {
        Instant end = Instant.now().plus(Duration.ofSeconds(60));
        while (!condition.getAsBoolean()) {
            assertThat(Instant.now()).as(what).isBefore(end);
            LockSupport.parkNanos(20_000_000);
        }
    }

    @Override
    public void close() {
        mayAnswer.countDown();
        relays.forEach(Relay::close);
        line.close();
        machine.stop(0);
    }
}
