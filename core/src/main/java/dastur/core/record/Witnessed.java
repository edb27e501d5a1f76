package dastur.core.record;

import java.time.Instant;
import java.util.List;
import org.jspecify.annotations.Nullable;

/**
 * That somebody outside was given a checkpoint (K13): from then on whoever holds the database and all keys cannot rewrite alone
 * what it covers.
 *
 * @param kind how it was given
 * @param name who it was, as people know it: a file, an address
 * @param at when it was given, by our clock
 * @param receipt what was given back, in base64: of {@link Kind#STAMP} a time-stamp token (RFC 3161) over the checkpoint's hash;
 *     null where nothing was
 */
public record Witnessed(
        Kind kind,
        String name,
        Instant at,
        Checkpoint checkpoint,
        @Nullable String receipt) {
    /** How a checkpoint is given away. */
    public enum Kind {
        FILE,
        MAIL,
        POST,
        STAMP;

        /** The word for it in exports. */
        public String word() {
            return name().toLowerCase(java.util.Locale.ROOT);
        }
    }

    /**
     * With what shows that the log of a later checkpoint begins with the one that was given away.
     *
     * @param consistency the hashes, in hexadecimal (RFC 9162, 2.1.4)
     */
    public record Shown(Witnessed witnessed, List<String> consistency) {}

    /** Looks at what a witness gave back. */
    public interface Receipts {
        /** Where nobody can look at receipts. */
        Receipts NONE = (hash, receipt) -> new Unchecked("not looked at: no certificate of its authority was named");

        /**
         * @param hash SHA-256 of the checkpoint's text, in hexadecimal
         * @param receipt as it was given back, in base64
         */
        Found check(String hash, String receipt);
    }

    /** What a look at a receipt found. */
    public sealed interface Found {}

    /** It is genuine. @param at when the authority saw the checkpoint, by its own clock */
    public record Genuine(Instant at, String authority) implements Found {}

    /** It is not of this checkpoint, or not by that authority. */
    public record Spoiled(String why) implements Found {}

    /** Nobody looked. */
    public record Unchecked(String why) implements Found {}
}
