package dastur.core.record;

import dastur.core.record.Checkpoint.Reach;
import java.security.KeyPair;
import java.time.Instant;
import java.util.HexFormat;
import java.util.List;
import java.util.Optional;
import java.util.function.LongFunction;

/**
 * Signs how far the log reaches, and only what extends the log that it signed last (K11). What that was is kept beside the key,
 * outside the database: so whoever rewrites the database, or puts an older one in its place, gets nothing signed.
 */
public final class Signer {
    /** Keeps what was signed last, beside the key. */
    public interface Keeper {
        Optional<Reach> last();

        /** Ends when it is kept for good. */
        void keep(Reach reach);
    }

    /** The log is not an extension of what was signed. */
    public static final class NotAnExtension extends RuntimeException {
        private static final long serialVersionUID = 1;

        NotAnExtension(String message) {
            super(message);
        }
    }

    private final KeyPair key;
    private final Keeper keeper;

    public Signer(KeyPair key, Keeper keeper) {
        this.key = key;
        this.keeper = keeper;
    }

    public KeyPair key() {
        return key;
    }

    public String publicKey() {
        return Signing.publicKey(key);
    }

    /** What was signed last; empty when nothing was. */
    public Optional<Reach> last() {
        return keeper.last();
    }

    /**
     * Signs.
     *
     * @param number of the checkpoint
     * @param reach how far the log reaches
     * @param previous the hash of the checkpoint before, or {@link Seal#START}
     * @param consistency the hashes that show that the log begins with one of a smaller size
     * @throws NotAnExtension when the log does not begin with what was signed before; then nothing is signed
     */
    public synchronized Checkpoint sign(
            long number, Reach reach, Instant at, String previous, LongFunction<List<byte[]>> consistency) {
        keeper.last().ifPresent(last -> mustExtend(last, reach, consistency));
        keeper.keep(reach);
        return Checkpoint.over(number, reach, at, previous, key);
    }

    /** A new epoch is begun beside the key too, by whoever restores; the database cannot begin one by itself. */
    private static void mustExtend(Reach last, Reach reach, LongFunction<List<byte[]>> consistency) {
        if (reach.epoch() != last.epoch() || reach.size() < last.size()) {
            throw new NotAnExtension("The log has " + reach.size() + " leaves of epoch " + reach.epoch()
                    + ", but " + last.size() + " of epoch " + last.epoch()
                    + " were signed: an older database stands in the place of the newer, or leaves were taken away.");
        }
        if (last.size() == 0) {
            return;
        }
        HexFormat hex = HexFormat.of();
        boolean holds = MerkleTree.isExtension(
                last.size(),
                hex.parseHex(last.root()),
                reach.size(),
                hex.parseHex(reach.root()),
                last.size() == reach.size() ? List.of() : consistency.apply(last.size()));
        if (!holds) {
            throw new NotAnExtension("The first " + last.size()
                    + " leaves of the log are no longer those that were signed: the log was rewritten.");
        }
    }
}
