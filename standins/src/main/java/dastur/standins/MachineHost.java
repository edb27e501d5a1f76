package dastur.standins;

import io.javalin.Javalin;
import io.javalin.http.Context;
import java.time.Duration;
import java.util.Map;
import java.util.Set;
import java.util.TreeMap;
import java.util.TreeSet;
import java.util.concurrent.ConcurrentHashMap;
import java.util.concurrent.atomic.AtomicInteger;

/**
 * Launches and starts machines in the Mooring Data Room: long jobs that say how far they are. It asks for a token that is kept in that room only, so
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
    /** Those that have always been there. */
    private final Set<String> known = Set.of("book-web-1", "book-web-2");

    private final Set<String> calledOff = ConcurrentHashMap.newKeySet();
    private final Set<String> stopped = ConcurrentHashMap.newKeySet();
    private volatile boolean staysDown;
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
            config.routes.get("/machines/{name}", this::look);
            config.routes.post("/machines/{name}/start", this::start);
            config.routes.get("/jobs/{job}", this::job);
            config.routes.delete("/jobs/{job}", this::callOff);
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
            // It has no room for a large one, and gives what it has.
            String size = "large".equals(wish.size()) ? "middle" : wish.size();
            jobs.put("m" + number, new Job(wish.name(), size, number, System.nanoTime()));
            return "m" + number;
        });
        ctx.status(202).json(answer(job));
    }

    private void look(Context ctx) {
        String name = ctx.pathParam("name");
        if (!Guarded.allowed(ctx, token) || Guarded.faulty(ctx, faults.of("machines"))) {
            return;
        }
        if (!known.contains(name) && !launched().containsKey(name)) {
            ctx.status(404).json(Map.of("why", "no such machine"));
            return;
        }
        ctx.json(Map.of("name", name, "state", stopped.contains(name) ? "stopped" : "up"));
    }

    /** Starts one that has stopped; of one that is up it says so. */
    private void start(Context ctx) {
        String name = ctx.pathParam("name");
        if (!Guarded.allowed(ctx, token) || Guarded.faulty(ctx, faults.of("machines"))) {
            return;
        }
        if (!known.contains(name) && !launched().containsKey(name)) {
            ctx.status(404).json(Map.of("why", "no such machine"));
            return;
        }
        if (!staysDown) {
            stopped.remove(name);
        }
        ctx.json(Map.of("name", name, "state", stopped.contains(name) ? "stopped" : "up"));
    }

    /** Machines that have stopped. */
    public Set<String> stopped() {
        return new TreeSet<>(stopped);
    }

    /** One stops. */
    public void stop(String name) {
        stopped.add(name);
    }

    /** One is started on the spot. */
    public void start(String name) {
        stopped.remove(name);
    }

    /** Whether machines do not come up, whoever starts them from afar. */
    public void stayDown(boolean stay) {
        staysDown = stay;
    }

    public boolean staysDown() {
        return staysDown;
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

    /** A machine that is not up yet is not launched; one that is stays. */
    private void callOff(Context ctx) {
        if (!Guarded.allowed(ctx, token) || Guarded.faulty(ctx, faults.of("machines"))) {
            return;
        }
        String id = ctx.pathParam("job");
        if (jobs.containsKey(id) && !"up".equals(answer(id).get("state"))) {
            calledOff.add(id);
        }
        job(ctx);
    }

    private Map<String, Object> answer(String id) {
        Job job = jobs.get(id);
        long gone = System.nanoTime() - job.begunAtNanos();
        if (calledOff.contains(id)) {
            return new TreeMap<>(Map.of("job", "/jobs/" + id, "state", "failed", "why", "called off"));
        }
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
            answer.put("size", job.size());
            answer.put("address", "10.20.7." + job.number());
            answer.put("reference", "machine " + id);
        }
        return answer;
    }

    /** Names of the machines that were launched, with their sizes. */
    public Map<String, String> launched() {
        Map<String, String> all = new TreeMap<>();
        jobs.forEach((id, job) -> {
            if (!calledOff.contains(id)) {
                all.put(job.name(), job.size());
            }
        });
        return all;
    }

    @Override
    public void close() {
        http.stop();
    }
}
