package dastur.bench;

import com.sun.net.httpserver.HttpServer;
import java.io.IOException;
import java.net.InetSocketAddress;
import java.net.URI;
import java.net.http.HttpClient;
import java.net.http.HttpRequest;
import java.net.http.HttpResponse;
import java.nio.charset.StandardCharsets;
import java.nio.file.Path;
import java.util.List;
import java.util.Map;
import java.util.UUID;
import java.util.concurrent.CountDownLatch;
import java.util.concurrent.ExecutorService;
import java.util.concurrent.Executors;
import java.util.concurrent.TimeUnit;
import java.util.concurrent.atomic.AtomicInteger;
import java.util.concurrent.locks.LockSupport;

/**
 * Calls at once: many runs wait at a call that is held back, to a machine that takes a second for each; then all are let out. Beside it
 * the same calls made plainly, all at once.
 */
final class AtOnce {
    private static final long TAKES_MILLIS = 1_000;

    private final DemoApp app;
    private final HttpServer machine;
    private final AtomicInteger underWay = new AtomicInteger();
    private final AtomicInteger most = new AtomicInteger();
    private volatile CountDownLatch left = new CountDownLatch(0);

    private AtOnce(Path folder) throws IOException {
        app = new DemoApp(folder.resolve("data"));
        machine = HttpServer.create(new InetSocketAddress("127.0.0.1", 0), 1_000);
        machine.setExecutor(Executors.newVirtualThreadPerTaskExecutor());
        machine.createContext("/", exchange -> {
            most.accumulateAndGet(underWay.incrementAndGet(), Math::max);
            LockSupport.parkNanos(TimeUnit.MILLISECONDS.toNanos(TAKES_MILLIS));
            underWay.decrementAndGet();
            byte[] answer = "{}".getBytes(StandardCharsets.UTF_8);
            exchange.sendResponseHeaders(200, answer.length);
            exchange.getResponseBody().write(answer);
            exchange.close();
            left.countDown();
        });
        machine.start();
    }

    /** @param count calls in all */
    static void measure(Path folder, int count) throws Exception {
        new AtOnce(folder).run(count);
    }

    private String address() {
        return "http://127.0.0.1:" + machine.getAddress().getPort();
    }

    private void run(int count) throws Exception {
        Process life = app.start();
        try {
            System.out.println("                     | all done after | at once at most");
            told("made plainly", plainly(count));
            DemoApp.Signed ines = app.signIn("ines");
            DemoApp.Signed halvard = app.signIn("halvard");
            for (int systems : new int[] {1, 10, 40}) {
                String name = "to " + systems + (systems == 1 ? " system" : " systems");
                told(name, through(ines, halvard, systems, count));
            }
        } finally {
            life.destroy();
            life.waitFor(30, TimeUnit.SECONDS);
            machine.stop(0);
        }
    }

    private void told(String what, double seconds) {
        System.out.printf("%-20s | %12.1f s | %d%n", what, seconds, most.getAndSet(0));
    }

    private double plainly(int count) throws Exception {
        left = new CountDownLatch(count);
        long begun = System.nanoTime();
        try (HttpClient http = HttpClient.newHttpClient();
                ExecutorService threads = Executors.newVirtualThreadPerTaskExecutor()) {
            for (int i = 0; i < count; i++) {
                threads.submit(() -> http.send(
                        HttpRequest.newBuilder(URI.create(address() + "/plain"))
                                .POST(HttpRequest.BodyPublishers.ofString("{}"))
                                .build(),
                        HttpResponse.BodyHandlers.ofString()));
            }
        }
        left.await();
        return (System.nanoTime() - begun) / 1e9;
    }

    /** From when they are let out until the machine has answered the last. */
    private double through(DemoApp.Signed ines, DemoApp.Signed halvard, int systems, int count) throws Exception {
        for (int i = 0; i < systems; i++) {
            String key = "at-once-" + systems + "-" + i;
            Map<String, Object> connection =
                    Map.of("key", key, "name", key, "base", address(), "allowedHosts", List.of());
            app.send(halvard, "PUT", "/api/connections/" + key, connection, null);
            app.send(
                    halvard,
                    "PUT",
                    "/api/actions/" + key,
                    Map.of("action", action(key, Map.of("method", "POST", "path", "/called", "body", "{}"), 1)),
                    null);
            Peers.publish(app, ines, """
                    workflow %s "%s" for incident
                      owner ines

                    call: run %s "Call it"

                    done: done "called" as "Called"
                    """.formatted(key, key, key), "{\"is\":\"by hand\"}");
            hold(halvard, key, true);
        }
        for (int i = 0; i < count; i++) {
            String key = "at-once-" + systems + "-" + i % systems;
            started(app, ines, key);
        }
        left = new CountDownLatch(count);
        long begun = System.nanoTime();
        for (int i = 0; i < systems; i++) {
            hold(halvard, "at-once-" + systems + "-" + i, false);
        }
        if (!left.await(10, TimeUnit.MINUTES)) {
            throw new IllegalStateException(left.getCount() + " were never made");
        }
        return (System.nanoTime() - begun) / 1e9;
    }

    private void hold(DemoApp.Signed by, String connection, boolean held) throws IOException, InterruptedException {
        HttpResponse<String> answer = app.send(
                by, "PUT", "/api/connections/" + connection + "/calls", Map.of("held", held, "why", "measured"), null);
        if (answer.statusCode() >= 300) {
            throw new IllegalStateException(answer.body());
        }
    }

    /** Starts a workflow on a ticket of its own. @return the ticket */
    static String started(DemoApp app, DemoApp.Signed by, String workflow) throws IOException, InterruptedException {
        String ticket = Peers.done(app.send(
                        by,
                        "POST",
                        "/api/tickets",
                        Map.of("kind", "incident", "fields", Map.of("title", workflow, "requester", "mira")),
                        UUID.randomUUID().toString()))
                .path("ticket")
                .asText();
        Peers.done(app.send(
                by,
                "POST",
                "/api/tickets/" + ticket + "/runs",
                Map.of("workflow", workflow, "inputs", Map.of()),
                UUID.randomUUID().toString()));
        return ticket;
    }

    /** An action over the connection of its own key. */
    static Map<String, Object> action(String key, Map<String, Object> call, int tries) {
        return Map.ofEntries(
                Map.entry("key", key),
                Map.entry("name", key),
                Map.entry("description", ""),
                Map.entry("connection", key),
                Map.entry("call", call),
                Map.entry("inputs", List.of()),
                Map.entry("outputs", List.of()),
                Map.entry("results", List.of()),
                Map.entry("repeat", "free"),
                Map.entry("changesWorld", false),
                Map.entry("timeLimit", "5 min"),
                Map.entry("tries", tries),
                Map.entry("pause", "1 s"));
    }
}
