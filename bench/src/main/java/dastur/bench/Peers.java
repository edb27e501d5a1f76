package dastur.bench;

import com.fasterxml.jackson.databind.JsonNode;
import com.fasterxml.jackson.databind.node.ObjectNode;
import dastur.core.json.Json;
import dastur.core.notation.Names;
import dastur.core.notation.Notation;
import java.io.IOException;
import java.io.OutputStream;
import java.net.InetAddress;
import java.net.ServerSocket;
import java.net.Socket;
import java.net.http.HttpResponse;
import java.nio.charset.StandardCharsets;
import java.nio.file.Path;
import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.concurrent.TimeUnit;
import java.util.concurrent.atomic.AtomicInteger;
import java.util.concurrent.locks.LockSupport;

/**
 * Many outside systems answer a byte a second, for ever, and more calls wait for each than may be under way to it. Meanwhile
 * calls to another system are made, mails go out and clocks ring: how late are they? The reference is the same without them.
 */
final class Peers {
    static final int PEERS = 200;
    /** More than may be under way to one peer at once. */
    private static final int CALLS_A_PEER = 20;

    private static final int REFERENCE_SECONDS = 60;

    private final DemoApp app;
    private final List<ServerSocket> doors = new ArrayList<>();
    private final AtomicInteger dripping = new AtomicInteger();

    private Peers(Path folder) {
        this.app = new DemoApp(folder.resolve("data"));
    }

    static void measure(Path folder, int seconds) throws Exception {
        new Peers(folder).run(seconds);
    }

    private void run(int seconds) throws Exception {
        Process life = app.start();
        try {
            DemoApp.Signed ines = app.signIn("ines");
            publish(ines, """
                    workflow short-wait "Wait a second" for incident
                      owner ines
                    wait: wait 1 s
                    end: done "waited"
                    """);
            publish(ines, """
                    workflow other-peer "Ask another peer" for incident
                      owner ines
                    look: run lane.close "Close the lane" at most 1 tries
                      with gate = ticket.ci
                      with why = ticket.title
                      already closed -> end
                      failed -> end
                    end: done "asked"
                    """);
            System.out.println("                 | calls: late by p50, p95 | mails | clocks | longest of each");
            others("nobody drips", REFERENCE_SECONDS);
            for (int i = 0; i < PEERS; i++) {
                dripper(ines, i);
            }
            Thread load = Thread.ofVirtual().start(this::load);
            untilDripping();
            System.out.printf("%d connections drip to %d peers%n", dripping.get(), PEERS);
            others(PEERS + " peers drip", seconds);
            System.out.printf("%d connections drip to %d peers%n", dripping.get(), PEERS);
            load.interrupt();
            load.join();
        } finally {
            life.destroy();
            life.waitFor(30, TimeUnit.SECONDS);
            for (ServerSocket door : doors) {
                door.close();
            }
        }
    }

    // --- peers that drip

    private void dripper(DemoApp.Signed ines, int number) throws IOException, InterruptedException {
        ServerSocket door = new ServerSocket(0, 500, InetAddress.getLoopbackAddress());
        doors.add(door);
        Thread.startVirtualThread(() -> {
            while (!door.isClosed()) {
                try {
                    Socket caller = door.accept();
                    Thread.startVirtualThread(() -> drip(caller));
                } catch (IOException e) {
                    // Closed.
                }
            }
        });
        DemoApp.Signed halvard = app.signIn("halvard");
        done(app.send(
                halvard,
                "PUT",
                "/api/connections/drip-" + number,
                Json.parse("""
                        {"key":"drip-%d","name":"Slow system %d","base":"http://127.0.0.1:%d","allowedHosts":[],"secret":null}""".formatted(number, number, door.getLocalPort())),
                null));
        done(app.send(
                halvard,
                "PUT",
                "/api/actions/drip.n" + number,
                Json.parse("""
                        {"key":"drip.n%d","name":"Ask slow system %d","description":"","connection":"drip-%d",
                        "call":{"method":"GET","path":"/"},"inputs":[],"outputs":[],"results":[],"repeat":"free",
                        "changesWorld":false,"timeLimit":"5 min","tries":5,"pause":"1 s"}""".formatted(number, number, number)),
                null));
        publish(ines, """
                workflow drip-%d "Ask slow system %d" for incident
                  owner ines
                ask: run drip.n%d "Ask" at most 5 tries
                  failed -> end
                end: done "asked"
                """.formatted(number, number, number));
    }

    private void drip(Socket caller) {
        dripping.incrementAndGet();
        try (caller) {
            OutputStream out = caller.getOutputStream();
            out.write("HTTP/1.1 200 OK\r\nContent-Length: 100000\r\n\r\n".getBytes(StandardCharsets.UTF_8));
            while (true) {
                out.write(' ');
                out.flush();
                LockSupport.parkNanos(1_000_000_000);
            }
        } catch (IOException e) {
            // The caller had enough.
        } finally {
            dripping.decrementAndGet();
        }
    }

    /** Many tickets for each peer, in turns, so that all of them are slow at once. */
    private void load() {
        try {
            DemoApp.Signed ada = app.signIn("ada");
            for (int call = 0; call < CALLS_A_PEER; call++) {
                for (int peer = 0; peer < PEERS; peer++) {
                    start(ada, raise(ada), "drip-" + peer);
                }
            }
        } catch (IOException e) {
            throw new java.io.UncheckedIOException(e);
        } catch (InterruptedException e) {
            // Enough.
        }
    }

    /** Until no more are begun, since no more may be, or all are. */
    private void untilDripping() throws InterruptedException {
        int before = -1;
        while (dripping.get() != before || before < PEERS) {
            before = dripping.get();
            Thread.sleep(5_000);
        }
    }

    // --- the others

    /** By what is late, in milliseconds. */
    private record Late(List<Double> calls, List<Double> mails, List<Double> clocks) {}

    private void others(String what, int seconds) throws Exception {
        DemoApp.Signed ada = app.signIn("ada");
        List<String> asked = new ArrayList<>();
        List<String> waited = new ArrayList<>();
        for (int second = 0; second < seconds; second++) {
            long began = System.nanoTime();
            asked.add(raise(ada));
            start(ada, asked.getLast(), "other-peer");
            waited.add(raise(ada));
            start(ada, waited.getLast(), "short-wait");
            done(app.send(
                    ada,
                    "POST",
                    "/api/tickets/" + waited.getLast() + "/notes",
                    Map.of("text", "We look at it.", "toRequester", true),
                    null));
            LockSupport.parkNanos(1_000_000_000 - (System.nanoTime() - began));
        }
        Late late = new Late(new ArrayList<>(), new ArrayList<>(), new ArrayList<>());
        Instant end = Instant.now().plusSeconds(30);
        int missing = 0;
        for (int i = 0; i < seconds; i++) {
            missing += between(ada, asked.get(i), "callRequested", "callDone", Duration.ZERO, late.calls(), end);
            missing +=
                    between(ada, waited.get(i), "messageQueued", "messageDelivered", Duration.ZERO, late.mails(), end);
            missing += between(ada, waited.get(i), "waitBegan", "left", Duration.ofSeconds(1), late.clocks(), end);
        }
        System.out.printf(
                "%-16s | %s | %s | %s | not done: %d%n",
                what, quantiles(late.calls()), quantiles(late.mails()), quantiles(late.clocks()), missing);
    }

    private static String quantiles(List<Double> all) {
        double[] sorted = all.stream().mapToDouble(d -> d).sorted().toArray();
        return sorted.length == 0
                ? "none"
                : "%.0f, %.0f ms (%.0f)"
                        .formatted(
                                sorted[sorted.length / 2],
                                sorted[(int) (sorted.length * 0.95)],
                                sorted[sorted.length - 1]);
    }

    /** How long after an entry another stands on a record. @return 1 where it never does */
    private int between(
            DemoApp.Signed by, String ticket, String from, String to, Duration due, List<Double> late, Instant end)
            throws IOException, InterruptedException {
        while (true) {
            Instant began = null;
            for (JsonNode entry : DemoApp.parsed(app.send(by, "GET", "/api/tickets/" + ticket + "/record", null, null))
                    .path("entries")) {
                Instant at = Instant.parse(entry.path("at").asText());
                if (began == null && entry.path("kind").asText().equals(from)) {
                    began = at;
                } else if (began != null && entry.path("kind").asText().equals(to)) {
                    late.add((double) Duration.between(began.plus(due), at).toMillis());
                    return 0;
                }
            }
            if (Instant.now().isAfter(end)) {
                return 1;
            }
            Thread.sleep(100);
        }
    }

    // --- by hand

    private String raise(DemoApp.Signed by) throws IOException, InterruptedException {
        return done(app.send(
                        by,
                        "POST",
                        "/api/tickets",
                        Map.of(
                                "kind",
                                "incident",
                                "fields",
                                Map.of("title", "A thing to look at", "ci", "ALD-G1", "requester", "mira")),
                        null))
                .path("ticket")
                .asText();
    }

    private void start(DemoApp.Signed by, String ticket, String workflow) throws IOException, InterruptedException {
        done(app.send(by, "POST", "/api/tickets/" + ticket + "/runs", Map.of("workflow", workflow), null));
    }

    private void publish(DemoApp.Signed by, String text) throws IOException, InterruptedException {
        publish(app, by, text, "{\"is\":\"by hand\"}");
    }

    /** Publishes a workflow from its text. @param when what starts it, as JSON */
    static void publish(DemoApp app, DemoApp.Signed by, String text, String when)
            throws IOException, InterruptedException {
        Notation.Read read = Notation.read(text, 1, Names.NONE);
        String key = read.version().key().value();
        String path = "/api/workflows/" + key;
        done(app.send(
                by,
                "POST",
                "/api/workflows",
                Map.of("key", key, "name", read.version().name()),
                null));
        ObjectNode draft = Json.mapper().createObjectNode().put("revision", revision(app, by, path));
        draft.set("version", Json.tree(read.version()));
        done(app.send(by, "PUT", path + "/draft", draft, null));
        done(app.send(by, "PUT", path + "/triggers", Json.parse("""
                {"triggers":[{"id":"%s-hand","on":true,"when":%s,"services":[],"mode":"starts"}]}""".formatted(key, when)), null));
        done(app.send(by, "POST", path + "/publish", Map.of("revision", revision(app, by, path)), null));
    }

    private static long revision(DemoApp app, DemoApp.Signed by, String path) throws IOException, InterruptedException {
        return done(app.send(by, "GET", path, null, null)).path("draftRevision").asLong();
    }

    static JsonNode done(HttpResponse<String> answer) throws IOException {
        if (answer.statusCode() >= 300) {
            throw new IOException(answer.request().uri() + ": " + answer.statusCode() + " " + answer.body());
        }
        return DemoApp.parsed(answer);
    }
}
