package dastur.standins;

import io.javalin.config.JavalinConfig;
import io.javalin.http.Context;
import java.nio.charset.StandardCharsets;
import java.util.Base64;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.UUID;
import java.util.concurrent.ConcurrentHashMap;

/**
 * The store of spare parts, an old system: its list comes in pages (RFC 8288), a part is XML, an order a form, and whoever speaks to it
 * first gets a token (RFC 6749, 4.4).
 */
public final class PartsStore {
    public static final String CLIENT = "dastur";

    private static final int A_PAGE = 4;
    private static final long TOKEN_SECONDS = 120;

    private record Part(String id, String name, String shelf, int stock) {}

    private static final List<Part> PARTS = List.of(
            new Part("SP-101", "Gate motor", "A3", 4),
            new Part("SP-102", "Lane lock & plate", "A3", 11),
            new Part("SP-103", "Card reader", "A4", 0),
            new Part("SP-204", "Kiosk printer", "B1", 2),
            new Part("SP-205", "Paper roll, 240 m", "B1", 64),
            new Part("SP-206", "Kiosk screen", "B2", 1),
            new Part("SP-307", "Departure board, 2 lines", "C1", 3),
            new Part("SP-308", "Board controller", "C1", 5),
            new Part("SP-409", "Radio link, 60 GHz", "D2", 2),
            new Part("SP-410", "Antenna, sector", "D2", 7));

    private final String secret;
    private final Faults faults;
    private final Map<String, Long> tokens = new ConcurrentHashMap<>();
    private final Map<String, String> orders = new ConcurrentHashMap<>();
    private final Map<String, String> ordered = new LinkedHashMap<>();

    PartsStore(String secret, Faults faults) {
        this.secret = secret;
        this.faults = faults;
    }

    void routes(JavalinConfig config) {
        config.routes.post("/parts/token", this::token);
        config.routes.get("/parts", this::list);
        config.routes.get("/parts/{part}", this::part);
        config.routes.post("/parts/orders", this::order);
    }

    private void token(Context ctx) {
        String known = Base64.getEncoder().encodeToString((CLIENT + ":" + secret).getBytes(StandardCharsets.UTF_8));
        if (!("Basic " + known).equals(ctx.header("Authorization"))
                || !"client_credentials".equals(ctx.formParam("grant_type"))) {
            ctx.status(401).json(Map.of("error", "invalid_client"));
            return;
        }
        String token = UUID.randomUUID().toString();
        tokens.put(token, System.nanoTime() + TOKEN_SECONDS * 1_000_000_000);
        ctx.json(Map.of("access_token", token, "token_type", "Bearer", "expires_in", TOKEN_SECONDS));
    }

    private boolean answered(Context ctx) {
        String said = String.valueOf(ctx.header("Authorization"));
        Long until = said.startsWith("Bearer ") ? tokens.get(said.substring("Bearer ".length())) : null;
        if (until == null || until - System.nanoTime() < 0) {
            ctx.status(401).json(Map.of("error", "invalid_token"));
            return true;
        }
        return Guarded.faulty(ctx, faults.of("parts"));
    }

    private void list(Context ctx) {
        if (answered(ctx)) {
            return;
        }
        int page = ctx.queryParamAsClass("page", Integer.class).getOrDefault(1);
        int from = Math.clamp((page - 1L) * A_PAGE, 0, PARTS.size());
        int to = Math.min(from + A_PAGE, PARTS.size());
        if (to < PARTS.size()) {
            ctx.header("Link", "</parts?page=1>; rel=\"first\", </parts?page=" + (page + 1) + ">; rel=\"next\"");
        }
        ctx.json(Map.of("parts", PARTS.subList(from, to)));
    }

    private void part(Context ctx) {
        if (answered(ctx)) {
            return;
        }
        PARTS.stream()
                .filter(p -> p.id().equals(ctx.pathParam("part")))
                .findFirst()
                .ifPresentOrElse(
                        p -> ctx.contentType("application/xml").result(xml(p)),
                        () -> ctx.status(404).contentType("application/xml").result("<fault>no such part</fault>"));
    }

    private static String xml(Part part) {
        return "<?xml version=\"1.0\"?>\n<s:part xmlns:s=\"urn:store\" id=\"" + part.id() + "\"><s:name>"
                + part.name().replace("&", "&amp;") + "</s:name><s:shelf>" + part.shelf()
                + "</s:shelf><s:stock unit=\"piece\">" + part.stock() + "</s:stock></s:part>\n";
    }

    private void order(Context ctx) {
        if (answered(ctx)) {
            return;
        }
        String part = ctx.formParam("part");
        if (PARTS.stream().noneMatch(p -> p.id().equals(part))) {
            ctx.status(422).contentType("application/xml").result("<fault>no such part</fault>");
            return;
        }
        String key = String.valueOf(ctx.header("Idempotency-Key"));
        String number = orders.computeIfAbsent(key, k -> {
            synchronized (ordered) {
                String order = "O-" + (501 + ordered.size());
                ordered.put(order, part + " for " + ctx.formParam("for"));
                return order;
            }
        });
        if (faults.of("parts") == Faults.Fault.LOSES_ANSWERS) {
            Guarded.lose(ctx);
            return;
        }
        ctx.status(201).contentType("application/xml").result("<order number=\"" + number + "\"/>");
    }

    /** What was ordered and for what, by the order's number. */
    public Map<String, String> ordered() {
        synchronized (ordered) {
            return new LinkedHashMap<>(ordered);
        }
    }
}
