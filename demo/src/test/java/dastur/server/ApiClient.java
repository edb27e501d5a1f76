package dastur.server;

import static org.assertj.core.api.Assertions.assertThat;

import com.fasterxml.jackson.databind.JsonNode;
import dastur.core.json.Json;
import dastur.store.Outbox;
import java.io.IOException;
import java.net.URI;
import java.net.http.HttpClient;
import java.net.http.HttpRequest;
import java.net.http.HttpResponse;
import java.nio.file.Path;
import java.time.Duration;
import java.time.Instant;
import java.time.InstantSource;
import java.util.HashMap;
import java.util.Map;
import java.util.concurrent.locks.LockSupport;

/** The running demo, called over HTTP as its people. */
final class ApiClient implements AutoCloseable {
    record Signed(HttpClient client, String cookie, String csrf) {}

    /** @param body null when there is none */
    record Answer(int status, JsonNode body, HttpResponse<String> raw) {
        /** The place that a problem names; blank for none. */
        String where() {
            return body.path("where").asText();
        }
    }

    private final DemoApp app;
    private final Map<String, Signed> signed = new HashMap<>();

    private ApiClient(DemoApp app) {
        this.app = app;
    }

    static ApiClient demo(Path data) {
        return new ApiClient(
                DemoData.start(data, InstantSource.system(), Duration.ofSeconds(2), Duration.ofSeconds(1)));
    }

    /** The same with the relay of the Mooring Data Room at work. */
    static ApiClient withRelay(Path data) {
        return new ApiClient(
                DemoData.withRelay(data, InstantSource.system(), Duration.ofSeconds(2), Duration.ofSeconds(1)));
    }

    /** On what is in a folder already. */
    static ApiClient again(Path data) {
        return new ApiClient(
                DemoData.again(data, InstantSource.system(), Duration.ofSeconds(2), Duration.ofSeconds(1)));
    }

    DemoApp app() {
        return app;
    }

    Signed as(String person) {
        return signed.computeIfAbsent(person, this::signedAnew);
    }

    /** Signs somebody in again whose sign-in has ended. */
    void signAnew(String person) {
        signed.put(person, signedAnew(person));
    }

    /** A sign-in of its own, beside the one that is kept. */
    Signed signedAnew(String person) {
        return signed("/api/session/as", "{\"person\":\"" + person + "\"}");
    }

    /** Signs somebody in who is none of the demo's people. */
    void signIn(String person, String password) {
        signed.put(person, signed("/api/session", "{\"person\":\"" + person + "\",\"password\":\"" + password + "\"}"));
    }

    private Signed signed(String path, String body) {
        Answer answer = send(HttpClient.newHttpClient(), "POST", path, body, Map.of());
        assertThat(answer.status()).isEqualTo(200);
        String cookie = answer.raw().headers().firstValue("Set-Cookie").orElseThrow();
        assertThat(cookie).contains("HttpOnly").contains("SameSite=Strict");
        return new Signed(
                HttpClient.newHttpClient(),
                cookie.split(";")[0],
                answer.body().get("csrf").asText());
    }

    Answer send(Signed by, String method, String path, String body) {
        return send(by.client(), method, path, body, Map.of("Cookie", by.cookie(), "X-CSRF-Token", by.csrf()));
    }

    /** Waits until nothing is under way (mails, rungs that are due): it would look like a change made by a test. */
    void untilQuiet() {
        Outbox outbox = new Outbox(app.database());
        Instant end = Instant.now().plusSeconds(60);
        // Alarms first: one that fires leaves rows in the outbox.
        while (outbox.overdueAlarms(Instant.now()) > 0 || outbox.waiting() > 0) {
            if (Instant.now().isAfter(end)) {
                throw new AssertionError("the demo never became quiet");
            }
            LockSupport.parkNanos(20_000_000);
        }
    }

    Answer call(String person, String method, String path, String body) {
        return call(person, method, path, body, Map.of());
    }

    Answer call(String person, String method, String path, String body, Map<String, String> more) {
        if (person.isEmpty()) {
            return send(HttpClient.newHttpClient(), method, path, body, more);
        }
        Signed by = as(person);
        Map<String, String> headers = new HashMap<>(Map.of("Cookie", by.cookie(), "X-CSRF-Token", by.csrf()));
        headers.putAll(more);
        return send(by.client(), method, path, body, headers);
    }

    Answer send(HttpClient client, String method, String path, String body, Map<String, String> headers) {
        try {
            HttpRequest.Builder request = HttpRequest.newBuilder(URI.create("http://127.0.0.1:" + app.port() + path));
            headers.forEach(request::header);
            request.method(
                    method,
                    body == null ? HttpRequest.BodyPublishers.noBody() : HttpRequest.BodyPublishers.ofString(body));
            HttpResponse<String> response = client.send(request.build(), HttpResponse.BodyHandlers.ofString());
            String type = response.headers().firstValue("Content-Type").orElse("");
            boolean json = type.contains("json") && !type.contains("ndjson");
            return new Answer(
                    response.statusCode(),
                    json && !response.body().isBlank() ? Json.parse(response.body()) : null,
                    response);
        } catch (IOException | InterruptedException e) {
            throw new IllegalStateException(e);
        }
    }

    @Override
    public void close() {
        app.close();
    }
}
