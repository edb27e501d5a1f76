package dastur.server.signals;

import dastur.core.signal.Source;
import dastur.core.signal.SourceKey;
import dastur.server.auth.Secrets;
import java.nio.ByteBuffer;
import java.security.GeneralSecurityException;
import java.time.Duration;
import java.time.Instant;
import java.util.Base64;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.function.Function;
import javax.crypto.Mac;
import javax.crypto.spec.SecretKeySpec;

/**
 * Whether a request comes from whom it says (I2): by a token, or by a signature as Standard Webhooks describes it
 * (HMAC-SHA-256 over {@code id.time.body}). A source may have two secrets at a time, so that one can be changed without loss.
 */
public final class Proving {
    /** The prefix of secrets that sign, as the standard writes them. */
    static final String SIGNS = "whsec_";

    /** How many secrets are live at a time. */
    public static final int LIVE = 2;

    private static final Duration TOO_OLD = Duration.ofMinutes(5);

    /** Why a request is refused. @param reason a short word, for counting */
    record No(String reason, String words) {}

    private final Function<String, Optional<String>> secret;

    /** @param secret a secret's value by its name */
    Proving(Function<String, Optional<String>> secret) {
        this.secret = secret;
    }

    /** The name under which a source's secret is kept. @param which 1 or 2 */
    public static String name(SourceKey source, int which) {
        return "source." + source + "." + which;
    }

    /** Whether a secret of this name is a source's. */
    public static boolean isOfSource(String name) {
        return name.startsWith("source.");
    }

    /** A fresh secret of the kind that a source needs. */
    public static String fresh(Source.Proof proof) {
        return switch (proof) {
            case TOKEN -> Secrets.newToken();
            case SIGNATURE -> SIGNS + Base64.getEncoder().encodeToString(Secrets.randomBytes());
            case ADDRESS, MAIL ->
                throw new IllegalArgumentException("What comes as syslog or by mail shows no secret.");
        };
    }

    /** Empty when it is proved. */
    Optional<No> refused(Source source, Map<String, String> headers, byte[] body, Instant now) {
        List<String> secrets = java.util.stream.IntStream.rangeClosed(1, LIVE)
                .mapToObj(i -> secret.apply(name(source.key(), i)))
                .flatMap(Optional::stream)
                .toList();
        if (secrets.isEmpty() && source.proof().proves()) {
            return Optional.of(new No("no secret", "This source has no secret yet, so nothing can be proved to it."));
        }
        return switch (source.proof()) {
            case TOKEN -> token(secrets, headers);
            case SIGNATURE -> signature(secrets, headers, body, now);
            case ADDRESS ->
                Optional.of(new No("no secret", "This source takes lines of syslog, and nothing over HTTP."));
            case MAIL -> Optional.of(new No("no secret", "This source takes mail, and nothing over HTTP."));
        };
    }

    private static Optional<No> token(List<String> secrets, Map<String, String> headers) {
        String given = headers.get("authorization");
        if (given == null || !given.regionMatches(true, 0, "Bearer ", 0, 7)) {
            return Optional.of(new No("no token", "Send the source's token: 'Authorization: Bearer …'."));
        }
        boolean fits = false;
        for (String secret : secrets) {
            // Each is compared, so that the time says nothing.
            fits |= Secrets.same(given.substring(7).strip(), secret);
        }
        return fits ? Optional.empty() : Optional.of(new No("wrong token", "The token is not one of this source."));
    }

    private static Optional<No> signature(List<String> secrets, Map<String, String> headers, byte[] body, Instant now) {
        String id = headers.get("webhook-id");
        String time = headers.get("webhook-timestamp");
        String given = headers.get("webhook-signature");
        if (id == null || time == null || given == null || id.length() > 200) {
            return Optional.of(new No(
                    "no signature",
                    "Sign what you send: webhook-id, webhook-timestamp and webhook-signature (Standard Webhooks)."));
        }
        if (!time.matches("\\d{1,12}")) {
            return Optional.of(new No("no signature", "webhook-timestamp is to be seconds since 1970."));
        }
        Duration off = Duration.between(Instant.ofEpochSecond(Long.parseLong(time)), now)
                .abs();
        if (off.compareTo(TOO_OLD) > 0) {
            return Optional.of(new No(
                    "too old", "webhook-timestamp is " + off.toMinutes() + " minutes off; at most 5 are accepted."));
        }
        boolean fits = false;
        for (String secret : secrets) {
            String right = "v1," + signed(secret, id, time, body);
            for (String one : given.split(" ")) {
                fits |= Secrets.same(one, right);
            }
        }
        return fits
                ? Optional.empty()
                : Optional.of(new No(
                        "wrong signature", "The signature does not fit the body under any secret of this source."));
    }

    /** The signature of a body, in base64. */
    public static String signed(String secret, String id, String time, byte[] body) {
        try {
            byte[] key =
                    Base64.getDecoder().decode(secret.startsWith(SIGNS) ? secret.substring(SIGNS.length()) : secret);
            byte[] before = (id + "." + time + ".").getBytes(java.nio.charset.StandardCharsets.UTF_8);
            Mac mac = Mac.getInstance("HmacSHA256");
            mac.init(new SecretKeySpec(key, "HmacSHA256"));
            return Base64.getEncoder()
                    .encodeToString(mac.doFinal(ByteBuffer.allocate(before.length + body.length)
                            .put(before)
                            .put(body)
                            .array()));
        } catch (GeneralSecurityException | IllegalArgumentException e) {
            throw new IllegalStateException("a secret that signs is base64, and every Java platform has HMAC", e);
        }
    }
}
