package dastur.bench;

import com.fasterxml.jackson.databind.JsonNode;
import dastur.core.json.Json;
import dastur.server.Settings;
import dastur.server.Wiring;
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
import java.time.InstantSource;
import java.util.Arrays;
import java.util.LinkedHashMap;
import java.util.Map;
import java.util.concurrent.CountDownLatch;
import java.util.concurrent.TimeUnit;
import java.util.concurrent.atomic.AtomicReference;

/** What people wait for, over HTTP: Desk, lists and searches with few and many tickets; news in many open browsers. */
final class Reading {
    private static final int CALLS = 300;
    private static final int WARM_UP = 150;
    private static final int BROWSERS = 200;
    private static final int CHANGES = 20;
    private static final String NAMES = "/api/directory";

    private static final Map<String, String> QUESTIONS = new LinkedHashMap<>();

    static {
        QUESTIONS.put("desk", "/api/desk");
        QUESTIONS.put("open tickets", "/api/tickets?open=true");
        QUESTIONS.put("search, a rare word", "/api/tickets?text=matter777");
        QUESTIONS.put("search, two words", "/api/tickets?text=gate%20before&open=true");
        QUESTIONS.put("facets of open ones", "/api/facets?open=true");
    }

    private final Wiring app;
    private final HttpClient client = HttpClient.newHttpClient();
    private String cookie = "";
    private String csrf = "";
    private String tag = "";
    private int changes;

    private Reading(Path folder) {
        app = new Wiring(new Settings(
                folder, "127.0.0.1", 0, InstantSource.system(), Settings.USUAL_LEASE, Settings.LOCAL_MAIL));
    }

    static void measure(Path folder) throws Exception {
        Reading reading = new Reading(folder);
        try {
            reading.signIn();
            reading.lists();
            reading.streams();
        } finally {
            reading.app.close();
        }
    }

    /** What people choose from, by the letters they type, in an organisation of few and of many (B7). */
    static void choices(Path folder) throws Exception {
        Reading reading = new Reading(folder);
        try {
            reading.signIn();
            Many many = new Many(reading.app.database());
            Map<String, Question> questions = new LinkedHashMap<>();
            questions.put("all names, once a minute a browser", reading::namesAgain);
            questions.put("all names, where one has changed", reading::namesAfterAChange);
            questions.put("a CI by letters of its number", () -> reading.get("/api/cis?text=K-77"));
            questions.put("a CI by a word of its name", () -> reading.get("/api/cis?text=quay%2077"));
            questions.put("anything by a name, in the finder", () -> reading.get("/api/find?text=Person%2077"));
            Map<String, double[]> few = new LinkedHashMap<>();
            many.fill(0, 20, 20, 20);
            for (Map.Entry<String, Question> q : questions.entrySet()) {
                few.put(q.getKey(), reading.times(q.getValue()));
            }
            many.fill(20, 10_000, 2_000, 10_000);
            System.out.println(
                    "question | p50 and p95 at 20 people, groups, CIs | at 10,000 people, 2,000 groups, 10,000 CIs | ratio of p95");
            for (Map.Entry<String, Question> q : questions.entrySet()) {
                double[] before = few.get(q.getKey());
                double[] after = reading.times(q.getValue());
                System.out.printf(
                        "%s | %.1f ms, %.1f ms | %.1f ms, %.1f ms | %.2f%n",
                        q.getKey(), before[0], before[1], after[0], after[1], after[1] / before[1]);
            }
        } finally {
            reading.app.close();
        }
    }

    private void signIn() throws IOException, InterruptedException {
        HttpResponse<String> answer = send(
                "POST",
                "/api/setup",
                "{\"id\":\"bench\",\"name\":\"Bench\",\"mail\":\"\",\"password\":\"bench-bench-bench\"}");
        cookie = answer.headers().firstValue("Set-Cookie").orElseThrow().split(";")[0];
        JsonNode session = Json.read(answer.body(), JsonNode.class);
        csrf = session.get("csrf").asText();
    }

    private void lists() throws Exception {
        System.out.println("question | p50 and p95 at 1,000 tickets | at 100,000 | ratio of p95");
        Filling filling = new Filling(app.database());
        Map<String, double[]> few = new LinkedHashMap<>();
        filling.fillTo(1_000);
        for (String name : QUESTIONS.keySet()) {
            few.put(name, times(() -> get(QUESTIONS.get(name))));
        }
        filling.fillTo(100_000);
        for (String name : QUESTIONS.keySet()) {
            double[] before = few.get(name);
            double[] after = times(() -> get(QUESTIONS.get(name)));
            System.out.printf(
                    "%s | %.1f ms, %.1f ms | %.1f ms, %.1f ms | %.2f%n",
                    name, before[0], before[1], after[0], after[1], after[1] / before[1]);
        }
    }

    /** Asks and takes its time. */
    private interface Question {
        double millis() throws Exception;
    }

    private double get(String path) throws Exception {
        long start = System.nanoTime();
        HttpResponse<String> answer = send("GET", path, null);
        double millis = (System.nanoTime() - start) / 1e6;
        if (answer.statusCode() != 200) {
            throw new IllegalStateException(path + " answered " + answer.statusCode());
        }
        return millis;
    }

    /** As a browser does that has them. */
    private double namesAgain() throws Exception {
        if (tag.isEmpty()) {
            tag = send("GET", NAMES, null).headers().firstValue("ETag").orElseThrow();
        }
        long start = System.nanoTime();
        HttpResponse<String> answer = client.send(
                request(NAMES).header("If-None-Match", tag).GET().build(), HttpResponse.BodyHandlers.ofString());
        double millis = (System.nanoTime() - start) / 1e6;
        tag = answer.headers().firstValue("ETag").orElseThrow();
        return millis;
    }

    /** The first to ask after a change, for whom they are read and written anew. */
    private double namesAfterAChange() throws Exception {
        int status = send("PUT", "/api/groups/g0", "{\"name\":\"Group " + changes++ + "\",\"members\":[\"p0\"]}")
                .statusCode();
        if (status != 204) {
            throw new IllegalStateException("a change was answered " + status);
        }
        return get(NAMES);
    }

    /** Medians and 95th percentiles in milliseconds. */
    private double[] times(Question question) throws Exception {
        double[] took = new double[CALLS];
        for (int i = -WARM_UP; i < CALLS; i++) {
            double millis = question.millis();
            if (i >= 0) {
                took[i] = millis;
            }
        }
        return percentiles(took);
    }

    private static double[] percentiles(double[] values) {
        double[] sorted = values.clone();
        Arrays.sort(sorted);
        return new double[] {sorted[sorted.length / 2], sorted[(int) (sorted.length * 0.95)]};
    }

    /** From sending a change to the moment at which the last of all open browsers has heard of it. */
    private void streams() throws Exception {
        AtomicReference<CountDownLatch> heard = new AtomicReference<>(new CountDownLatch(BROWSERS));
        CountDownLatch open = new CountDownLatch(BROWSERS);
        for (int i = 0; i < BROWSERS; i++) {
            Thread.ofVirtual().start(() -> listen(open, heard));
        }
        if (!open.await(30, TimeUnit.SECONDS)) {
            throw new IllegalStateException("not all browsers could listen");
        }
        double[] took = new double[CHANGES];
        for (int i = 0; i < CHANGES; i++) {
            CountDownLatch all = new CountDownLatch(BROWSERS);
            heard.set(all);
            long start = System.nanoTime();
            send(
                    "POST",
                    "/api/tickets",
                    "{\"kind\":\"incident\",\"fields\":{\"title\":\"A change\",\"impact\":3,\"urgency\":3}}");
            if (!all.await(30, TimeUnit.SECONDS)) {
                throw new IllegalStateException("not all browsers heard of a change");
            }
            took[i] = (System.nanoTime() - start) / 1e6;
        }
        double[] p = percentiles(took);
        System.out.printf("%d browsers hear of a change: p50 %.0f ms, p95 %.0f ms%n", BROWSERS, p[0], p[1]);
    }

    private void listen(CountDownLatch open, AtomicReference<CountDownLatch> heard) {
        try {
            HttpResponse<InputStream> stream = client.send(
                    request("/api/live")
                            .header("Accept", "text/event-stream")
                            .GET()
                            .build(),
                    HttpResponse.BodyHandlers.ofInputStream());
            try (BufferedReader lines =
                    new BufferedReader(new InputStreamReader(stream.body(), StandardCharsets.UTF_8))) {
                String line = lines.readLine();
                while (line != null) {
                    if (line.startsWith("event: hello") || line.startsWith("event:hello")) {
                        open.countDown();
                    } else if (line.startsWith("event: changed") || line.startsWith("event:changed")) {
                        heard.get().countDown();
                    }
                    line = lines.readLine();
                }
            }
        } catch (IOException | InterruptedException e) {
            // The application was closed: the measurement is over.
            Thread.currentThread().interrupt();
        }
    }

    private HttpRequest.Builder request(String path) {
        return HttpRequest.newBuilder(URI.create("http://127.0.0.1:" + app.port() + path))
                .header("Cookie", cookie.isEmpty() ? "none=" : cookie)
                .header("X-CSRF-Token", csrf.isEmpty() ? "none" : csrf)
                .header("Content-Type", "application/json");
    }

    private HttpResponse<String> send(String method, String path, String body)
            throws IOException, InterruptedException {
        return client.send(
                request(path)
                        .method(
                                method,
                                body == null
                                        ? HttpRequest.BodyPublishers.noBody()
                                        : HttpRequest.BodyPublishers.ofString(body))
                        .build(),
                HttpResponse.BodyHandlers.ofString());
    }
}
