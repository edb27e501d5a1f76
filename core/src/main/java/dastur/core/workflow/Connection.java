package dastur.core.workflow;

import java.util.List;
import org.jspecify.annotations.Nullable;

/**
 * Access to an outside system. Secrets are references, never values (D31).
 *
 * @param base the address that paths continue, such as {@code http://localhost:7081}; its scheme says the protocol
 * @param allowedHosts host:port pairs that calls may reach, beside the base's own
 * @param secret the name of the secret: a bearer token over HTTP; a password or private key over SSH and
 *     SFTP; a password over SQL; over DNS a key
 *     that signs updates (TSIG, RFC 8945) as {@code name:base64}; null for none
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

    /** @throws IllegalArgumentException when the address is none that can be used */
    public Protocol protocol() {
        return Protocol.of(base);
    }
}
