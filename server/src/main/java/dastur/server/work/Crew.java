package dastur.server.work;

import java.util.concurrent.ExecutorService;
import java.util.concurrent.Semaphore;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;

/**
 * A bounded number of places for one kind of work. Each kind has its own, so that none can take another's: slow calls leave
 * alarms, mails and errands where they are. Nobody ever waits for a place: what finds none is begun later.
 */
final class Crew {
    private static final Logger LOG = LoggerFactory.getLogger(Crew.class);

    private final ExecutorService threads;
    private final Semaphore places;
    private final Runnable done;

    /** @param done told when a place is free again */
    Crew(ExecutorService threads, int places, Runnable done) {
        this.threads = threads;
        this.places = new Semaphore(places);
        this.done = done;
    }

    /** How many pieces of work can begin at once now. */
    int free() {
        return places.availablePermits();
    }

    /** Begins work where there is a place. Returns whether it did. */
    boolean begin(Runnable work) {
        if (!places.tryAcquire()) {
            return false;
        }
        threads.submit(() -> {
            try {
                work.run();
            } catch (RuntimeException e) {
                LOG.warn("work in the background failed; its lease will run out and it is tried again", e);
            } finally {
                places.release();
                done.run();
            }
        });
        return true;
    }
}
