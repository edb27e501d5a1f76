package dastur.standins;

import com.fasterxml.jackson.databind.JsonNode;
import com.fasterxml.jackson.databind.ObjectMapper;
import io.javalin.config.JavalinConfig;
import io.javalin.http.Context;
import java.io.IOException;
import java.util.List;
import java.util.Map;
import java.util.TreeMap;
import java.util.concurrent.ConcurrentHashMap;
import java.util.concurrent.atomic.AtomicInteger;

/** A partner's ticket desk. The control page answers as the partner. */
public final class PartnerDesk {
    private static final ObjectMapper JSON = new ObjectMapper();

    /** A ticket at the partner's. */
    public record PartnerTicket(String number, String title, String severity, String state, String answer) {}

    private final String token;
    private final Faults faults;
    private final Map<String, PartnerTicket> tickets = new ConcurrentHashMap<>();
    private final Map<String, String> keys = new ConcurrentHashMap<>();
    private final AtomicInteger next = new AtomicInteger(501);
    private volatile boolean takesLessSeriously;

    PartnerDesk(String token, Faults faults) {
        this.token = token;
        this.faults = faults;
    }

    void routes(JavalinConfig config) {
        config.routes.post("/partner/tickets", this::raise);
        config.routes.get("/partner/tickets/{number}", this::look);
    }

    private void raise(Context ctx) {
        if (!Guarded.allowed(ctx, token) || Guarded.faulty(ctx, faults.of("partner"))) {
            return;
        }
        String key = ctx.header("Idempotency-Key");
        String number = keys.computeIfAbsent(key == null ? "none-" + next.get() : key, k -> {
            JsonNode asked = read(ctx);
            int severity = asked.path("severity").asInt(3);
            String id = "PD-" + next.getAndIncrement();
            tickets.put(
                    id,
                    new PartnerTicket(
                            id,
                            asked.path("title").asText(),
                            String.valueOf(takesLessSeriously ? Math.min(4, severity + 1) : severity),
                            "open",
                            ""));
            return id;
        });
        ctx.status(201).json(answer(tickets.get(number)));
    }

    private void look(Context ctx) {
        if (!Guarded.allowed(ctx, token) || Guarded.faulty(ctx, faults.of("partner"))) {
            return;
        }
        PartnerTicket ticket = tickets.get(ctx.pathParam("number"));
        if (ticket == null) {
            ctx.status(404).json(Map.of("why", "no such ticket"));
        } else {
            ctx.json(answer(ticket));
        }
    }

    private static Map<String, Object> answer(PartnerTicket t) {
        return new TreeMap<>(Map.of(
                "number", t.number(),
                "severity", t.severity(),
                "state", t.state(),
                "answer", t.answer().isEmpty() ? "not yet answered" : t.answer()));
    }

    /** The partner solves a ticket. */
    public void solve(String number, String answer) {
        tickets.computeIfPresent(
                number, (n, t) -> new PartnerTicket(t.number(), t.title(), t.severity(), "solved", answer));
    }

    /** Whether the partner takes new tickets one step less seriously than we do. */
    public void takeLessSeriously(boolean less) {
        takesLessSeriously = less;
    }

    public boolean takesLessSeriously() {
        return takesLessSeriously;
    }

    /** All tickets, the newest first. */
    public List<PartnerTicket> tickets() {
        return new TreeMap<>(tickets).descendingMap().values().stream().toList();
    }

    private static JsonNode read(Context ctx) {
        try {
            return JSON.readTree(ctx.body());
        } catch (IOException e) {
            throw new IllegalArgumentException(e);
        }
    }
}
