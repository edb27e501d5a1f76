package dastur.server.work;

import java.time.Duration;
import java.util.concurrent.Semaphore;
import java.util.concurrent.TimeUnit;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;

/** Does something again and again on a thread of its own, until it is closed. What it throws is logged, and it is done again. */
public final class Repeatedly implements AutoCloseable {
    private static final Logger LOG = LoggerFactory.getLogger(Repeatedly.class);
    private static final Duration ENDS_WITHIN = Duration.ofSeconds(10);

    private final String name;
    private final Duration every;
    private final Runnable work;
    private final Semaphore wake = new Semaphore(0);
    private final Thread thread;
    private volatile boolean stopping;

    /** @param name of the thread, for whoever looks at a running server @param every the pause between two times */
    public Repeatedly(String name, Duration every, Runnable work) {
        this.name = name;
        this.every = every;
        this.work = work;
        this.thread = Thread.ofPlatform().daemon().name("dastur-" + name).unstarted(this::loop);
    }

    public void start() {
        thread.start();
    }

    /** Does it at once. */
    public void wake() {
        wake.release();
    }

    /** Whether it is being closed: what is under way may end early. */
    public boolean isStopping() {
        return stopping;
    }

    private void loop() {
        while (!stopping) {
            try {
                work.run();
            } catch (RuntimeException e) {
                LOG.warn("{} failed and is tried again", name, e);
            }
            try {
                if (wake.tryAcquire(every.toMillis(), TimeUnit.MILLISECONDS)) {
                    wake.drainPermits();
                }
            } catch (InterruptedException e) {
                return;
            }
        }
    }

    /** Ends when what it is at is done, at the latest after ten seconds. */
    @Override
    public void close() {
        stopping = true;
        wake();
        try {
            thread.join(ENDS_WITHIN);
        } catch (InterruptedException e) {
            Thread.currentThread().interrupt();
        }
    }
}
