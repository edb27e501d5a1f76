package dastur.server.auth;

import java.nio.charset.StandardCharsets;
import java.security.InvalidKeyException;
import java.security.MessageDigest;
import java.security.NoSuchAlgorithmException;
import java.util.Base64;
import java.util.List;
import java.util.Optional;
import javax.crypto.Mac;
import javax.crypto.spec.SecretKeySpec;

/** A few words signed with HMAC-SHA256 (RFC 2104), as one word that can stand in a link. */
final class SignedToken {
    private static final Base64.Encoder ENCODER = Base64.getUrlEncoder().withoutPadding();
    private static final int MAX = 1_000;

    private final SecretKeySpec key;

    /** @param key at least 32 random bytes, kept outside the database */
    SignedToken(byte[] key) {
        this.key = new SecretKeySpec(key, "HmacSHA256");
    }

    String of(List<String> words) {
        byte[] payload = String.join("\n", words).getBytes(StandardCharsets.UTF_8);
        return ENCODER.encodeToString(payload) + "." + ENCODER.encodeToString(sign(payload));
    }

    /** The words; empty when the token was not made with this key, or was altered. */
    Optional<List<String>> read(String token) {
        String[] parts = token.split("\\.", -1);
        if (parts.length != 2 || token.length() > MAX) {
            return Optional.empty();
        }
        try {
            byte[] payload = Base64.getUrlDecoder().decode(parts[0]);
            if (!MessageDigest.isEqual(sign(payload), Base64.getUrlDecoder().decode(parts[1]))) {
                return Optional.empty();
            }
            return Optional.of(List.of(new String(payload, StandardCharsets.UTF_8).split("\n", -1)));
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
