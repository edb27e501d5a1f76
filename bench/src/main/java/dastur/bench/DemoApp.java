package dastur.bench;

import com.fasterxml.jackson.databind.JsonNode;
import dastur.core.FreePort;
import dastur.core.json.Json;
import java.io.IOException;
import java.net.URI;
import java.net.http.HttpClient;
import java.net.http.HttpRequest;
import java.net.http.HttpResponse;
import java.nio.file.Path;
import java.time.Duration;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.concurrent.TimeUnit;
import org.jspecify.annotations.Nullable;

/** The whole application with its demo in a process of its own, used over HTTP as its people do. */
final class DemoApp {
    private final Path data;
    private final int port = FreePort.any();
    private final HttpClient http =
            HttpClient.newBuilder().connectTimeout(Duration.ofSeconds(2)).build();

    /** Somebody who is signed in. */
    record Signed(String cookie, String csrf) {}

    /** @param data where it keeps its data; what it says is written beside it */
    DemoApp(Path data) {
        this.data = data;
    }

    static ProcessBuilder java(String... arguments) {
        List<String> command = new ArrayList<>(List.of(
                Path.of(System.getProperty("java.home"), "bin", "java").toString(),
                "-XX:TieredStopAtLevel=1",
                "-cp",
                System.getProperty("java.class.path"),
                "dastur.demo.Main"));
        command.addAll(List.of(arguments));
        return new ProcessBuilder(command);
    }

    /** Starts it, and waits until it answers. */
    Process start() throws Exception {
        Process app = java(
                        "demo",
                        "--data",
                        data.toString(),
                        "--port",
                        String.valueOf(port),
                        "--standins-port",
                        "0",
                        "--smtp-port",
                        "0",
                        "--call-lease",
                        "2")
                .redirectErrorStream(true)
                .redirectOutput(ProcessBuilder.Redirect.appendTo(
                        data.resolveSibling("app.log").toFile()))
                .start();
        long end = System.nanoTime() + TimeUnit.MINUTES.toNanos(2);
        while (System.nanoTime() < end) {
            try {
                if (send(null, "GET", "/api/health", null, null).statusCode() == 200) {
                    return app;
                }
            } catch (IOException e) {
                Thread.sleep(20);
            }
        }
        throw new IllegalStateException("the application did not start");
    }

    /**
     * @param by null for nobody
     * @param body what is sent as JSON; null for nothing
     * @param id under which it is sent once; null for none
     */
    HttpResponse<String> send(
            @Nullable Signed by, String method, String path, @Nullable Object body, @Nullable String id)
            throws IOException, InterruptedException {
        HttpRequest.Builder request = HttpRequest.newBuilder(URI.create("http://127.0.0.1:" + port + path))
                .timeout(Duration.ofSeconds(20))
                .method(
                        method,
                        body == null
                                ? HttpRequest.BodyPublishers.noBody()
                                : HttpRequest.BodyPublishers.ofString(Json.write(body)));
        if (by != null) {
            request.header("Cookie", by.cookie()).header("X-CSRF-Token", by.csrf());
        }
        if (id != null) {
            request.header("Idempotency-Key", id);
        }
        return http.send(request.build(), HttpResponse.BodyHandlers.ofString());
    }

    String address() {
        return "http://127.0.0.1:" + port;
    }

    Signed signIn(String person) throws IOException, InterruptedException {
        HttpResponse<String> answer = send(null, "POST", "/api/session/as", Map.of("person", person), null);
        return new Signed(
                answer.headers().firstValue("Set-Cookie").orElseThrow().split(";")[0],
                parsed(answer).path("csrf").asText());
    }

    static JsonNode parsed(HttpResponse<String> answer) throws IOException {
        return Json.parse(answer.body());
    }
}
