package dastur.standins;

import io.javalin.Javalin;
import io.javalin.http.Context;
import java.time.Duration;
import java.util.Map;
import java.util.TreeMap;
import java.util.concurrent.ConcurrentHashMap;
import java.util.concurrent.atomic.AtomicInteger;

/**
 * Launches machines in the Mooring Data Room: a long job that says how far it is. It asks for a token that is kept in that room only, so
 * nobody but the relay there is let in.
 */
public final class MachineHost implements AutoCloseable {
    private record Job(String name, String size, int number, long begunAtNanos) {}

    /** What is asked for. */
    private record Wish(String name, String size) {}

    private static final int FIRST = 21;

    private final String token;
    private final Faults faults;
    private final Duration takes;
    private final Map<String, Job> jobs = new ConcurrentHashMap<>();
    private final Map<String, String> keys = new ConcurrentHashMap<>();
    private final AtomicInteger next = new AtomicInteger(FIRST);
    private final Javalin http;

    /** @param takes how long a launch takes */
    MachineHost(String token, Faults faults, Duration takes) {
        this.token = token;
        this.faults = faults;
        this.takes = takes;
        http = Javalin.create(config -> {
            config.startup.showJavalinBanner = false;
            config.routes.post("/machines", this::launch);
            config.routes.get("/jobs/{job}", this::job);
        });
        http.start("127.0.0.1", 0);
    }

    /** Where it is, for the relay in its room. */
    public String address() {
        return "http://127.0.0.1:" + http.port();
    }

    private void launch(Context ctx) {
        if (!Guarded.allowed(ctx, token) || Guarded.faulty(ctx, faults.of("machines"))) {
            return;
        }
        Wish wish = ctx.bodyAsClass(Wish.class);
        String key = ctx.header("Idempotency-Key");
        String job = keys.computeIfAbsent(key == null ? "none-" + next.get() : key, k -> {
            int number = next.getAndIncrement();
            jobs.put("m" + number, new Job(wish.name(), wish.size(), number, System.nanoTime()));
            return "m" + number;
        });
        ctx.status(202).json(answer(job));
    }

    private void job(Context ctx) {
        if (!Guarded.allowed(ctx, token) || Guarded.faulty(ctx, faults.of("machines"))) {
            return;
        }
        if (!jobs.containsKey(ctx.pathParam("job"))) {
            ctx.status(404).json(Map.of("why", "no such job"));
            return;
        }
        ctx.json(answer(ctx.pathParam("job")));
    }

    private Map<String, Object> answer(String id) {
        Job job = jobs.get(id);
        long gone = System.nanoTime() - job.begunAtNanos();
        int percent = (int) Math.min(100, takes.isZero() ? 100 : gone * 100 / takes.toNanos());
        Map<String, Object> answer = new TreeMap<>(Map.of(
                "job",
                "/jobs/" + id,
                "state",
                percent < 100 ? "launching" : "up",
                "percent",
                percent,
                "said",
                percent < 30
                        ? "disk of " + job.name() + " is copied"
                        : percent < 70 ? job.name() + " starts" : percent < 100 ? "waits for its first sign" : "up"));
        if (percent == 100) {
            answer.put("address", "10.20.7." + job.number());
            answer.put("reference", "machine " + id);
        }
        return answer;
    }

    /** Names of the machines that were launched, with their sizes. */
    public Map<String, String> launched() {
        Map<String, String> all = new TreeMap<>();
        jobs.values().forEach(job -> all.put(job.name(), job.size()));
        return all;
    }

    @Override
    public void close() {
        http.stop();
    }
}
