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
            PublicKey key = KeyFactory.getInstance("Ed25519")
                    .generatePublic(new X509EncodedKeySpec(Base64.getDecoder().decode(publicKey)));
            Signature check = Signature.getInstance("Ed25519");
            check.initVerify(key);
            check.update(text.getBytes(StandardCharsets.UTF_8));
            byte[] bytes = Base64.getDecoder().decode(signature);
            // Several texts in base64 can give the same bytes; only the usual one counts, so that no character may
            // change.
            return Base64.getEncoder().encodeToString(bytes).equals(signature) && check.verify(bytes);
        } catch (GeneralSecurityException | IllegalArgumentException e) {
            return false;
        }
    }

    /** The public key in base64 (X.509 form). */
    public static String publicKey(KeyPair key) {
        return Base64.getEncoder().encodeToString(key.getPublic().getEncoded());
    }
}
