package dastur.standins;

import io.javalin.config.JavalinConfig;
import io.javalin.http.Context;
import java.time.Instant;
import java.time.InstantSource;
import java.time.temporal.ChronoUnit;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.TreeMap;
import java.util.concurrent.ConcurrentHashMap;

/** The gates themselves: their certificates, their fares, and whether they have power. */
public final class GateController {
    private static final Map<String, Integer> GATES = Map.of("ALD", 7, "GNQ", 4, "NSL", 2);
    private static final String FIRST_RULES = "autumn-1";

    private final String token;
    private final Faults faults;
    private final InstantSource clock;
    private final Map<String, Instant> renewed = new ConcurrentHashMap<>();
    private final Map<String, String> rules = new ConcurrentHashMap<>();
    private final Map<String, Map<String, Object>> answers = new ConcurrentHashMap<>();
    private final Set<String> dark = ConcurrentHashMap.newKeySet();
    private final Set<String> free = ConcurrentHashMap.newKeySet();
    private final Set<String> sideEffects = ConcurrentHashMap.newKeySet();
    private final Instant start;

    GateController(String token, Faults faults, InstantSource clock) {
        this.token = token;
        this.faults = faults;
        this.clock = clock;
        this.start = clock.instant();
    }

    void routes(JavalinConfig config) {
        config.routes.get("/gates/{site}/certificates", ctx -> answer(ctx, this::certificates));
        config.routes.post("/gates/{gate}/certificate", ctx -> answer(ctx, this::renew));
        config.routes.get("/gates/{site}/fares", ctx -> answer(ctx, this::fares));
        config.routes.post("/gates/{site}/fares/{rules}", ctx -> answer(ctx, this::apply));
        config.routes.post("/gates/{site}/free", ctx -> answer(ctx, c -> selling(c, false)));
        config.routes.post("/gates/{site}/charge", ctx -> answer(ctx, c -> selling(c, true)));
    }

    private interface Answer {
        Map<String, Object> to(Context ctx);
    }

    /** A repeated call under the same key gets the kept answer. */
    private void answer(Context ctx, Answer answer) {
        if (!Guarded.allowed(ctx, token) || Guarded.faulty(ctx, faults.of("gates"))) {
            return;
        }
        String key = ctx.header("Idempotency-Key");
        Map<String, Object> kept = key == null ? null : answers.get(key);
        Map<String, Object> said = kept != null ? kept : answer.to(ctx);
        if (said.containsKey("refused")) {
            ctx.status(409).json(Map.of("why", said.get("refused")));
            return;
        }
        if (key != null && !"GET".equals(ctx.method().name())) {
            answers.put(key, said);
        }
        ctx.json(said);
    }

    private Map<String, Object> certificates(Context ctx) {
        String site = ctx.pathParam("site");
        List<Map<String, Object>> all = new ArrayList<>();
        for (int i = 1; i <= GATES.getOrDefault(site, 0); i++) {
            String gate = site + "-G" + i;
            all.add(Map.of(
                    "gate",
                    gate,
                    "name",
                    gate.toLowerCase(java.util.Locale.ROOT) + ".kestrel.example",
                    "expires",
                    expires(gate, i).toString()));
        }
        return Map.of("certificates", all);
    }

    /** Those of Alder Pier run out soon, the others later. */
    private Instant expires(String gate, int number) {
        Instant first = start.plus(gate.startsWith("ALD") ? 3 + 2L * number : 90 + number, ChronoUnit.DAYS);
        return renewed.getOrDefault(gate, first).truncatedTo(ChronoUnit.SECONDS);
    }

    private Map<String, Object> renew(Context ctx) {
        String gate = ctx.pathParam("gate");
        if (dark.contains(gate)) {
            return Map.of("refused", "gate " + gate + " has no power");
        }
        Instant until = clock.instant().plus(397, ChronoUnit.DAYS).truncatedTo(ChronoUnit.SECONDS);
        renewed.put(gate, until);
        return Map.of("expires", until.toString(), "reference", "cert-" + gate);
    }

    private Map<String, Object> fares(Context ctx) {
        String site = ctx.pathParam("site");
        boolean changed = !rulesOf(site).equals(FIRST_RULES);
        double child = changed && sideEffects.contains(site) ? 22.5 : 21.0;
        return Map.of("adult", changed ? 45.0 : 42.0, "child", child, "senior", 30.0, "rules", rulesOf(site));
    }

    private Map<String, Object> apply(Context ctx) {
        String site = ctx.pathParam("site");
        String before = rulesOf(site);
        rules.put(site, ctx.pathParam("rules"));
        return Map.of("previous", before, "reference", "rules-" + site);
    }

    private Map<String, Object> selling(Context ctx, boolean charge) {
        String site = ctx.pathParam("site");
        if (charge) {
            free.remove(site);
        } else {
            free.add(site);
        }
        return Map.of("status", charge ? "charging" : "open");
    }

    /** The rules on the gates of a site. */
    public String rulesOf(String site) {
        return rules.getOrDefault(site, FIRST_RULES);
    }

    /** Whether the gates of a site stand open without charging. */
    public boolean isFree(String site) {
        return free.contains(site);
    }

    /** Cuts a gate's power, or brings it back. */
    public void power(String gate, boolean on) {
        if (on) {
            dark.remove(gate);
        } else {
            dark.add(gate);
        }
    }

    /** Whether new rules at a site change the child fare too, which they should not. */
    public void sideEffect(String site, boolean on) {
        if (on) {
            sideEffects.add(site);
        } else {
            sideEffects.remove(site);
        }
    }

    Set<String> dark() {
        return new java.util.TreeSet<>(dark);
    }

    boolean hasSideEffect(String site) {
        return sideEffects.contains(site);
    }

    /** What the control page shows of each site. */
    Map<String, String> sites() {
        Map<String, String> all = new TreeMap<>();
        GATES.keySet()
                .forEach(site -> all.put(site, "rules " + rulesOf(site) + (isFree(site) ? ", standing open" : "")));
        return all;
    }
}
