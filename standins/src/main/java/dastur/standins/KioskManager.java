package dastur.standins;

import io.javalin.config.JavalinConfig;
import io.javalin.http.Context;
import java.time.Duration;
import java.util.Map;
import java.util.Set;
import java.util.TreeMap;
import java.util.concurrent.ConcurrentHashMap;
import java.util.concurrent.atomic.AtomicInteger;

/** Enrols ticket kiosks. Enrolment takes a while: the answer says where to ask for it. */
public final class KioskManager {
    private record Job(String kiosk, int number, long doneAtNanos) {}

    private final String token;
    private final Faults faults;
    private final Duration takes;
    private final Map<String, Job> jobs = new ConcurrentHashMap<>();
    private final Map<String, String> keys = new ConcurrentHashMap<>();
    private final AtomicInteger next = new AtomicInteger(42);

    private static final String IN_FORCE = "2026-4";
    private static final String SWITCHED_OFF = "kiosk-09";
    static final String SILENT = "kiosk-05";
    static final Set<String> HUNGRY = Set.of("kiosk-02", "kiosk-08");
    private static final int FULL = 240;
    private final Map<String, String> versions = new ConcurrentHashMap<>();
    private volatile boolean switchedOn;
    private volatile boolean silent;
    private volatile Set<String> usedUp = Set.of();

    KioskManager(String token, Faults faults, Duration takes) {
        this.token = token;
        this.faults = faults;
        this.takes = takes;
        for (int i = 1; i <= 12; i++) {
            versions.put("kiosk-%02d".formatted(i), i == 4 || i == 7 || i == 9 ? "2026-3" : IN_FORCE);
        }
    }

    void routes(JavalinConfig config) {
        for (String at : new String[] {"fares", "heard", "paper"}) {
            config.routes.options("/kiosks/" + at, ctx -> Guarded.tells(ctx, token, "GET"));
        }
        config.routes.post("/kiosks/{kiosk}/enrol", this::enrol);
        config.routes.get("/kiosks/jobs/{job}", this::job);
        config.routes.get("/kiosks/fares", this::fares);
        config.routes.get("/kiosks/heard", this::heard);
        config.routes.get("/kiosks/paper", this::paper);
        config.routes.post("/kiosks/{kiosk}/fares/{version}", this::distribute);
    }

    private void enrol(Context ctx) {
        if (!Guarded.allowed(ctx, token) || Guarded.faulty(ctx, faults.of("kiosks"))) {
            return;
        }
        String kiosk = ctx.pathParam("kiosk");
        String key = ctx.header("Idempotency-Key");
        String job = keys.computeIfAbsent(key == null ? "none-" + next.get() : key, k -> {
            int number = next.getAndIncrement();
            jobs.put("j" + number, new Job(kiosk, number, System.nanoTime() + takes.toNanos()));
            return "j" + number;
        });
        if (faults.of("kiosks") == Faults.Fault.LOSES_ANSWERS) {
            Guarded.lose(ctx);
            return;
        }
        ctx.status(202).json(answer(job));
    }

    private void job(Context ctx) {
        if (!Guarded.allowed(ctx, token) || Guarded.faulty(ctx, faults.of("kiosks"))) {
            return;
        }
        if (!jobs.containsKey(ctx.pathParam("job"))) {
            ctx.status(404).json(Map.of("why", "no such job"));
            return;
        }
        ctx.json(answer(ctx.pathParam("job")));
    }

    /** Twelve kiosks, of which three have fallen behind; one is switched off and takes nothing. */
    private void fares(Context ctx) {
        if (!Guarded.allowed(ctx, token) || Guarded.faulty(ctx, faults.of("kiosks"))) {
            return;
        }
        ctx.json(Map.of(
                "inForce",
                IN_FORCE,
                "kiosks",
                new TreeMap<>(versions)
                        .entrySet().stream()
                                .map(e -> Map.of("kiosk", e.getKey(), "version", e.getValue()))
                                .toList()));
    }

    /** How long ago each was heard: all of them minutes ago, unless one has fallen silent. */
    private void heard(Context ctx) {
        if (!Guarded.allowed(ctx, token) || Guarded.faulty(ctx, faults.of("kiosks"))) {
            return;
        }
        ctx.json(Map.of("minutes", silent ? 35 : 2, "kiosk", silent ? SILENT : "kiosk-11", "of", versions.size()));
    }

    /** One of them falls silent, or is heard again. */
    public void fallSilent(boolean is) {
        silent = is;
    }

    boolean isSilent() {
        return silent;
    }

    /** How much paper each has for tickets; the same always, but where it was used up. */
    private void paper(Context ctx) {
        if (!Guarded.allowed(ctx, token) || Guarded.faulty(ctx, faults.of("kiosks"))) {
            return;
        }
        ctx.json(Map.of(
                "kiosks",
                new TreeMap<>(versions)
                        .keySet().stream()
                                .map(k ->
                                        Map.of("kiosk", k, "metres", usedUp.contains(k) ? 6 : FULL - k.hashCode() % 60))
                                .toList()));
    }

    /** The paper of some is used up, or has been filled in again. */
    public void useUpPaper(Set<String> of) {
        usedUp = Set.copyOf(of);
    }

    boolean isUsedUp() {
        return !usedUp.isEmpty();
    }

    private void distribute(Context ctx) {
        if (!Guarded.allowed(ctx, token) || Guarded.faulty(ctx, faults.of("kiosks"))) {
            return;
        }
        String kiosk = ctx.pathParam("kiosk");
        if (kiosk.equals(SWITCHED_OFF) && !switchedOn) {
            ctx.status(409).json(Map.of("why", kiosk + " is switched off"));
            return;
        }
        versions.put(kiosk, ctx.pathParam("version"));
        ctx.json(Map.of("kiosk", kiosk, "version", ctx.pathParam("version")));
    }

    /** Switches on the kiosk that takes no fares while it is off. */
    public void switchOn() {
        switchedOn = true;
    }

    private Map<String, Object> answer(String id) {
        Job job = jobs.get(id);
        boolean done = System.nanoTime() >= job.doneAtNanos();
        Map<String, Object> answer = new TreeMap<>(
                Map.of("job", "/kiosks/jobs/" + id, "state", done ? "up" : "enrolling", "kiosk", job.kiosk()));
        if (done) {
            answer.put("till", "T-%04d".formatted(job.number()));
            answer.put("receipt", "R-%04d-0001".formatted(job.number()));
            answer.put("reference", "enrolment " + id);
        }
        return answer;
    }

    /** The kiosks enrolled so far. */
    public Map<String, String> enrolled() {
        Map<String, String> all = new TreeMap<>();
        jobs.forEach((id, job) -> all.put(job.kiosk(), String.valueOf(answer(id).get("state"))));
        return all;
    }

    public int jobCount() {
        return jobs.size();
    }
}
