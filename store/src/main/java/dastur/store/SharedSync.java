package dastur.store;

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

    SharedSync(Runnable toDisk) {
        this.toDisk = toDisk;
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
        try {
            toDisk.run();
            there = true;
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
