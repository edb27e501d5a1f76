package dastur.store;

import dastur.core.record.Checkpoint.Reach;
import dastur.core.record.Signer;
import java.security.GeneralSecurityException;
import java.security.KeyPair;
import java.security.KeyPairGenerator;
import java.util.Optional;

/** Signers that keep in memory what they signed last. */
final class Signers {
    private Signers() {}

    static Signer fresh() {
        return new Signer(key(), new Memory());
    }

    static KeyPair key() {
        try {
            return KeyPairGenerator.getInstance("Ed25519").generateKeyPair();
        } catch (GeneralSecurityException e) {
            throw new IllegalStateException(e);
        }
    }

    static final class Memory implements Signer.Keeper {
        private Optional<Reach> last = Optional.empty();

        @Override
        public Optional<Reach> last() {
            return last;
        }

        @Override
        public void keep(Reach reach) {
            last = Optional.of(reach);
        }
    }
}
