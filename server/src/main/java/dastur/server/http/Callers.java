package dastur.server.http;

import io.javalin.http.Context;
import java.util.Arrays;
import java.util.List;
import java.util.Set;
import org.jspecify.annotations.Nullable;

/**
 * From where a request comes. Behind a proxy the peer is the proxy; what it says of the caller is believed only when the
 * proxy is one that was named at the start: anybody can send such a header.
 */
final class Callers {
    private static final String ADDRESS = "dastur.address";
    private static final String SECURE = "dastur.secure";

    private Callers() {}

    /** Notes it for the rest of the request. */
    static void note(Context ctx, Set<String> proxies) {
        boolean proxied = proxies.contains(ctx.ip());
        ctx.attribute(ADDRESS, proxied ? forwarded(ctx.header("X-Forwarded-For"), ctx.ip(), proxies) : ctx.ip());
        String scheme =
                proxied && ctx.header("X-Forwarded-Proto") != null ? ctx.header("X-Forwarded-Proto") : ctx.scheme();
        ctx.attribute(SECURE, "https".equalsIgnoreCase(scheme));
    }

    /** The last address that was not added by one of our own proxies: whatever stands before it anybody may have written. */
    static String forwarded(@Nullable String header, String peer, Set<String> proxies) {
        List<String> hops = header == null
                ? List.of()
                : Arrays.stream(header.split(",")).map(String::strip).toList();
        return hops.reversed().stream()
                .takeWhile(h -> h.matches("[0-9a-fA-F:.\\[\\]]{2,45}"))
                .filter(h -> !proxies.contains(h))
                .findFirst()
                .orElse(peer);
    }

    static String address(Context ctx) {
        String noted = ctx.attribute(ADDRESS);
        return noted == null ? ctx.ip() : noted;
    }

    static boolean bySecureLine(Context ctx) {
        return Boolean.TRUE.equals(ctx.attribute(SECURE));
    }
}
