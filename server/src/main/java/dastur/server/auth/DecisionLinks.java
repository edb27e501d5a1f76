package dastur.server.auth;

import dastur.core.people.PersonId;
import dastur.core.run.VisitId;
import java.nio.charset.StandardCharsets;
import java.security.InvalidKeyException;
import java.security.MessageDigest;
import java.security.NoSuchAlgorithmException;
import java.time.Instant;
import java.util.Base64;
import java.util.Optional;
import javax.crypto.Mac;
import javax.crypto.spec.SecretKeySpec;

/**
 * Links by which a person decides from a mail (N41): signed with HMAC-SHA256 (RFC 2104), for one person, one round of one
 * approval, until a moment. They stand in the mail alone, never on a record or in a log. That each is used once follows
 * from the engine: a person votes once.
 */
public final class DecisionLinks {
    /**
     * What a link says.
     *
     * @param digest of what was shown; a vote on anything else is refused (D18)
     */
    public record Link(VisitId visit, int round, String digest, PersonId person, Instant until) {}

    private static final Base64.Encoder ENCODER = Base64.getUrlEncoder().withoutPadding();

    private final SecretKeySpec key;

    /** @param key at least 32 random bytes, kept outside the database */
    public DecisionLinks(byte[] key) {
        this.key = new SecretKeySpec(key, "HmacSHA256");
    }

    public String token(Link link) {
        String said = String.join(
                "\n",
                link.visit().value(),
                String.valueOf(link.round()),
                link.digest(),
                link.person().value(),
                String.valueOf(link.until().getEpochSecond()));
        byte[] payload = said.getBytes(StandardCharsets.UTF_8);
        return ENCODER.encodeToString(payload) + "." + ENCODER.encodeToString(sign(payload));
    }

    /** What a token says; empty when it was not made here, was altered, or its time is over. */
    public Optional<Link> read(String token, Instant now) {
        String[] parts = token.split("\\.", -1);
        if (parts.length != 2 || token.length() > 1_000) {
            return Optional.empty();
        }
        try {
            byte[] payload = Base64.getUrlDecoder().decode(parts[0]);
            if (!MessageDigest.isEqual(sign(payload), Base64.getUrlDecoder().decode(parts[1]))) {
                return Optional.empty();
            }
            String[] said = new String(payload, StandardCharsets.UTF_8).split("\n", -1);
            Link link = new Link(
                    new VisitId(said[0]),
                    Integer.parseInt(said[1]),
                    said[2],
                    new PersonId(said[3]),
                    Instant.ofEpochSecond(Long.parseLong(said[4])));
            return link.until().isAfter(now) ? Optional.of(link) : Optional.empty();
        } catch (IllegalArgumentException e) {
            return Optional.empty();
        }
    }

    private byte[] sign(byte[] payload) {
        try {
            Mac mac = Mac.getInstance("HmacSHA256");
            mac.init(key);
            return mac.doFinal(payload);
        } catch (NoSuchAlgorithmException | InvalidKeyException e) {
            throw new IllegalStateException("this Java has no HMAC-SHA256", e);
        }
    }
}
