package dastur.core.record;

import java.nio.ByteBuffer;
import java.nio.charset.StandardCharsets;
import java.security.GeneralSecurityException;
import java.security.MessageDigest;
import java.util.HexFormat;
import javax.crypto.spec.SecretKeySpec;
import org.jspecify.annotations.Nullable;

/**
 * Shows that fields were written by whoever has a key that the database does not hold (K14): HMAC-SHA-256 over each field's
 * length and UTF-8 bytes, so that no two lists of fields give the same bytes.
 */
public final class Mac {
    /** With a key that everybody knows: for tests and rehearsals, which have nothing to guard. */
    public static final Mac NONE = new Mac(new byte[32]);

    private final SecretKeySpec key;

    /** @param key 32 random bytes */
    public Mac(byte[] key) {
        this.key = new SecretKeySpec(key, "HmacSHA256");
    }

    /** The code over fields in their order, in hexadecimal. */
    public String over(@Nullable String... fields) {
        try {
            javax.crypto.Mac mac = javax.crypto.Mac.getInstance("HmacSHA256");
            mac.init(key);
            for (String field : fields) {
                byte[] bytes = field == null ? new byte[0] : field.getBytes(StandardCharsets.UTF_8);
                mac.update(ByteBuffer.allocate(5)
                        .put((byte) (field == null ? 0 : 1))
                        .putInt(bytes.length)
                        .flip());
                mac.update(bytes);
            }
            return HexFormat.of().formatHex(mac.doFinal());
        } catch (GeneralSecurityException e) {
            throw new IllegalStateException("every Java platform has HMAC-SHA-256", e);
        }
    }

    /** Whether a code is that over these fields. */
    public boolean holds(@Nullable String code, @Nullable String... fields) {
        return code != null
                && MessageDigest.isEqual(
                        code.getBytes(StandardCharsets.UTF_8), over(fields).getBytes(StandardCharsets.UTF_8));
    }
}
