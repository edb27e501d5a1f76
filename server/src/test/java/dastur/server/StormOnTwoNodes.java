package dastur.server;

import com.fasterxml.jackson.databind.JsonNode;
import dastur.core.json.Json;
import dastur.core.people.Person;
import dastur.core.people.PersonId;
import dastur.core.people.Role;
import dastur.server.auth.Secrets;
import dastur.store.Database;
import dastur.store.Organisation;
import dastur.store.Sessions;
import java.io.IOException;
import java.net.URI;
import java.net.http.HttpClient;
import java.net.http.HttpRequest;
import java.net.http.HttpResponse;
import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.HashSet;
import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.concurrent.atomic.AtomicLong;
import java.util.concurrent.locks.LockSupport;

/**
 * A storm of signals at two nodes of one application (I8): each post goes to one of them, a part of the same posts to both, and the
 * node that routes is killed in the middle. Senders repeat what was not acknowledged, at the other node.
 */
public final class StormOnTwoNodes implements AutoCloseable {
    private static final Duration PATIENCE = Duration.ofMinutes(2);
    /** Of so many posts one goes to both nodes, as from a sender that did not hear the answer. */
    private static final int TWICE = 10;

    /**
     * What came of it.
     *
     * @param acknowledged events that a node has acknowledged, each counted once
     * @param counted by their matters
     * @param tickets open ones about them
     * @param again how many posts were sent again
     * @param seconds how long it was sent
     * @param settled how long after the last was sent all were counted, seconds
     */
    public record Outcome(
            long acknowledged,
            long counted,
            int matters,
            Set<String> tickets,
            long again,
            double seconds,
            double settled) {}

    private final HttpClient http =
            HttpClient.newBuilder().connectTimeout(Duration.ofSeconds(2)).build();
    private final String token = Secrets.newToken();
    private final TwoNodes nodes;
    private final String secret;
    private final AtomicLong again = new AtomicLong();

    public StormOnTwoNodes(java.nio.file.Path folder) throws IOException, InterruptedException {
        this.nodes = new TwoNodes(folder, this::prepare);
        asked("PUT", "/api/sources/storm", """
                {"name":"Storm","open":true,"proof":"token","otherwise":"incident","mapping":{"rows":[
                {"to":"what","from":{"is":"at","pointer":"/what"}},{"to":"sort","from":{"is":"at","pointer":"/sort"}},
                {"to":"severity","from":{"is":"text","text":"major"}}]}}""");
        this.secret = asked("POST", "/api/sources/storm/secrets", "{\"which\":1}")
                .path("secret")
                .asText();
    }

    private void prepare(Database database) {
        PersonId halvard = new PersonId("halvard");
        new Organisation(database)
                .putPerson(
                        new Person(
                                halvard,
                                "Halvard Quist",
                                "halvard@kestrel.example",
                                Set.of(Role.AGENT, Role.ADMINISTRATOR),
                                true),
                        null);
        Instant now = Instant.now();
        new Sessions(database)
                .addToken(
                        "t1",
                        Secrets.hashToken(token),
                        halvard,
                        "storm",
                        Sessions.Scope.ALL,
                        now,
                        now.plus(Duration.ofDays(1)));
    }

    /**
     * Sends, kills each node once while it is sent, and waits until all is counted.
     *
     * @param rate events a second
     */
    public Outcome run(int signals, int matters, int together, int rate) throws Exception {
        long began = System.nanoTime();
        List<Thread> senders = new ArrayList<>();
        for (int s = 0; s < 4; s++) {
            int sender = s;
            senders.add(Thread.ofPlatform().start(() -> send(sender, signals / 4, matters, together, rate / 4)));
        }
        long half = (long) (signals * 1e9 / rate / 3);
        LockSupport.parkNanos(half);
        nodes.kill(0);
        nodes.startAgain(0);
        LockSupport.parkNanos(half / 2);
        nodes.kill(1);
        nodes.startAgain(1);
        for (Thread sender : senders) {
            sender.join();
        }
        double seconds = (System.nanoTime() - began) / 1e9;
        long last = System.nanoTime();
        List<JsonNode> all = matters();
        while (counted(all) < signals && System.nanoTime() - last < PATIENCE.toNanos()) {
            LockSupport.parkNanos(100_000_000);
            all = matters();
        }
        Set<String> tickets = new HashSet<>();
        all.forEach(m -> tickets.add(m.path("ticket").asText()));
        return new Outcome(
                signals, counted(all), all.size(), tickets, again.get(), seconds, (System.nanoTime() - last) / 1e9);
    }

    private static long counted(List<JsonNode> matters) {
        return matters.stream().mapToLong(m -> m.path("count").asLong()).sum();
    }

    /** The database past the nodes, for the audit. */
    public Database open() {
        return nodes.open();
    }

    private List<JsonNode> matters() throws IOException, InterruptedException {
        List<JsonNode> all = new ArrayList<>();
        asked("GET", "/api/matters", null).path("matters").forEach(all::add);
        return all;
    }

    private void send(int sender, int signals, int matters, int together, int rate) {
        long began = System.nanoTime();
        for (int from = 0; from < signals; from += together) {
            List<Map<String, String>> events = new ArrayList<>();
            for (int n = from; n < from + together; n++) {
                events.add(Map.of(
                        "specversion",
                        "1.0",
                        "id",
                        sender + "-" + n,
                        "source",
                        "/storm",
                        "type",
                        "example.storm",
                        "what",
                        "storm-" + n % matters,
                        "sort",
                        "fault"));
            }
            int post = from / together;
            if (post % TWICE == 0) {
                Thread other = Thread.startVirtualThread(() -> post(events, post + 1));
                post(events, post);
                joined(other);
            } else {
                post(events, post);
            }
            long left = began + (from + together) * 1_000_000_000L / rate - System.nanoTime();
            if (left > 0) {
                LockSupport.parkNanos(left);
            }
        }
    }

    private static void joined(Thread thread) {
        try {
            thread.join();
        } catch (InterruptedException e) {
            Thread.currentThread().interrupt();
        }
    }

    /** Until one of the nodes has acknowledged it. */
    private void post(List<Map<String, String>> events, int first) {
        for (int node = first; true; node++) {
            HttpRequest request = HttpRequest.newBuilder(URI.create(nodes.address(node % 2) + "/in/storm"))
                    .timeout(Duration.ofSeconds(10))
                    .header("Authorization", "Bearer " + secret)
                    .header("Content-Type", "application/cloudevents-batch+json")
                    .POST(HttpRequest.BodyPublishers.ofString(Json.write(events)))
                    .build();
            try {
                if (http.send(request, HttpResponse.BodyHandlers.discarding()).statusCode() == 202) {
                    return;
                }
            } catch (IOException e) {
                // It is down; nobody knows whether it was taken.
            } catch (InterruptedException e) {
                Thread.currentThread().interrupt();
                return;
            }
            again.incrementAndGet();
            LockSupport.parkNanos(50_000_000);
        }
    }

    private JsonNode asked(String method, String path, String body) throws IOException, InterruptedException {
        IOException last = null;
        for (int i = 0; i < 100; i++) {
            HttpRequest request = HttpRequest.newBuilder(URI.create(nodes.address(i % 2) + path))
                    .timeout(Duration.ofSeconds(20))
                    .header("Authorization", "Bearer " + token)
                    .header("Content-Type", "application/json")
                    .method(
                            method,
                            body == null
                                    ? HttpRequest.BodyPublishers.noBody()
                                    : HttpRequest.BodyPublishers.ofString(body))
                    .build();
            try {
                HttpResponse<String> answer = http.send(request, HttpResponse.BodyHandlers.ofString());
                if (answer.statusCode() < 300) {
                    return Json.parse(answer.body());
                }
                last = new IOException(answer.statusCode() + " " + answer.body());
            } catch (IOException e) {
                last = e;
            }
            LockSupport.parkNanos(100_000_000);
        }
        throw last;
    }

    @Override
    public void close() {
        nodes.close();
    }
}
