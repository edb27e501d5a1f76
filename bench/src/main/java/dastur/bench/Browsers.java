package dastur.bench;

import com.fasterxml.jackson.databind.JsonNode;
import dastur.core.json.Json;
import java.io.BufferedReader;
import java.io.IOException;
import java.io.InputStream;
import java.io.InputStreamReader;
import java.net.URI;
import java.net.http.HttpClient;
import java.net.http.HttpRequest;
import java.net.http.HttpResponse;
import java.nio.charset.StandardCharsets;
import java.nio.file.Path;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.UUID;
import java.util.concurrent.CountDownLatch;
import java.util.concurrent.TimeUnit;
import java.util.concurrent.atomic.AtomicLong;

/**
 * What one commit costs three hundred open browsers: a third at the Desk, a third at the list of tickets, a third at a ticket. Each
 * listens, and reads anew what the web application would: what the news says, or, as it was before, all that is on its page (B10).
 */
final class Browsers {
    private static final int OPEN = 300;
    private static final int COMMITS = 10;
    private final DemoApp app;
    private final HttpClient client = HttpClient.newHttpClient();
    private final AtomicLong requests = new AtomicLong();
    private final AtomicLong bytes = new AtomicLong();
    private final AtomicLong lastAt = new AtomicLong();
    private final AtomicLong heard = new AtomicLong();
    /** Whether all lists are read anew with each change, as it was before news said what they touch. */
    private volatile boolean everything;

    private Browsers(Path folder) {
        app = new DemoApp(folder.resolve("data"));
    }

    static void measure(Path folder) throws Exception {
        new Browsers(folder).run();
    }

    private void run() throws Exception {
        Process life = app.start();
        try {
            List<DemoApp.Signed> people = new ArrayList<>();
            JsonNode entrance = DemoApp.parsed(app.send(null, "GET", "/api/entrance", null, null));
            for (JsonNode person : entrance.path("demoPeople")) {
                people.add(app.signIn(person.path("id").asText()));
            }
            DemoApp.Signed ada = app.signIn("ada");
            List<String> tickets = new ArrayList<>();
            for (int i = 0; i < 20; i++) {
                tickets.add(raise(ada));
            }
            CountDownLatch open = new CountDownLatch(OPEN);
            for (int i = 0; i < OPEN; i++) {
                DemoApp.Signed by = people.get(i / 3 % people.size());
                List<String> page =
                        switch (i % 3) {
                            case 0 -> List.of();
                            case 1 -> List.of("/api/tickets?open=true", "/api/facets?open=true");
                            default -> List.of("/api/tickets/" + tickets.get(i / 3 % tickets.size()));
                        };
                Thread.ofVirtual().start(() -> browse(by, page, open));
            }
            if (!open.await(60, TimeUnit.SECONDS)) {
                throw new IllegalStateException("not all browsers could open");
            }
            System.out.println("a commit | read anew | requests | kB | until the last has read, ms");
            for (boolean all : new boolean[] {true, false}) {
                everything = all;
                String how = all ? "all that is open" : "what it touches";
                told(
                        "a note",
                        how,
                        () -> post(
                                ada,
                                "/api/tickets/" + tickets.getFirst() + "/notes",
                                Map.of("text", "It was looked at.", "toRequester", false)));
                told("a ticket is raised", how, () -> raise(ada));
            }
        } finally {
            life.destroy();
            life.waitFor(30, TimeUnit.SECONDS);
        }
    }

    private interface Commit {
        void make() throws Exception;
    }

    /** Means over some commits, each begun when the one before has been read by all. */
    private void told(String what, String how, Commit commit) throws Exception {
        commit.make();
        untilRead(0);
        long tookAll = 0;
        requests.set(0);
        bytes.set(0);
        for (int i = 0; i < COMMITS; i++) {
            heard.set(0);
            long begun = System.nanoTime();
            commit.make();
            tookAll += untilRead(begun) - begun;
        }
        System.out.printf(
                "%s | %s | %d | %d | %d%n",
                what,
                how,
                requests.get() / COMMITS,
                bytes.get() / COMMITS / 1000,
                TimeUnit.NANOSECONDS.toMillis(tookAll / COMMITS));
    }

    /** When nothing has been read for a second: the moment of the last. */
    private long untilRead(long begun) throws InterruptedException {
        lastAt.set(Math.max(lastAt.get(), begun));
        long end = System.nanoTime() + TimeUnit.SECONDS.toNanos(60);
        while (System.nanoTime() < end) {
            TimeUnit.MILLISECONDS.sleep(50);
            if (heard.get() >= OPEN && System.nanoTime() - lastAt.get() > 1_000_000_000L
                    || System.nanoTime() - lastAt.get() > 5_000_000_000L) {
                return lastAt.get();
            }
        }
        throw new IllegalStateException("it never became quiet");
    }

    private void browse(DemoApp.Signed by, List<String> page, CountDownLatch open) {
        try {
            HttpResponse<InputStream> stream = client.send(
                    HttpRequest.newBuilder(URI.create(app.address() + "/api/live"))
                            .header("Cookie", by.cookie())
                            .header("Accept", "text/event-stream")
                            .build(),
                    HttpResponse.BodyHandlers.ofInputStream());
            try (BufferedReader lines =
                    new BufferedReader(new InputStreamReader(stream.body(), StandardCharsets.UTF_8))) {
                String line = lines.readLine();
                while (line != null) {
                    if (line.startsWith("event:") && line.contains("hello")) {
                        open.countDown();
                    }
                    if (line.startsWith("data:") && line.contains("seq")) {
                        bytes.addAndGet(line.length());
                        hear(by, page, Json.read(line.substring(5).strip(), JsonNode.class));
                    }
                    line = lines.readLine();
                }
            }
        } catch (IOException | InterruptedException e) {
            // The application was ended: the measurement is over.
            Thread.currentThread().interrupt();
        }
    }

    /** What the web application does with a change: see live.ts. */
    private void hear(DemoApp.Signed by, List<String> page, JsonNode news) throws IOException, InterruptedException {
        String ticket = news.path("ticket").asText();
        List<String> lists = new ArrayList<>();
        news.path("lists").forEach(l -> lists.add(l.asText()));
        boolean all = everything || !news.has("lists");
        if (all || lists.contains("desk")) {
            read(by, "/api/desk");
        }
        for (String path : page) {
            boolean list = path.contains("?");
            if (list ? all || lists.contains("tickets") : path.endsWith("/" + ticket)) {
                read(by, path);
            }
            if (!list && path.endsWith("/" + ticket)) {
                read(by, path + "/record?after=" + (news.path("seq").asLong() - 1));
            }
        }
        lastAt.set(System.nanoTime());
        heard.incrementAndGet();
    }

    private void read(DemoApp.Signed by, String path) throws IOException, InterruptedException {
        HttpResponse<byte[]> answer = client.send(
                HttpRequest.newBuilder(URI.create(app.address() + path))
                        .header("Cookie", by.cookie())
                        .build(),
                HttpResponse.BodyHandlers.ofByteArray());
        if (answer.statusCode() != 200) {
            throw new IOException(path + " answered " + answer.statusCode());
        }
        requests.incrementAndGet();
        bytes.addAndGet(answer.body().length);
    }

    private String raise(DemoApp.Signed by) throws IOException, InterruptedException {
        return DemoApp.parsed(app.send(
                        by,
                        "POST",
                        "/api/tickets",
                        Map.of(
                                "kind",
                                "incident",
                                "fields",
                                Map.of("title", "Nothing much", "impact", 4, "urgency", 4)),
                        UUID.randomUUID().toString()))
                .path("ticket")
                .asText();
    }

    private void post(DemoApp.Signed by, String path, Object body) throws IOException, InterruptedException {
        app.send(by, "POST", path, body, UUID.randomUUID().toString());
    }
}
