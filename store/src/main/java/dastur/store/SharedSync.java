package dastur.store;

import java.util.concurrent.atomic.LongAdder;
import java.util.concurrent.locks.Condition;
import java.util.concurrent.locks.ReentrantLock;

/**
 * Brings what was committed to the disk, for all who wait at once: one goes to the disk, and whoever came before it set out
 * is served by it.
 */
final class SharedSync {
    private final Runnable toDisk;
    private final ReentrantLock lock = new ReentrantLock();
    private final Condition changed = lock.newCondition();
    private long asked;
    private long done;
    private boolean underWay;

    private final LongAdder syncs = new LongAdder();
    private final LongAdder nanos = new LongAdder();

    SharedSync(Runnable toDisk) {
        this.toDisk = toDisk;
    }

    /** How often something was brought to the disk, and how many nanoseconds that took. */
    long[] done() {
        return new long[] {syncs.sum(), nanos.sum()};
    }

    /** Ends when everything that was committed before this was called is on the disk. */
    void await() {
        long mine;
        lock.lock();
        try {
            mine = ++asked;
            while (underWay && done < mine) {
                changed.awaitUninterruptibly();
            }
            if (done >= mine) {
                return;
            }
            underWay = true;
            mine = asked;
        } finally {
            lock.unlock();
        }
        boolean there = false;
        long began = System.nanoTime();
        try {
            toDisk.run();
            there = true;
            nanos.add(System.nanoTime() - began);
            syncs.increment();
        } finally {
            lock.lock();
            try {
                underWay = false;
                if (there) {
                    done = Math.max(done, mine);
                }
                changed.signalAll();
            } finally {
                lock.unlock();
            }
        }
    }
}
