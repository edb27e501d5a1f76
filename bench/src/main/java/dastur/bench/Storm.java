package dastur.bench;

import com.fasterxml.jackson.databind.JsonNode;
import com.sun.net.httpserver.HttpServer;
import dastur.core.json.Json;
import java.io.IOException;
import java.net.InetAddress;
import java.net.InetSocketAddress;
import java.net.URI;
import java.net.http.HttpClient;
import java.net.http.HttpRequest;
import java.net.http.HttpResponse;
import java.nio.file.Path;
import java.time.Duration;
import java.util.ArrayList;
import java.util.Collections;
import java.util.List;
import java.util.Map;
import java.util.concurrent.ConcurrentHashMap;
import java.util.concurrent.TimeUnit;
import java.util.concurrent.atomic.AtomicLong;
import java.util.concurrent.locks.LockSupport;

/**
 * A storm of signals (I8): many a second, of few matters, while somebody uses the desk and the process is killed once. Then: is
 * every signal that was acknowledged there, is one ticket about each matter, how long did the desk take? Before it, at a tenth of
 * the rate, how long from a sender's post to the first call that its workflow makes.
 */
final class Storm {
    private static final int MATTERS = 40;
    /** Events in a post, as a monitor that batches sends them. */
    private static final int TOGETHER = 50;

    private static final int SENDERS = 4;
    private static final int QUIET_SECONDS = 20;
    private static final int QUIET_RATE = 200;

    private final DemoApp app;
    private final HttpClient http =
            HttpClient.newBuilder().connectTimeout(Duration.ofSeconds(2)).build();
    private final AtomicLong sent = new AtomicLong();
    private final AtomicLong again = new AtomicLong();
    private final Map<String, Long> postedAt = new ConcurrentHashMap<>();
    private final List<Double> firstCalls = Collections.synchronizedList(new ArrayList<>());
    private final List<Double> desk = Collections.synchronizedList(new ArrayList<>());
    private String token = "";
    private volatile boolean over;

    private Storm(Path folder) {
        this.app = new DemoApp(folder.resolve("data"));
    }

    static void measure(Path folder, int seconds, int rate) throws Exception {
        new Storm(folder).run(seconds, rate);
    }

    private void run(int seconds, int rate) throws Exception {
        HttpServer machine = machine();
        Process life = app.start();
        try {
            setUp(machine.getAddress().getPort());
            // Once for the compiler, and once to be measured.
            quiet("w");
            firstCalls.clear();
            quiet("q");
            System.out.printf(
                    "%d a second for %d s, one in a hundred begins a matter: from post to the first call %s%n",
                    QUIET_RATE, QUIET_SECONDS, quantiles(firstCalls));
            life = storm(life, seconds, rate);
        } finally {
            over = true;
            life.destroy();
            life.waitFor(30, TimeUnit.SECONDS);
            machine.stop(0);
        }
    }

    // --- the machine that a workflow calls

    private HttpServer machine() throws IOException {
        HttpServer server = HttpServer.create(new InetSocketAddress(InetAddress.getLoopbackAddress(), 0), 100);
        server.createContext("/", exchange -> {
            String matter = exchange.getRequestURI().getPath().substring(1);
            Long posted = postedAt.remove(matter);
            if (posted != null) {
                firstCalls.add((System.nanoTime() - posted) / 1e6);
            }
            exchange.sendResponseHeaders(200, 2);
            exchange.getResponseBody().write("{}".getBytes(java.nio.charset.StandardCharsets.UTF_8));
            exchange.close();
        });
        server.start();
        return server;
    }

    private void setUp(int port) throws IOException, InterruptedException {
        DemoApp.Signed halvard = app.signIn("halvard");
        Peers.done(app.send(halvard, "PUT", "/api/sources/storm", Json.parse("""
                {"name":"Storm","open":true,"proof":"token","otherwise":"incident","mapping":{"rows":[
                {"to":"what","from":{"is":"at","pointer":"/what"}},{"to":"sort","from":{"is":"at","pointer":"/sort"}},
                {"to":"severity","from":{"is":"text","text":"major"}}]}}"""), null));
        token = Peers.done(app.send(halvard, "POST", "/api/sources/storm/secrets", Map.of("which", 1), null))
                .path("secret")
                .asText();
        Peers.done(app.send(halvard, "PUT", "/api/connections/storm", Json.parse("""
                {"key":"storm","name":"Storm machine","base":"http://127.0.0.1:%d","allowedHosts":[],"secret":null}""".formatted(port)), null));
        Peers.done(app.send(halvard, "PUT", "/api/actions/storm.go", Json.parse("""
                {"key":"storm.go","name":"Go","description":"","connection":"storm",
                "call":{"method":"GET","path":"/{{ input.what }}"},
                "inputs":[{"name":"what","label":"What","type":"text","required":true}],"outputs":[],"results":[],
                "repeat":"free","changesWorld":false,"timeLimit":"10 s","tries":2,"pause":"1 s"}"""), null));
        Peers.publish(app, app.signIn("ines"), """
                workflow storm-go "Go at once" for incident
                  owner ines
                go: run storm.go "Go" at most 2 tries
                  with what = ticket.title
                  failed -> end
                end: done "gone"
                """, """
                {"is":"signal comes","source":"storm"}""");
    }

    // --- quietly

    private void quiet(String round) throws InterruptedException {
        long began = System.nanoTime();
        for (int i = 0; i < QUIET_RATE * QUIET_SECONDS; i++) {
            String what = round + (i % 100 == 0 ? "-" + i : "-0");
            if (i % 100 == 0) {
                postedAt.put(what, System.nanoTime());
            }
            int n = i;
            Thread.startVirtualThread(() -> post(List.of(event(round + n, what))));
            pace(began, i + 1, QUIET_RATE);
        }
        Thread.sleep(2_000);
    }

    private static void pace(long began, long done, int rate) {
        long due = began + done * 1_000_000_000L / rate;
        long left = due - System.nanoTime();
        if (left > 0) {
            LockSupport.parkNanos(left);
        }
    }

    // --- the storm

    private Process storm(Process first, int seconds, int rate) throws Exception {
        Thread.ofPlatform().daemon().start(this::lookAtDesk);
        long before = count();
        long began = System.nanoTime();
        List<Thread> senders = new ArrayList<>();
        for (int s = 0; s < SENDERS; s++) {
            int sender = s;
            senders.add(Thread.ofPlatform().start(() -> send(sender, seconds, rate / SENDERS)));
        }
        Thread.sleep(seconds * 500L);
        first.destroyForcibly().waitFor();
        Process second = app.start();
        for (Thread sender : senders) {
            sender.join();
        }
        double took = (System.nanoTime() - began) / 1e9;
        System.out.printf(
                "%d signals in %.0f s (%.0f a second), killed once in the middle; %d posts were sent again%n",
                sent.get(), took, sent.get() / took, again.get());
        long routing = System.nanoTime();
        while (count() - before < sent.get() && System.nanoTime() - routing < 120e9) {
            Thread.sleep(200);
        }
        over = true;
        System.out.printf(
                "acknowledged %d, counted by their matters %d, %.1f s after the last was sent%n",
                sent.get(), count() - before, (System.nanoTime() - routing) / 1e9);
        System.out.println("tickets about the " + MATTERS + " matters: " + tickets());
        System.out.println("the desk meanwhile: " + quantiles(desk));
        return second;
    }

    private void send(int sender, int seconds, int rate) {
        long began = System.nanoTime();
        int posts = seconds * rate / TOGETHER;
        for (int p = 0; p < posts; p++) {
            List<Map<String, Object>> events = new ArrayList<>();
            for (int e = 0; e < TOGETHER; e++) {
                int n = p * TOGETHER + e;
                events.add(event(sender + "-" + n, "storm-" + n % MATTERS));
            }
            post(events);
            sent.addAndGet(TOGETHER);
            pace(began, (p + 1L) * TOGETHER, rate);
        }
    }

    private static Map<String, Object> event(String id, String what) {
        return Map.of(
                "specversion",
                "1.0",
                "id",
                id,
                "source",
                "/storm",
                "type",
                "example.storm",
                "what",
                what,
                "sort",
                "fault");
    }

    /** Until it is acknowledged, as a sender does that wants to lose nothing: the same delivery is never counted twice. */
    private void post(List<Map<String, Object>> events) {
        HttpRequest request = HttpRequest.newBuilder(URI.create(app.address() + "/in/storm"))
                .timeout(Duration.ofSeconds(10))
                .header("Authorization", "Bearer " + token)
                .header("Content-Type", "application/cloudevents-batch+json")
                .POST(HttpRequest.BodyPublishers.ofString(Json.write(events)))
                .build();
        while (true) {
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
            LockSupport.parkNanos(200_000_000);
        }
    }

    private void lookAtDesk() {
        while (!over) {
            try {
                DemoApp.Signed ada = app.signIn("ada");
                while (!over) {
                    long began = System.nanoTime();
                    if (app.send(ada, "GET", "/api/desk", null, null).statusCode() == 200) {
                        desk.add((System.nanoTime() - began) / 1e6);
                    }
                    LockSupport.parkNanos(200_000_000);
                }
            } catch (IOException | RuntimeException e) {
                LockSupport.parkNanos(500_000_000);
            } catch (InterruptedException e) {
                return;
            }
        }
    }

    private List<JsonNode> matters() throws IOException, InterruptedException {
        List<JsonNode> all = new ArrayList<>();
        Peers.done(app.send(app.signIn("ada"), "GET", "/api/matters", null, null))
                .path("matters")
                .forEach(m -> {
                    if (m.path("key").asText().startsWith("storm-")) {
                        all.add(m);
                    }
                });
        return all;
    }

    private long count() throws IOException, InterruptedException {
        return matters().stream().mapToLong(m -> m.path("count").asLong()).sum();
    }

    private String tickets() throws IOException, InterruptedException {
        List<String> tickets =
                matters().stream().map(m -> m.path("ticket").asText()).toList();
        return tickets.size() + ", of which different "
                + tickets.stream().distinct().count();
    }

    private static String quantiles(List<Double> all) {
        double[] sorted = List.copyOf(all).stream().mapToDouble(d -> d).sorted().toArray();
        return sorted.length == 0
                ? "none"
                : "p50 %.0f ms, p95 %.0f ms, longest %.0f ms (%d)"
                        .formatted(
                                sorted[sorted.length / 2],
                                sorted[(int) (sorted.length * 0.95)],
                                sorted[sorted.length - 1],
                                sorted.length);
    }
}
