package dastur.standins;

import com.fasterxml.jackson.databind.ObjectMapper;
import java.io.IOException;
import java.net.URI;
import java.net.http.HttpClient;
import java.net.http.HttpRequest;
import java.net.http.HttpResponse;
import java.time.Duration;
import java.util.Map;
import java.util.Optional;
import java.util.UUID;
import java.util.concurrent.ConcurrentSkipListMap;
import java.util.concurrent.atomic.AtomicInteger;
import java.util.function.Supplier;

/** The booking site's own monitoring: calls an address when a page is slow, again under the same key where it got no answer. */
public final class SiteMonitor {
    private static final ObjectMapper JSON = new ObjectMapper();
    private static final int TRIES = 3;
    private static final int ANSWERS_KEPT = 5;

    /** @param to what it calls; empty while nobody listens there @param token what it shows */
    public record Settings(Supplier<Optional<URI>> to, String token) {}

    private final Settings settings;
    private final HttpClient client =
            HttpClient.newBuilder().connectTimeout(Duration.ofSeconds(2)).build();
    private final Map<String, String> answers = new ConcurrentSkipListMap<>();
    private final AtomicInteger calls = new AtomicInteger();

    SiteMonitor(Settings settings) {
        this.settings = settings;
    }

    /** Says that a page is slow. */
    void slow(String page, double seconds, String node) {
        String name = "call %03d".formatted(calls.incrementAndGet());
        answers.put(name, "nobody listens");
        settings.to().get().ifPresent(to -> answers.put(name, call(to, page, seconds, node)));
        while (answers.size() > ANSWERS_KEPT) {
            answers.remove(answers.keySet().iterator().next());
        }
    }

    private String call(URI to, String page, double seconds, String node) {
        String key = UUID.randomUUID().toString();
        for (int i = 0; i < TRIES; i++) {
            try {
                HttpResponse<String> answer = client.send(
                        HttpRequest.newBuilder(to)
                                .timeout(Duration.ofSeconds(5))
                                .header("Content-Type", "application/json")
                                .header("Authorization", "Bearer " + settings.token())
                                .header("Idempotency-Key", key)
                                .header("User-Agent", "booking-site-monitor/4")
                                .POST(HttpRequest.BodyPublishers.ofString(JSON.writeValueAsString(
                                        Map.of("page", page, "seconds", seconds, "node", node))))
                                .build(),
                        HttpResponse.BodyHandlers.ofString());
                return answer.statusCode() + " " + answer.body();
            } catch (IOException e) {
                answers.put("last trouble", String.valueOf(e.getMessage()));
            } catch (InterruptedException e) {
                Thread.currentThread().interrupt();
                return "interrupted";
            }
        }
        return "no answer";
    }

    /** What it was answered. */
    Map<String, String> answers() {
        return answers;
    }
}
