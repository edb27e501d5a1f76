package dastur.relay;

import com.fasterxml.jackson.core.JsonProcessingException;
import com.fasterxml.jackson.databind.DeserializationFeature;
import com.fasterxml.jackson.databind.ObjectMapper;
import dastur.connectors.relay.Lines;
import dastur.core.json.Json;
import dastur.core.json.Texts;
import dastur.core.record.Signing;
import java.io.IOException;
import java.io.InputStream;
import java.net.URI;
import java.net.http.HttpClient;
import java.net.http.HttpRequest;
import java.net.http.HttpResponse;
import java.nio.charset.StandardCharsets;
import java.security.KeyPair;
import java.time.Duration;
import java.time.InstantSource;
import java.util.List;
import org.jspecify.annotations.Nullable;

/** The line to the server: always asked from here. Answers are bounded in time and bytes. */
final class Line {
    private static final Duration CONNECT = Duration.ofSeconds(10);
    private static final Duration ANSWER = Duration.ofSeconds(15);
    /** The server waits a while for something to do. */
    private static final Duration WORK = Duration.ofSeconds(45);

    private static final List<String> OURSELVES = List.of("localhost", "127.0.0.1", "[::1]");
    /** What a newer server says besides is left aside. */
    private static final ObjectMapper LENIENT =
            Json.mapper().copy().disable(DeserializationFeature.FAIL_ON_UNKNOWN_PROPERTIES);

    /** The server says no. @param status of HTTP (RFC 9110) */
    static final class Refused extends Exception {
        private final int status;

        Refused(int status, String message) {
            super(message);
            this.status = status;
        }

        int status() {
            return status;
        }

        /** Whether the server wants to be greeted before anything else. */
        boolean greetFirst() {
            return status == 403;
        }

        /** Whether asking again can never help. */
        boolean forGood() {
            return status == 409 || status == 410;
        }
    }

    private final HttpClient client = HttpClient.newBuilder()
            .version(HttpClient.Version.HTTP_1_1)
            .followRedirects(HttpClient.Redirect.NEVER)
            .connectTimeout(CONNECT)
            .build();

    private final String address;
    private final InstantSource clock;

    /** @throws IllegalArgumentException when the address is none over which anything may be said */
    Line(String address, InstantSource clock) {
        URI uri = URI.create(address);
        boolean open = "http".equals(uri.getScheme()) && OURSELVES.contains(String.valueOf(uri.getHost()));
        if (!"https".equals(uri.getScheme()) && !open || uri.getHost() == null) {
            throw new IllegalArgumentException(
                    "The server is reached over https://. Only on this machine itself it may be http://.");
        }
        this.address = address.replaceAll("/+$", "");
        this.clock = clock;
    }

    String address() {
        return address;
    }

    <T> T ask(String what, Object body, Class<T> answer) throws IOException, InterruptedException, Refused {
        return ask(what, body, answer, null, null);
    }

    /**
     * Asks the server.
     *
     * @param relay who asks; null before it has joined
     * @throws Refused when the server says no
     * @throws IOException when the line is cut
     */
    <T> T ask(String what, Object body, Class<T> answer, @Nullable String relay, @Nullable KeyPair key)
            throws IOException, InterruptedException, Refused {
        String path = "/in/relay/" + what;
        String text = Json.write(body);
        HttpRequest.Builder request = HttpRequest.newBuilder(URI.create(address + path))
                .timeout(what.equals("take") ? WORK : ANSWER)
                .header("Content-Type", "application/json")
                .POST(HttpRequest.BodyPublishers.ofString(text));
        if (relay != null && key != null) {
            long at = clock.millis();
            request.header(Lines.RELAY, relay)
                    .header(Lines.AT, String.valueOf(at))
                    .header(Lines.SIGNATURE, Signing.sign(Lines.request(path, at, text), key));
        }
        HttpResponse<InputStream> response = client.send(request.build(), HttpResponse.BodyHandlers.ofInputStream());
        String said;
        try (InputStream in = response.body()) {
            said = new String(in.readNBytes(Lines.MOST), StandardCharsets.UTF_8);
        }
        try {
            if (response.statusCode() != 200) {
                throw new Refused(response.statusCode(), reason(response.statusCode(), said));
            }
            return LENIENT.readValue(said, answer);
        } catch (JsonProcessingException e) {
            throw new IOException("what came back is not of a Dastur server");
        }
    }

    private static String reason(int status, String said) {
        try {
            Lines.No no = LENIENT.readValue(said, Lines.No.class);
            return no.detail() != null ? no.detail() : "The server answered " + status + ".";
        } catch (JsonProcessingException e) {
            return "The server answered " + status + ": " + Texts.clip(said.strip(), 120);
        }
    }
}
