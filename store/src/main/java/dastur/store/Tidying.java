package dastur.store;

import java.time.Duration;
import java.util.concurrent.Executors;
import java.util.concurrent.ScheduledExecutorService;
import java.util.concurrent.TimeUnit;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;

/**
 * Gathers what is still in use from parts of the database's file that are mostly out of use, so that their space can be used
 * again: every second as much as was written since, until half of what lies in the parts is in use (K6). The database does so
 * by itself only where commits are written later; where each is written at once, as here, the file was seen to grow to
 * eleven times what is in it.
 */
final class Tidying implements AutoCloseable {
    private static final Logger LOG = LoggerFactory.getLogger(Tidying.class);
    private static final Duration EVERY = Duration.ofSeconds(1);
    /** Commits wait while it gathers, so it never gathers more than this in one go. Bytes. */
    private static final long AT_ONCE = 16_000_000;

    /** In smaller bites it finds no part that it could gather. Bytes. */
    private static final long AT_LEAST = 1_000_000;

    private final H2File file;
    private final OneWriter writer;
    private final ScheduledExecutorService clock = Executors.newSingleThreadScheduledExecutor(
            Thread.ofPlatform().daemon().name("dastur-tidying").factory());
    private long writtenBefore;

    Tidying(H2File file, OneWriter writer) {
        this.file = file;
        this.writer = writer;
        this.writtenBefore = file.written();
        clock.scheduleWithFixedDelay(this::tidyInTime, EVERY.toMillis(), EVERY.toMillis(), TimeUnit.MILLISECONDS);
    }

    private void tidyInTime() {
        try {
            tidy();
        } catch (RuntimeException e) {
            LOG.warn("the file of the database could not be tidied", e);
        }
    }

    /** Gathers as much as was written since it was last done. Returns whether there was something to gather. */
    synchronized boolean tidy() {
        long written = file.written() - writtenBefore;
        int bytes = (int) Math.clamp(written, AT_LEAST, AT_ONCE);
        boolean found = written > 0 && writer.alone(() -> file.gather(bytes));
        writtenBefore = file.written();
        return found;
    }

    @Override
    public void close() {
        // Not interrupted: an interrupt in the middle of reading or writing closes the file.
        clock.shutdown();
        try {
            clock.awaitTermination(10, TimeUnit.SECONDS);
        } catch (InterruptedException e) {
            Thread.currentThread().interrupt();
        }
    }
}
