package dastur.bench;

import com.fasterxml.jackson.databind.JsonNode;
import dastur.core.json.Json;
import java.io.IOException;
import java.net.http.HttpResponse;
import java.nio.file.Files;
import java.nio.file.Path;
import java.nio.file.StandardCopyOption;
import java.util.ArrayList;
import java.util.Collections;
import java.util.List;
import java.util.Map;
import java.util.Random;
import java.util.Set;
import java.util.UUID;
import java.util.concurrent.ConcurrentHashMap;
import java.util.concurrent.TimeUnit;
import java.util.concurrent.atomic.AtomicLong;

/**
 * The whole application is killed again and again while people raise tickets, do tasks, vote, write notes, save views and send
 * signals. After each start what was answered in the life before, and some of what was before that, is looked for; at the end all
 * of it is, and audited.
 */
final class Crash {
    static final int KILLS = 100;
    private static final int HANDS = 4;

    private final Path data;
    private final int kills;
    private final Random random = new Random();
    private final DemoApp app;

    /** So many saved views are listed at once. */
    private static final int MOST_VIEWS = 150;

    /** How many tickets of earlier lives are looked at after a kill; all of them are at the end, where what is lost still is. */
    private static final int OF_BEFORE = 40;

    /** By ticket, the number of the last entry that was answered. */
    private final Map<String, Long> entries = new ConcurrentHashMap<>();
    /** The tickets at which something was answered in the life that was killed last. */
    private final Set<String> fresh = ConcurrentHashMap.newKeySet();
    /** By the id of a view, its name. */
    private final Map<String, String> views = new ConcurrentHashMap<>();
    /** By the id under which a signal was sent, its name. */
    private final Map<String, String> signals = new ConcurrentHashMap<>();

    private final AtomicLong answered = new AtomicLong();
    private final List<String> losses = new ArrayList<>();
    private volatile boolean down;

    private Crash(Path data, int kills) {
        this.data = data;
        this.kills = kills;
        this.app = new DemoApp(data);
    }

    static void measure(Path folder, int kills) throws Exception {
        new Crash(folder.resolve("data"), kills).run();
    }

    private void run() throws Exception {
        long longest = 0;
        for (int kill = 1; kill <= kills; kill++) {
            if (kill % 10 == 1) {
                System.out.printf("life %d: %d answered, %d missing%n", kill, answered.get(), losses.size());
            }
            keepWhatWasLeft();
            int lossesBefore = losses.size();
            long began = System.nanoTime();
            Process life = started();
            if (kill > 1) {
                longest = Math.max(longest, (System.nanoTime() - began) / 1_000_000);
            }
            try {
                lookFor(kill, suspects());
                if (losses.size() > lossesBefore) {
                    Path left = Path.of("bench", "target", "lost-" + kill + ".mv.db");
                    Files.copy(left(), left, StandardCopyOption.REPLACE_EXISTING);
                    System.out.println(losses.getLast() + "; what was left is kept as " + left.toAbsolutePath());
                }
                live();
            } finally {
                // Not destroyForcibly, which closes the pipes first: as an operating system kills.
                new ProcessBuilder("kill", "-KILL", String.valueOf(life.pid()))
                        .start()
                        .waitFor();
                life.waitFor(20, TimeUnit.SECONDS);
            }
        }
        Process last = started();
        lookFor(kills + 1, List.copyOf(entries.keySet()));
        new ProcessBuilder("kill", "-TERM", String.valueOf(last.pid())).start().waitFor();
        last.waitFor(30, TimeUnit.SECONDS);
        Process audit =
                DemoApp.java("audit", "--data", data.toString()).inheritIO().start();
        int audited = audit.waitFor();
        System.out.printf(
                "%d kills: %d answered commands on %d tickets, %d views, %d signals; missing: %d; longest start %d ms; audit %s%n",
                kills,
                answered.get(),
                entries.size(),
                views.size(),
                signals.size(),
                losses.size(),
                longest,
                audited == 0 ? "clean" : "NOT clean");
        losses.forEach(System.out::println);
        if (entries.isEmpty() || views.isEmpty() || signals.isEmpty()) {
            throw new IllegalStateException("nothing of a kind was answered: it was not tried");
        }
        System.out.println("file: " + Files.size(data.resolve("dastur.mv.db")) / 1_000_000 + " MB");
    }

    private Path left() {
        return data.resolveSibling("left.mv.db");
    }

    /** A file in which something is missing is needed as it was before it was opened. */
    private void keepWhatWasLeft() throws IOException {
        Path file = data.resolve("dastur.mv.db");
        if (Files.exists(file)) {
            Files.copy(file, left(), StandardCopyOption.REPLACE_EXISTING);
        }
    }

    private Process started() throws Exception {
        Process life = app.start();
        down = false;
        return life;
    }

    // --- what people do

    private void live() throws InterruptedException {
        List<Thread> hands = new ArrayList<>();
        for (int i = 0; i < HANDS; i++) {
            hands.add(Thread.ofVirtual().start(this::hand));
        }
        Thread.sleep(500 + random.nextInt(2_000));
        down = true;
        for (Thread hand : hands) {
            hand.join(TimeUnit.SECONDS.toMillis(1));
        }
    }

    private void hand() {
        try {
            DemoApp.Signed ada = app.signIn("ada");
            DemoApp.Signed runa = app.signIn("runa");
            while (!down) {
                String number = raise(ada);
                command(ada, "/api/tickets/" + number + "/notes", Map.of("text", "Noted.", "toRequester", false));
                JsonNode task = ask(runa, number);
                command(
                        runa,
                        "/api/tasks/" + task.path("visit").asText() + "/complete",
                        Map.of("outcome", "Close the lane", "form", Map.of()));
                vote(number);
                view(ada, number);
                signal(ada);
            }
        } catch (IOException | InterruptedException | RuntimeException e) {
            // Killed in the middle of it: what was not answered is not looked for.
        }
    }

    private JsonNode ask(DemoApp.Signed by, String number) throws IOException, InterruptedException {
        return DemoApp.parsed(app.send(by, "GET", "/api/tickets/" + number, null, null))
                .path("asks")
                .path(0);
    }

    private String raise(DemoApp.Signed by) throws IOException, InterruptedException {
        Map<String, Object> fields = Map.of(
                "title",
                "Gate stands open",
                "ci",
                "ALD-G" + (1 + random.nextInt(4)),
                "requester",
                "mira",
                "impact",
                2,
                "urgency",
                2,
                "group",
                "pier-technicians");
        return command(by, "/api/tickets", Map.of("kind", "incident", "fields", fields))
                .path("ticket")
                .asText();
    }

    private JsonNode command(DemoApp.Signed by, String path, Object body) throws IOException, InterruptedException {
        HttpResponse<String> answer =
                app.send(by, "POST", path, body, UUID.randomUUID().toString());
        if (answer.statusCode() >= 300) {
            return Json.mapper().createObjectNode();
        }
        JsonNode done = DemoApp.parsed(answer);
        fresh.add(done.path("ticket").asText());
        entries.merge(done.path("ticket").asText(), done.path("seq").asLong(), Math::max);
        answered.incrementAndGet();
        return done;
    }

    private void vote(String number) throws IOException, InterruptedException {
        DemoApp.Signed priya = app.signIn("priya");
        JsonNode approval = ask(priya, number);
        if (approval.path("approval").isObject()) {
            command(
                    priya,
                    "/api/approvals/" + approval.path("visit").asText() + "/vote",
                    Map.of(
                            "approve",
                            true,
                            "round",
                            approval.path("approval").path("round").asInt(),
                            "digest",
                            approval.path("approval").path("digest").asText()));
        }
    }

    private void view(DemoApp.Signed by, String name) throws IOException, InterruptedException {
        if (views.size() >= MOST_VIEWS) {
            return;
        }
        Map<String, Object> body = Map.of("name", name, "query", "open=true", "shared", false);
        HttpResponse<String> answer = app.send(by, "POST", "/api/views", body, null);
        if (answer.statusCode() < 300) {
            views.put(DemoApp.parsed(answer).path("id").asText(), name);
            answered.incrementAndGet();
        }
    }

    private void signal(DemoApp.Signed by) throws IOException, InterruptedException {
        String id = UUID.randomUUID().toString();
        HttpResponse<String> answer = app.send(by, "POST", "/api/signals", Map.of("signal", "bench " + id), id);
        if (answer.statusCode() < 300) {
            signals.put(id, "bench " + id);
            answered.incrementAndGet();
        }
    }

    // --- what is there

    private List<String> suspects() {
        List<String> before = new ArrayList<>(entries.keySet());
        before.removeAll(fresh);
        Collections.shuffle(before, random);
        List<String> suspects = new ArrayList<>(fresh);
        suspects.addAll(before.subList(0, Math.min(OF_BEFORE, before.size())));
        fresh.clear();
        return suspects;
    }

    private void lookFor(int kill, List<String> tickets) throws IOException, InterruptedException {
        DemoApp.Signed ada = app.signIn("ada");
        for (String ticket : tickets) {
            long last = entries.get(ticket);
            HttpResponse<String> answer =
                    app.send(ada, "GET", "/api/tickets/" + ticket + "/record?after=100000", null, null);
            JsonNode record = DemoApp.parsed(answer);
            long there = record.path("total").asLong();
            if (there < last || !record.path("unbroken").asBoolean(true)) {
                losses.add("before life " + kill + ": " + ticket + " has " + there + " of " + last + " entries");
                entries.put(ticket, there);
            }
        }
        String kept = app.send(ada, "GET", "/api/views", null, null).body();
        views.keySet().stream().filter(id -> !kept.contains(id)).forEach(id -> losses.add("view " + id));
        for (Map.Entry<String, String> signal : Map.copyOf(signals).entrySet()) {
            HttpResponse<String> again =
                    app.send(ada, "POST", "/api/signals", Map.of("signal", signal.getValue()), signal.getKey());
            if (!DemoApp.parsed(again).path("kept").asBoolean()) {
                losses.add("signal " + signal.getKey() + ": " + again.body());
            }
            if (random.nextInt(10) > 0) {
                // Looked at for a while, not for ever.
                signals.remove(signal.getKey());
            }
        }
    }
}
