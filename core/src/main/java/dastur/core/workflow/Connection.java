package dastur.core.workflow;

import java.util.List;
import org.jspecify.annotations.Nullable;

/**
 * Access to an outside system. Secrets are references, never values (D31).
 *
 * @param base the address that paths continue, such as {@code http://localhost:7081}
 * @param allowedHosts host:port pairs that calls may reach, beside the base's own
 * @param secret the name of the secret sent as a bearer token; null for none
 */
public record Connection(
        String key,
        String name,
        String base,
        List<String> allowedHosts,
        @Nullable String secret) {
    public Connection {
        allowedHosts = List.copyOf(allowedHosts);
    }
}
