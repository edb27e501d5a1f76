package dastur.connectors;

import com.fasterxml.jackson.core.JsonProcessingException;
import com.fasterxml.jackson.databind.JsonNode;
import dastur.connectors.Answers.Definite;
import dastur.core.json.Json;
import dastur.core.record.Seal;
import dastur.core.workflow.Connection;
import dastur.core.workflow.SignIn;
import java.io.IOException;
import java.io.InputStream;
import java.io.StringReader;
import java.net.URI;
import java.net.URLEncoder;
import java.net.http.HttpClient;
import java.net.http.HttpRequest;
import java.net.http.HttpResponse;
import java.nio.charset.StandardCharsets;
import java.security.GeneralSecurityException;
import java.security.KeyStore;
import java.security.PrivateKey;
import java.security.cert.Certificate;
import java.security.cert.X509Certificate;
import java.time.Duration;
import java.util.ArrayList;
import java.util.Base64;
import java.util.List;
import java.util.Map;
import java.util.concurrent.ConcurrentHashMap;
import javax.net.ssl.KeyManagerFactory;
import javax.net.ssl.SSLContext;
import org.bouncycastle.asn1.pkcs.PrivateKeyInfo;
import org.bouncycastle.cert.X509CertificateHolder;
import org.bouncycastle.cert.jcajce.JcaX509CertificateConverter;
import org.bouncycastle.openssl.PEMKeyPair;
import org.bouncycastle.openssl.PEMParser;
import org.bouncycastle.openssl.jcajce.JcaPEMKeyConverter;
import org.jspecify.annotations.Nullable;

/** Puts what a connection signs in with into calls over HTTP (M6), and keeps tokens as long as they hold. */
final class SigningIn {
    private static final int MOST_OF_TOKEN = 100_000;
    /** A token is not used when it is about to be over. */
    private static final Duration SPARE = Duration.ofSeconds(10);
    /** Where nobody says how long a token holds. */
    private static final long USUAL_SECONDS = 60;

    private record For(String connection, SignIn.ClientCredentials signIn, String secretHash) {}

    private record Token(String value, long untilNanos) {}

    private final Map<For, Token> tokens = new ConcurrentHashMap<>();

    /** What was put into a request. @param hidden what must never come back @param renewable whether it may have been too old */
    record Put(List<String> hidden, boolean renewable) {}

    /** Resolves an address as one that the connection allows. */
    interface Allows {
        URI resolve(String address) throws Definite;
    }

    /** @throws Definite when it cannot be signed in to; nothing of the call was sent then */
    Put into(HttpRequest.Builder request, Connection connection, @Nullable String secret, Allows allows, Duration left)
            throws Definite, InterruptedException {
        if (secret == null) {
            return new Put(List.of(), false);
        }
        SignIn how = connection.signIn() == null ? new SignIn.Bearer() : connection.signIn();
        return switch (how) {
            case SignIn.Bearer b -> {
                set(request, "Authorization", "Bearer " + secret);
                yield new Put(List.of(secret), false);
            }
            case SignIn.Basic b -> {
                String both =
                        Base64.getEncoder().encodeToString((b.user() + ":" + secret).getBytes(StandardCharsets.UTF_8));
                set(request, "Authorization", "Basic " + both);
                yield new Put(List.of(secret, both), false);
            }
            case SignIn.Header h -> {
                set(request, h.name(), secret);
                yield new Put(List.of(secret), false);
            }
            // Shown in the handshake.
            case SignIn.Certificate c -> new Put(List.of(secret), false);
            case SignIn.ClientCredentials c -> {
                For of = new For(connection.key(), c, Seal.hash(secret));
                Token known = tokens.get(of);
                boolean kept = known != null && known.untilNanos() - System.nanoTime() > 0;
                Token token = kept ? known : fetched(c, secret, allows, left);
                tokens.values().removeIf(t -> t.untilNanos() - System.nanoTime() < 0);
                tokens.put(of, token);
                set(request, "Authorization", "Bearer " + token.value());
                yield new Put(List.of(secret, token.value()), kept);
            }
        };
    }

    /** A token was refused: the next call gets another. */
    void forget(Connection connection) {
        tokens.keySet().removeIf(of -> of.connection().equals(connection.key()));
    }

    private static void set(HttpRequest.Builder request, String header, String value) throws Definite {
        try {
            request.setHeader(header, value);
        } catch (IllegalArgumentException e) {
            throw Definite.ours("Nothing was sent: the secret cannot stand in a header. Set it anew.");
        }
    }

    private static Token fetched(SignIn.ClientCredentials c, String secret, Allows allows, Duration left)
            throws Definite, InterruptedException {
        URI at = allows.resolve(c.tokenAddress());
        String form = "grant_type=client_credentials"
                + (c.scope() == null || c.scope().isBlank() ? "" : "&scope=" + encoded(c.scope()));
        // RFC 6749, 2.3.1: both are encoded before they are put together.
        String both = Base64.getEncoder()
                .encodeToString((encoded(c.client()) + ":" + encoded(secret)).getBytes(StandardCharsets.UTF_8));
        HttpRequest request = HttpRequest.newBuilder(at)
                .timeout(left)
                .header("Authorization", "Basic " + both)
                .header("Accept", "application/json")
                .header("Content-Type", "application/x-www-form-urlencoded")
                .POST(HttpRequest.BodyPublishers.ofString(form))
                .build();
        long begun = System.nanoTime();
        HttpClient client = HttpConnector.client(null);
        try {
            HttpResponse<InputStream> response = client.send(request, HttpResponse.BodyHandlers.ofInputStream());
            String text = Bounded.read(response, MOST_OF_TOKEN, left.minusNanos(System.nanoTime() - begun));
            // What it says is left out: it may be the token.
            if (response.statusCode() != 200) {
                throw new Definite(
                        "Nothing was sent: where tokens are given, it answered " + response.statusCode() + ".");
            }
            JsonNode said = Json.parse(text);
            String value = said.path("access_token").asText("");
            boolean bearer = said.path("token_type").asText("bearer").equalsIgnoreCase("bearer");
            if (!bearer || !value.matches("[A-Za-z0-9._~+/-]{1,8000}=*")) {
                throw new Definite("Nothing was sent: where tokens are given, the answer holds no bearer token.");
            }
            long seconds = Math.clamp(said.path("expires_in").asLong(USUAL_SECONDS), 0, 86_400);
            return new Token(
                    value, begun + Duration.ofSeconds(seconds).minus(SPARE).toNanos());
        } catch (JsonProcessingException e) {
            throw new Definite("Nothing was sent: where tokens are given, the answer is no JSON.");
        } catch (IOException e) {
            throw Definite.unreached("Nothing was sent: there is no connection to where tokens are given.");
        } finally {
            client.shutdownNow();
        }
    }

    private static String encoded(String text) {
        return URLEncoder.encode(text, StandardCharsets.UTF_8);
    }

    /** Null where nothing is shown in the handshake. @throws Definite when the secret is no key with its certificates */
    static @Nullable SSLContext handshake(Connection connection, @Nullable String secret) throws Definite {
        if (secret == null || !(connection.signIn() instanceof SignIn.Certificate)) {
            return null;
        }
        try (PEMParser pem = new PEMParser(new StringReader(secret))) {
            PrivateKey key = null;
            List<Certificate> chain = new ArrayList<>();
            JcaX509CertificateConverter certificates = new JcaX509CertificateConverter();
            for (Object one = pem.readObject(); one != null; one = pem.readObject()) {
                switch (one) {
                    case PrivateKeyInfo k -> key = new JcaPEMKeyConverter().getPrivateKey(k);
                    case PEMKeyPair k ->
                        key = new JcaPEMKeyConverter().getKeyPair(k).getPrivate();
                    case X509CertificateHolder c -> chain.add(certificates.getCertificate(c));
                    default -> {}
                }
            }
            if (key == null || chain.isEmpty()) {
                throw Definite.ours(
                        "Nothing was sent: the secret is no private key with its certificates in PEM. Set it anew.");
            }
            KeyStore store = KeyStore.getInstance("PKCS12");
            store.load(null, null);
            store.setKeyEntry("own", key, new char[0], chain.toArray(X509Certificate[]::new));
            KeyManagerFactory keys = KeyManagerFactory.getInstance(KeyManagerFactory.getDefaultAlgorithm());
            keys.init(store, new char[0]);
            SSLContext context = SSLContext.getInstance("TLS");
            context.init(keys.getKeyManagers(), null, null);
            return context;
        } catch (GeneralSecurityException | IOException | RuntimeException e) {
            throw Definite.ours(
                    "Nothing was sent: the secret is no private key with its certificates in PEM. Set it anew.");
        }
    }
}
