package dastur.connectors.relay;

import dastur.core.record.Signing;
import java.security.KeyPair;

/** A text with the signature of whoever says it (Ed25519, RFC 8032), in base64. */
public record SignedText(String text, String signature) {
    public static SignedText of(String text, KeyPair key) {
        return new SignedText(text, Signing.sign(text, key));
    }

    /** Whether the holder of a public key has said it. @param key in base64 (X.509 form) */
    public boolean saidBy(String key) {
        return Signing.holds(text, signature, key);
    }
}
