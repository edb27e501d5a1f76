package dastur.core.workflow;

import com.fasterxml.jackson.annotation.JsonSubTypes;
import com.fasterxml.jackson.annotation.JsonTypeInfo;
import dastur.core.json.Texts;
import java.net.URI;
import java.util.Optional;
import org.jspecify.annotations.Nullable;

/** How a connection over HTTP is signed in to with its secret (M6). */
@JsonTypeInfo(use = JsonTypeInfo.Id.NAME, property = "is")
@JsonSubTypes({
    @JsonSubTypes.Type(value = SignIn.Bearer.class, name = "bearer"),
    @JsonSubTypes.Type(value = SignIn.Basic.class, name = "basic"),
    @JsonSubTypes.Type(value = SignIn.Header.class, name = "header"),
    @JsonSubTypes.Type(value = SignIn.ClientCredentials.class, name = "client credentials"),
    @JsonSubTypes.Type(value = SignIn.Certificate.class, name = "certificate")
})
public sealed interface SignIn {
    /** The secret is a token (RFC 6750). */
    record Bearer() implements SignIn {}

    /** The secret is the password of a name (RFC 7617). */
    record Basic(String user) implements SignIn {}

    /** The secret stands in a header of its own. */
    record Header(String name) implements SignIn {}

    /**
     * The secret is that of a client, which gets a token for it (RFC 6749, 4.4).
     *
     * @param tokenAddress where; on the connection's host or one that it allows
     * @param scope what the token is to be for; null for whatever the client may
     */
    record ClientCredentials(
            String tokenAddress, String client, @Nullable String scope) implements SignIn {}

    /** The secret is a private key with its certificates, in PEM (RFC 7468); it is shown in the handshake (RFC 8446). */
    record Certificate() implements SignIn {}

    /** A part that cannot be used. @param where its name */
    record Problem(String where, String what) {}

    /** The first part that cannot be used; empty where all can. */
    default Optional<Problem> problem() {
        return switch (this) {
            case Bearer b -> Optional.empty();
            case Certificate c -> Optional.empty();
            case Basic b ->
                plain(b.user()) && !b.user().contains(":")
                        ? Optional.empty()
                        : Optional.of(new Problem("signIn.user", "A name has 1 to 200 characters and no colon."));
            case Header h ->
                h.name() != null && h.name().matches("[!#$%&'*+.^_`|~0-9A-Za-z-]{1,100}")
                        ? Optional.empty()
                        : Optional.of(new Problem("signIn.name", "Say the header's name, such as X-Api-Key."));
            case ClientCredentials c -> {
                if (!plain(c.client())) {
                    yield Optional.of(new Problem("signIn.client", "A client's name has 1 to 200 characters."));
                }
                if (c.scope() != null && !c.scope().isEmpty() && !plain(c.scope())) {
                    yield Optional.of(new Problem("signIn.scope", "A scope has at most 200 characters."));
                }
                yield isHttp(c.tokenAddress())
                        ? Optional.empty()
                        : Optional.of(new Problem(
                                "signIn.tokenAddress",
                                "Say where tokens are given, such as https://sign-in.kestrel.example/token."));
            }
        };
    }

    private static boolean plain(@Nullable String text) {
        return !Texts.blank(text) && text.length() <= 200 && text.chars().allMatch(c -> c >= ' ' && c != 0x7f);
    }

    private static boolean isHttp(@Nullable String address) {
        try {
            URI uri = URI.create(address == null ? "" : address);
            return ("https".equals(uri.getScheme()) || "http".equals(uri.getScheme())) && uri.getHost() != null;
        } catch (IllegalArgumentException e) {
            return false;
        }
    }
}
