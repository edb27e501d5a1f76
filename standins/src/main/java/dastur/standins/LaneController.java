package dastur.standins;

import io.javalin.config.JavalinConfig;
import io.javalin.http.Context;
import java.util.Map;
import java.util.TreeMap;
import java.util.concurrent.ConcurrentHashMap;
import java.util.concurrent.atomic.AtomicInteger;

/** Opens and closes gate lanes. A repeated call under the same Idempotency-Key gets the kept answer. */
public final class LaneController {
    private final String token;
    private final Faults faults;
    private final Map<String, String> locks = new ConcurrentHashMap<>();
    private final Map<String, Map<String, Object>> answers = new ConcurrentHashMap<>();
    private final AtomicInteger next = new AtomicInteger(4711);
    private final AtomicInteger calls = new AtomicInteger();

    LaneController(String token, Faults faults) {
        this.token = token;
        this.faults = faults;
    }

    void routes(JavalinConfig config) {
        config.routes.post("/lanes/{gate}/close", this::close);
        config.routes.post("/lanes/{gate}/open", ctx -> {
            if (Guarded.allowed(ctx, token)) {
                locks.remove(ctx.pathParam("gate"));
                ctx.json(Map.of("status", "open"));
            }
        });
    }

    private void close(Context ctx) {
        calls.incrementAndGet();
        if (!Guarded.allowed(ctx, token) || Guarded.faulty(ctx, faults.of("lanes"))) {
            return;
        }
        String gate = ctx.pathParam("gate");
        String key = ctx.header("Idempotency-Key");
        Map<String, Object> answer =
                answers.computeIfAbsent(key == null ? "none-" + next.get() : key, k -> closed(gate));
        if (faults.of("lanes") == Faults.Fault.LOSES_ANSWERS) {
            Guarded.lose(ctx);
            return;
        }
        ctx.json(answer);
    }

    private Map<String, Object> closed(String gate) {
        String before = locks.get(gate);
        String lock = before != null ? before : "L-" + next.getAndIncrement();
        locks.put(gate, lock);
        return Map.of(
                "status",
                before != null ? "already closed" : "closed",
                "lock",
                lock,
                "lane",
                gate,
                "reference",
                "lane-" + lock);
    }

    /** The closed lanes with their lock numbers. */
    public Map<String, String> closedLanes() {
        return new TreeMap<>(locks);
    }

    /** How many close calls came in. */
    public int calls() {
        return calls.get();
    }

    /** How many different calls were carried out: repeats under a key do not count. */
    public int carriedOut() {
        return answers.size();
    }
}
