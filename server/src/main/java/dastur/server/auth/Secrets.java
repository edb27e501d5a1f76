package dastur.server.auth;

import com.password4j.Argon2Function;
import com.password4j.Hash;
import com.password4j.Password;
import com.password4j.types.Argon2;
import java.nio.charset.StandardCharsets;
import java.security.MessageDigest;
import java.security.NoSuchAlgorithmException;
import java.security.SecureRandom;
import java.util.Base64;
import java.util.HexFormat;

/** Passwords and tokens. */
public final class Secrets {
    /** OWASP's recommendation for argon2id: 19 MiB, 2 rounds, 1 lane. */
    private static final Argon2Function ARGON2 = Argon2Function.getInstance(19_456, 2, 1, 32, Argon2.ID);

    private static final SecureRandom RANDOM = new SecureRandom();

    private Secrets() {}

    public static String hashPassword(String password) {
        Hash hash = Password.hash(password).addRandomSalt(16).with(ARGON2);
        return hash.getResult();
    }

    public static boolean passwordFits(String password, String hash) {
        return Password.check(password, hash).with(Argon2Function.getInstanceFromHash(hash));
    }

    /** A fresh token that cannot be guessed: 32 random bytes, URL-safe. */
    public static String newToken() {
        return Base64.getUrlEncoder().withoutPadding().encodeToString(randomBytes());
    }

    /** What of a token is stored. */
    public static String hashToken(String token) {
        try {
            return HexFormat.of()
                    .formatHex(MessageDigest.getInstance("SHA-256").digest(token.getBytes(StandardCharsets.UTF_8)));
        } catch (NoSuchAlgorithmException e) {
            throw new IllegalStateException("every Java platform has SHA-256", e);
        }
    }

    /** 32 fresh random bytes. */
    public static byte[] randomBytes() {
        byte[] bytes = new byte[32];
        RANDOM.nextBytes(bytes);
        return bytes;
    }

    public static boolean same(String a, String b) {
        return MessageDigest.isEqual(a.getBytes(StandardCharsets.UTF_8), b.getBytes(StandardCharsets.UTF_8));
    }
}
