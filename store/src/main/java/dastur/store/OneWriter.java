package dastur.store;

import java.util.concurrent.locks.ReentrantLock;
import java.util.function.Supplier;

/**
 * Has one thread at a time write to the built-in database. It keeps itself as one version after the other, each made of the trees
 * one by one: a version that is made while another thread is in the middle of a transaction may hold one tree as it was before a
 * row was written and another as it was after, and is what is found when the process is killed right then. A server keeps this
 * apart by itself, so there nobody waits.
 */
final class OneWriter {
    private final boolean needed;
    private final ReentrantLock lock = new ReentrantLock(true);

    OneWriter(boolean needed) {
        this.needed = needed;
    }

    /** Does a whole transaction, with its commit, while nobody else is in one that writes. */
    <T> T alone(Supplier<T> transaction) {
        if (!needed) {
            return transaction.get();
        }
        lock.lock();
        try {
            return transaction.get();
        } finally {
            lock.unlock();
        }
    }
}
