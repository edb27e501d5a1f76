package dastur.core.record;

import dastur.core.json.CanonicalJson;
import dastur.core.json.Json;
import dastur.core.ticket.TicketId;
import java.security.KeyPair;
import java.time.Instant;
import java.util.HexFormat;
import java.util.Map;
import org.jspecify.annotations.Nullable;

/**
 * A signed statement of how far the log reached, chained to the one before: whoever keeps one can show later that nothing
 * it covers was changed or taken away (D23, K12).
 *
 * @param number counts them
 * @param epoch of which epoch the log is; null where it was signed before there was a log
 * @param size how many leaves the log had; null as the epoch
 * @param root the root over them, in hexadecimal; null as the epoch
 * @param text the canonical text that is signed
 * @param hash SHA-256 of the text; the next one names it
 * @param signature Ed25519 over the text, in base64
 */
public record Checkpoint(
        long number,
        @Nullable Integer epoch,
        @Nullable Long size,
        @Nullable String root,
        Instant at,
        String text,
        String hash,
        String signature) {
    /** How far a log reaches. @param root over its leaves, in hexadecimal */
    public record Reach(int epoch, long size, String root) {}

    /** Signs. @param previous the hash of the one before, or {@link Seal#START} */
    static Checkpoint over(long number, Reach reach, Instant at, String previous, KeyPair key) {
        String text = CanonicalJson.write(Map.of(
                "v",
                2,
                "checkpoint",
                number,
                "epoch",
                reach.epoch(),
                "size",
                reach.size(),
                "root",
                reach.root(),
                "at",
                Json.tree(at),
                "previous",
                previous,
                "key",
                Signing.publicKey(key)));
        return new Checkpoint(
                number, reach.epoch(), reach.size(), reach.root(), at, text, Seal.hash(text), Signing.sign(text, key));
    }

    /** The text of the leaf for the last entry of a change. */
    public static String leaf(TicketId ticket, long seq, String hash) {
        return leaf(ticket.value(), seq, hash);
    }

    /** The same for something that is no ticket. */
    public static String leaf(String record, long seq, String hash) {
        return CanonicalJson.write(java.util.List.of(record, seq, hash));
    }

    static String hex(byte[] hash) {
        return HexFormat.of().formatHex(hash);
    }
}
