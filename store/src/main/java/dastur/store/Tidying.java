package dastur.store;

import java.sql.Connection;
import java.sql.SQLException;
import java.time.Duration;
import java.util.concurrent.Executors;
import java.util.concurrent.ScheduledExecutorService;
import java.util.concurrent.TimeUnit;
import javax.sql.DataSource;
import org.h2.engine.SessionLocal;
import org.h2.jdbc.JdbcConnection;
import org.h2.mvstore.MVStore;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;

/**
 * Gathers what is still in use from parts of the database's file that are mostly out of use, so that their space can be
 * used again. The database does so by itself only where commits are written later; where each is written at once, as here,
 * it was seen to grow to eleven times what is in it.
 */
final class Tidying implements AutoCloseable {
    private static final Logger LOG = LoggerFactory.getLogger(Tidying.class);
    private static final Duration EVERY = Duration.ofSeconds(10);
    /** Of what lies in the file's parts, so much shall be in use, in percent. */
    private static final int IN_USE = 50;
    /** Bytes gathered in one go: little, since commits wait meanwhile. */
    private static final int AT_ONCE = 1_000_000;

    private final MVStore store;
    private final ScheduledExecutorService clock = Executors.newSingleThreadScheduledExecutor(
            Thread.ofPlatform().daemon().name("dastur-tidying").factory());

    Tidying(DataSource pool) {
        try (Connection connection = pool.getConnection()) {
            SessionLocal session =
                    (SessionLocal) connection.unwrap(JdbcConnection.class).getSession();
            store = session.getDatabase().getStore().getMvStore();
        } catch (SQLException e) {
            throw new IllegalStateException("the database cannot be reached", e);
        }
        clock.scheduleWithFixedDelay(this::tidyInTime, EVERY.toSeconds(), EVERY.toSeconds(), TimeUnit.SECONDS);
    }

    private void tidyInTime() {
        try {
            tidy();
        } catch (RuntimeException e) {
            LOG.warn("the file of the database could not be tidied", e);
        }
    }

    /** Gathers a little. Returns whether there was something to gather. */
    boolean tidy() {
        // In memory there is no file; a part that is younger than three quarters of a minute is left alone.
        return store.getFileStore() != null && store.compact(IN_USE, AT_ONCE);
    }

    /** How much of what lies in the file's parts is in use, in percent. */
    int inUse() {
        return store.getFileStore().getChunksFillRate();
    }

    @Override
    public void close() {
        // Not interrupted: an interrupt in the middle of reading or writing closes the file.
        clock.shutdown();
        try {
            clock.awaitTermination(EVERY.toSeconds(), TimeUnit.SECONDS);
        } catch (InterruptedException e) {
            Thread.currentThread().interrupt();
        }
    }
}
