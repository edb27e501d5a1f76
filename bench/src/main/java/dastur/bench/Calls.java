package dastur.bench;

import com.fasterxml.jackson.databind.JsonNode;
import com.sun.net.httpserver.HttpServer;
import java.io.IOException;
import java.net.InetSocketAddress;
import java.net.URI;
import java.net.http.HttpClient;
import java.net.http.HttpRequest;
import java.net.http.HttpResponse;
import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.List;
import java.util.Map;
import java.util.UUID;
import java.util.concurrent.Executors;
import java.util.concurrent.TimeUnit;

/** The same call three times: made plainly, by a connection of the application, and through a relay in a process of its own. */
final class Calls {
    private static final String ZONE = "bench";
    private static final int WARM_UP = 60;

    private final DemoApp app;
    private final Path folder;
    private final HttpServer machine;

    private Calls(Path folder) throws IOException {
        this.app = new DemoApp(folder.resolve("data"));
        this.folder = folder;
        machine = HttpServer.create(new InetSocketAddress("127.0.0.1", 0), 0);
        machine.setExecutor(Executors.newVirtualThreadPerTaskExecutor());
        machine.createContext("/", exchange -> {
            byte[] answer = "{\"address\":\"10.20.7.21\"}".getBytes(StandardCharsets.UTF_8);
            exchange.sendResponseHeaders(200, answer.length);
            exchange.getResponseBody().write(answer);
            exchange.close();
        });
        machine.start();
    }

    static void measure(Path folder, int count) throws Exception {
        new Calls(folder).run(count);
    }

    private String address() {
        return "http://127.0.0.1:" + machine.getAddress().getPort();
    }

    private void run(int count) throws Exception {
        Process life = app.start();
        Process relay = null;
        try {
            DemoApp.Signed halvard = app.signIn("halvard");
            connect(halvard, "plain-way", address());
            put(halvard, "/api/zones/" + ZONE, Map.of("key", ZONE, "name", "Bench"));
            connect(halvard, "relay-way", "relay://" + ZONE + "/machines?as=http");
            relay = relay(halvard);
            System.out.println("ms              |   p50 |   p95 | longest");
            told("made plainly", plainly(count));
            told("by a connection", tried(halvard, "plain-way", count));
            told("through a relay", tried(halvard, "relay-way", count));
        } finally {
            if (relay != null) {
                relay.destroy();
                relay.waitFor(30, TimeUnit.SECONDS);
            }
            life.destroy();
            life.waitFor(30, TimeUnit.SECONDS);
            machine.stop(0);
        }
    }

    private static void told(String what, long[] millis) {
        Arrays.sort(millis);
        System.out.printf(
                "%-15s | %5d | %5d | %5d%n",
                what, millis[millis.length / 2], millis[millis.length * 95 / 100], millis[millis.length - 1]);
    }

    private long[] plainly(int count) throws IOException, InterruptedException {
        long[] millis = new long[count];
        for (int i = -WARM_UP; i < count; i++) {
            // As the application does for what changes something: a connection of its own for each.
            try (HttpClient http = HttpClient.newHttpClient()) {
                long begun = System.nanoTime();
                http.send(
                        HttpRequest.newBuilder(URI.create(address() + "/machines"))
                                .POST(HttpRequest.BodyPublishers.ofString("{}"))
                                .build(),
                        HttpResponse.BodyHandlers.ofString());
                if (i >= 0) {
                    millis[i] = TimeUnit.NANOSECONDS.toMillis(System.nanoTime() - begun);
                }
            }
        }
        return millis;
    }

    /** As long as each call took, as the page of its action tells it. */
    private long[] tried(DemoApp.Signed by, String over, int count) throws Exception {
        long[] millis = new long[count];
        for (int i = -WARM_UP; i < count; i++) {
            String path = "/api/actions/launch." + over + "/tries/" + UUID.randomUUID();
            put(by, path, Map.of("inputs", Map.of(), "why", "measured"));
            JsonNode tried =
                    DemoApp.parsed(app.send(by, "GET", path, null, null)).path("tried");
            while (tried.path("said").asText().equals("under way")) {
                TimeUnit.MILLISECONDS.sleep(2);
                tried = DemoApp.parsed(app.send(by, "GET", path, null, null)).path("tried");
            }
            if (!tried.path("said").asText().equals("ok")) {
                throw new IllegalStateException(tried.toString());
            }
            if (i >= 0) {
                millis[i] = tried.path("millis").asLong();
            }
        }
        return millis;
    }

    private JsonNode put(DemoApp.Signed by, String path, Object body) throws IOException, InterruptedException {
        HttpResponse<String> answer = app.send(by, "PUT", path, body, null);
        if (answer.statusCode() >= 300) {
            throw new IllegalStateException(path + ": " + answer.body());
        }
        return answer.body().isBlank()
                ? com.fasterxml.jackson.databind.node.MissingNode.getInstance()
                : DemoApp.parsed(answer);
    }

    private void connect(DemoApp.Signed by, String key, String base) throws IOException, InterruptedException {
        put(by, "/api/connections/" + key, Map.of("key", key, "name", key, "base", base, "allowedHosts", List.of()));
        Map<String, Object> action = Map.ofEntries(
                Map.entry("key", "launch." + key),
                Map.entry("name", "Launch over " + key),
                Map.entry("description", ""),
                Map.entry("connection", key),
                Map.entry("call", Map.of("method", "POST", "path", "/machines", "body", "{}")),
                Map.entry("inputs", List.of()),
                Map.entry("outputs", List.of()),
                Map.entry("results", List.of()),
                Map.entry("repeat", "never"),
                Map.entry("changesWorld", true),
                Map.entry("timeLimit", "1 min"),
                Map.entry("tries", 1),
                Map.entry("pause", "1 s"));
        put(by, "/api/actions/launch." + key, Map.of("action", action));
    }

    private Process relay(DemoApp.Signed halvard) throws Exception {
        Path at = Files.createDirectories(folder.resolve("relay"));
        Files.writeString(at.resolve("allowed.json"), """
                {"zone": "%s", "connections": {"machines": {"address": "%s", "perMinute": 100000,
                  "allow": [{"method": "POST", "path": "/machines"}]}}}
                """.formatted(ZONE, address()));
        String code = DemoApp.parsed(app.send(halvard, "POST", "/api/zones/" + ZONE + "/codes", null, null))
                .path("code")
                .asText();
        process("join", "--folder", at.toString(), "--server", app.address(), "--name", "bench-1", "--code", code)
                .waitFor();
        for (JsonNode zone : DemoApp.parsed(app.send(halvard, "GET", "/api/zones", null, null))) {
            for (JsonNode each : zone.path("relays")) {
                app.send(
                        halvard,
                        "POST",
                        "/api/zones/" + ZONE + "/relays/" + each.path("id").asText() + "/let-in",
                        null,
                        null);
            }
        }
        return process("run", "--folder", at.toString());
    }

    private Process process(String... words) throws IOException {
        List<String> command = new ArrayList<>(List.of(
                Path.of(System.getProperty("java.home"), "bin", "java").toString(),
                "-XX:TieredStopAtLevel=1",
                "-cp",
                System.getProperty("java.class.path"),
                "dastur.relay.Main"));
        command.addAll(List.of(words));
        return new ProcessBuilder(command)
                .redirectErrorStream(true)
                .redirectOutput(ProcessBuilder.Redirect.appendTo(
                        folder.resolve("relay.log").toFile()))
                .start();
    }
}
