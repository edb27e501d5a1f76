package dastur.standins;

import io.javalin.http.Context;
import java.util.Map;

/** What the HTTP stand-ins share: a bearer token, and trouble on purpose. */
final class Guarded {
    private Guarded() {}

    static boolean allowed(Context ctx, String token) {
        if (("Bearer " + token).equals(ctx.header("Authorization"))) {
            return true;
        }
        ctx.status(401).json(Map.of("why", "no valid token"));
        return false;
    }

    /** Tells whoever is let in what may be done at an address (RFC 9110, 9.3.7). */
    static void tells(Context ctx, String token, String methods) {
        if (allowed(ctx, token)) {
            ctx.header("Allow", methods).status(204);
        }
    }

    /** Whether the fault answered instead. */
    static boolean faulty(Context ctx, Faults.Fault fault) {
        switch (fault) {
            case DOWN -> ctx.status(503).json(Map.of("why", "down for maintenance"));
            case REFUSES -> ctx.status(409).json(Map.of("why", "refused"));
            case NONE, LOSES_ANSWERS -> {
                return false;
            }
        }
        return true;
    }

    /** The work was done, but the caller never hears of it: what a broken line looks like from outside. */
    static void lose(Context ctx) {
        ctx.status(502).json(Map.of("why", "the line to the gate broke"));
    }
}
