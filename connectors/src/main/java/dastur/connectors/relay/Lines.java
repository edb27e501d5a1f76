package dastur.connectors.relay;

import dastur.core.record.Seal;
import dastur.core.record.Signing;
import dastur.core.workflow.ZoneKey;
import java.security.KeyPair;
import java.util.List;
import org.jspecify.annotations.Nullable;

/** What goes over the line between relay and server: JSON over HTTP, always asked by the relay (M13). */
public final class Lines {
    /** What both say; a server understands it and the one before. */
    public static final int PROTOCOL = 1;

    /** So much of an answer is read, in bytes. */
    public static final int MOST = 16_000_000;

    public static final String RELAY = "Dastur-Relay";
    public static final String AT = "Dastur-At";
    public static final String SIGNATURE = "Dastur-Signature";

    private Lines() {}

    /** What a relay signs of each request. @param at milliseconds since 1970 by its clock */
    public static String request(String path, long at, String body) {
        return path + "\n" + at + "\n" + Seal.hash(body);
    }

    /**
     * Asks to join. The proof shows that whoever sends the key holds it.
     *
     * @param code what stands before the dot of the code that was shown on screen
     * @param key the relay's public key in base64 (X.509 form)
     */
    public record Join(String code, String name, String key, String proof, int protocol) {
        public static Join of(String code, String name, KeyPair key) {
            String known = Signing.publicKey(key);
            return new Join(code, name, known, Signing.sign(said(code, name, known), key), PROTOCOL);
        }

        public boolean proved() {
            return Signing.holds(said(code, name, key), proof, key);
        }

        private static String said(String code, String name, String key) {
            return "join\n" + code + "\n" + name + "\n" + key;
        }
    }

    /**
     * That it may ask from now on; somebody still lets it in.
     *
     * @param server the server's public key; the code that was shown on screen ends with its fingerprint
     * @param proof the server's signature
     */
    public record Joined(String relay, ZoneKey zone, String server, String proof) {
        public static Joined of(String relay, ZoneKey zone, String relayKey, KeyPair server) {
            return new Joined(
                    relay, zone, Signing.publicKey(server), Signing.sign(said(relay, zone, relayKey), server));
        }

        /** Whether it comes from the server whose fingerprint stood in the code, and is about this relay's key. */
        public boolean proved(String fingerprint, String relayKey) {
            return fingerprint(server).equals(fingerprint) && Signing.holds(said(relay, zone, relayKey), proof, server);
        }

        private static String said(String relay, ZoneKey zone, String key) {
            return "joined\n" + relay + "\n" + zone + "\n" + key;
        }
    }

    /** By what a public key is compared: SHA-256 of its text, in hexadecimal. */
    public static String fingerprint(String key) {
        return Seal.hash(key);
    }

    /** A fingerprint as people compare it: its first 32 digits in groups of four. */
    public static String read(String key) {
        return fingerprint(key).substring(0, 32).replaceAll("(.{4})(?=.)", "$1 ");
    }

    /**
     * A process begins to work as this relay.
     *
     * @param boot made anew by each process: two that use one key are told apart by it
     * @param allowed the hash of its file
     * @param may what its file allows, line by line, for people
     */
    public record Hello(String boot, int protocol, String version, String allowed, List<String> may) {}

    /** @param in whether somebody has let it in */
    public record Welcome(boolean in, String zoneName) {}

    /**
     * Asks for work.
     *
     * @param turn grows with each: what was asked before is not answered again
     * @param most how much it can begin now
     * @param has ids of what it is at, or has done: what else it was given was lost on the line
     */
    public record Take(String boot, long turn, int most, List<String> has) {}

    /** @param work each a {@link Work} */
    public record Given(List<SignedText> work) {}

    /**
     * What goes on at a relay.
     *
     * @param underWay ids of what it is at
     * @param said what calls said since
     * @param done each a {@link WorkDone}
     */
    public record Tell(String boot, List<String> underWay, List<Said> said, List<SignedText> done) {}

    /** What a call said. */
    public record Said(String work, String text) {}

    /**
     * @param kept ids of what is done that is kept now, and need not be told again
     * @param cancel ids of what nobody wants any more
     */
    public record Told(List<String> kept, List<String> cancel) {}

    /** Why a request is refused: a problem (RFC 9457). */
    public record No(@Nullable String title, @Nullable String detail) {}
}
