package dastur.connectors;

import java.io.IOException;
import java.io.InputStream;
import java.net.URI;
import java.net.http.HttpClient;
import java.net.http.HttpRequest;
import java.net.http.HttpResponse;
import java.time.Duration;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import org.jspecify.annotations.Nullable;

/** Posts JSON to a program elsewhere that only has to take it: what it answers is not used beyond its status. */
public final class Posting {
    private static final Duration LIMIT = Duration.ofSeconds(15);
    private static final int MOST = 64_000;

    /** It was not taken, or nobody knows. */
    public static final class NotTaken extends Exception {
        private static final long serialVersionUID = 1;

        NotTaken(String message) {
            super(message);
        }
    }

    private final HttpClient http;

    /** @param http one that follows no redirects */
    public Posting(HttpClient http) {
        this.http = http;
    }

    /**
     * Posts.
     *
     * @param key names it, so that one that comes twice can be known (Idempotency-Key)
     * @param token a bearer token (RFC 6750); null for none
     * @throws NotTaken when it was not answered 2xx within 15 seconds
     */
    public void post(URI address, String json, String key, @Nullable String token) throws NotTaken {
        Map<String, String> headers = new HashMap<>();
        headers.put("Content-Type", "application/json");
        headers.put("Idempotency-Key", key);
        if (token != null) {
            headers.put("Authorization", "Bearer " + token);
        }
        int status = answered(address, json, headers).status();
        if (status / 100 != 2) {
            throw new NotTaken("It answered " + status + ".");
        }
    }

    /** How it was answered. @param retryAfter what the Retry-After header asks for in seconds; null for nothing */
    public record Answered(int status, @Nullable Duration retryAfter) {}

    /**
     * Posts, and says how it was answered.
     *
     * @throws NotTaken when there was no answer within 15 seconds
     */
    public Answered answered(URI address, String json, Map<String, String> headers) throws NotTaken {
        long end = System.nanoTime() + LIMIT.toNanos();
        if (address.getHost() == null) {
            throw new NotTaken("The address names no host.");
        }
        try {
            Outward.check(address.getHost(), List.of(address.getHost()));
        } catch (Outward.Refused e) {
            throw new NotTaken(String.valueOf(e.getMessage()));
        }
        HttpRequest.Builder request =
                HttpRequest.newBuilder(address).timeout(LIMIT).POST(HttpRequest.BodyPublishers.ofString(json));
        headers.forEach(request::header);
        try {
            HttpResponse<InputStream> answer = http.send(request.build(), HttpResponse.BodyHandlers.ofInputStream());
            Bounded.bytes(answer, MOST, Duration.ofNanos(end - System.nanoTime()));
            Duration asked = answer.headers()
                    .firstValue("Retry-After")
                    .filter(v -> v.matches("\\d{1,6}"))
                    .map(v -> Duration.ofSeconds(Long.parseLong(v)))
                    .orElse(null);
            return new Answered(answer.statusCode(), asked);
        } catch (InterruptedException e) {
            Thread.currentThread().interrupt();
            throw new NotTaken("Posting was ended.");
        } catch (Bounded.TooLong | Bounded.TooSlow e) {
            throw new NotTaken(e.getMessage());
        } catch (IOException e) {
            throw new NotTaken("It cannot be reached.");
        }
    }
}
