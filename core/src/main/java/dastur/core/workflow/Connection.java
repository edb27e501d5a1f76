package dastur.core.workflow;

import java.net.URI;
import java.util.List;
import java.util.Optional;
import org.jspecify.annotations.Nullable;

/**
 * Access to an outside system. Secrets are references, never values (D31).
 *
 * @param base the address that paths continue, such as {@code http://localhost:7081}; its scheme says the protocol;
 *     or {@code relay://ZONE/NAME?as=http}, which a relay of that zone knows how to reach
 * @param allowedHosts host:port pairs that calls may reach, beside the base's own
 * @param secret the name of the secret: a bearer token over HTTP; a password or private key over SSH and
 *     SFTP; a password over SQL; over DNS a key
 *     that signs updates (TSIG, RFC 8945) as {@code name:base64}; null for none
 * @param signIn how the secret is used over HTTP; null for as a bearer token
 */
public record Connection(
        String key,
        String name,
        String base,
        List<String> allowedHosts,
        @Nullable String secret,
        @Nullable SignIn signIn) {
    public Connection {
        allowedHosts = List.copyOf(allowedHosts);
    }

    /** One whose secret, if it has one, is a bearer token over HTTP. */
    public Connection(String key, String name, String base, List<String> allowedHosts, @Nullable String secret) {
        this(key, name, base, allowedHosts, secret, null);
    }

    /**
     * Where its calls are made by relays (M13).
     *
     * @param zone the private network
     * @param name what the relays' own file calls the connection
     */
    public record InZone(ZoneKey zone, String name) {}

    /** Empty where the server makes its calls itself. */
    public Optional<InZone> inZone() {
        if (!base.startsWith(Protocol.RELAY)) {
            return Optional.empty();
        }
        URI uri = URI.create(base);
        return Optional.of(
                new InZone(new ZoneKey(uri.getRawAuthority()), uri.getRawPath().substring(1)));
    }

    /** @throws IllegalArgumentException when the address is none that can be used */
    public Protocol protocol() {
        return Protocol.of(base);
    }
}
