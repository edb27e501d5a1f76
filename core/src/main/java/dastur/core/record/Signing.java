package dastur.core.record;

import java.nio.charset.StandardCharsets;
import java.security.GeneralSecurityException;
import java.security.KeyFactory;
import java.security.KeyPair;
import java.security.PublicKey;
import java.security.Signature;
import java.security.spec.X509EncodedKeySpec;
import java.util.Base64;

/** Ed25519 signatures over texts (RFC 8032). */
public final class Signing {
    private Signing() {}

    /** @return the signature in base64 */
    public static String sign(String text, KeyPair key) {
        try {
            Signature signature = Signature.getInstance("Ed25519");
            signature.initSign(key.getPrivate());
            signature.update(text.getBytes(StandardCharsets.UTF_8));
            return Base64.getEncoder().encodeToString(signature.sign());
        } catch (GeneralSecurityException e) {
            throw new IllegalStateException("cannot sign", e);
        }
    }

    /** Whether a signature in base64 is that of a key in base64 (X.509 form) over a text. */
    public static boolean holds(String text, String signature, String publicKey) {
        try {
            PublicKey key = KeyFactory.getInstance("Ed25519").generatePublic(new X509EncodedKeySpec(bytes(publicKey)));
            Signature check = Signature.getInstance("Ed25519");
            check.initVerify(key);
            check.update(text.getBytes(StandardCharsets.UTF_8));
            return check.verify(bytes(signature));
        } catch (GeneralSecurityException | IllegalArgumentException e) {
            return false;
        }
    }

    /**
     * What a text in base64 says (RFC 4648). Several texts can say the same bytes, by bits of the last character that
     * count for nothing; only the one that our own encoder writes is taken, so that no character can be changed unseen.
     *
     * @throws IllegalArgumentException if it is no base64, or another spelling of it
     */
    private static byte[] bytes(String base64) {
        byte[] bytes = Base64.getDecoder().decode(base64);
        if (!Base64.getEncoder().encodeToString(bytes).equals(base64)) {
            throw new IllegalArgumentException("another spelling of the same bytes");
        }
        return bytes;
    }

    /** The public key in base64 (X.509 form). */
    public static String publicKey(KeyPair key) {
        return Base64.getEncoder().encodeToString(key.getPublic().getEncoded());
    }
}
