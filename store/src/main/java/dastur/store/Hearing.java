package dastur.store;

import dastur.core.ticket.TicketId;
import java.sql.Connection;
import java.sql.SQLException;
import java.sql.Statement;
import java.time.Duration;
import org.postgresql.PGConnection;
import org.postgresql.PGNotification;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;

/** Hears which tickets other nodes have changed. What it may have missed while it could not hear, it says too. */
public final class Hearing implements AutoCloseable {
    /** What is done with news. */
    public interface Ear {
        void changed(TicketId ticket, long seq);

        /** Some may have been missed: anything may have changed. */
        void missed();
    }

    private static final Logger LOG = LoggerFactory.getLogger(Hearing.class);
    private static final Duration AT_ONCE = Duration.ofMillis(500);
    private static final Duration AGAIN = Duration.ofSeconds(1);

    private final Database database;
    private final Ear ear;
    private final Thread thread;
    private volatile boolean closed;

    /** Begins to listen; where nobody else can use the database there is nothing to hear. */
    public Hearing(Database database, Ear ear) {
        this.database = database;
        this.ear = ear;
        this.thread = Thread.ofVirtual().name("dastur-hearing").unstarted(this::listen);
        if (database.isShared()) {
            thread.start();
        }
    }

    private void listen() {
        boolean first = true;
        while (!closed) {
            try (Connection connection = database.dataSource().getConnection()) {
                connection.setAutoCommit(true);
                try (Statement statement = connection.createStatement()) {
                    statement.execute("listen " + Announcing.CHANNEL);
                    if (!first) {
                        ear.missed();
                    }
                    first = false;
                    hear(connection.unwrap(PGConnection.class));
                    statement.execute("unlisten " + Announcing.CHANNEL);
                }
            } catch (SQLException e) {
                LOG.warn("what other nodes do is not heard, and is listened for anew: {}", e.getMessage());
                pause();
            } catch (RuntimeException e) {
                LOG.error("news of other nodes could not be taken", e);
                pause();
            }
        }
    }

    private void hear(PGConnection connection) throws SQLException {
        while (!closed) {
            PGNotification[] all = connection.getNotifications((int) AT_ONCE.toMillis());
            for (PGNotification one : all == null ? new PGNotification[0] : all) {
                take(one.getParameter());
            }
        }
    }

    private void take(String payload) {
        String[] words = payload.split(" ");
        if (words[0].equals(database.announcing().node())) {
            return;
        }
        for (int i = 1; i < words.length; i++) {
            int colon = words[i].lastIndexOf(':');
            ear.changed(new TicketId(words[i].substring(0, colon)), Long.parseLong(words[i].substring(colon + 1)));
        }
    }

    private void pause() {
        try {
            Thread.sleep(AGAIN);
        } catch (InterruptedException e) {
            closed = true;
        }
    }

    @Override
    public void close() {
        closed = true;
        if (thread.isAlive()) {
            try {
                thread.join(AT_ONCE.multipliedBy(4));
            } catch (InterruptedException e) {
                Thread.currentThread().interrupt();
            }
        }
    }
}
