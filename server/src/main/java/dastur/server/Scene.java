package dastur.server;

import dastur.connectors.MailConnector;
import dastur.connectors.MailInbox;
import dastur.connectors.MatrixConnector;
import dastur.server.witness.Giving;
import dastur.store.Database;
import dastur.store.Organisation;
import dastur.store.StoredSecrets;
import java.time.Duration;
import java.time.Instant;
import java.time.InstantSource;
import java.util.Optional;
import java.util.OptionalInt;
import java.util.function.Supplier;
import org.jspecify.annotations.Nullable;

/**
 * What stands around the application: in earnest what its settings name ({@link Earnest}); a demo brings a world of its own. The
 * application knows no other difference between the two.
 */
public interface Scene extends AutoCloseable {
    /** Where it reaches others. @param mailboxEvery how often the mailbox is looked into */
    record Outside(
            MailConnector.Settings mail,
            MatrixConnector.@Nullable Settings chat,
            MailInbox.@Nullable Settings inbox,
            Duration mailboxEvery,
            Giving.To witnesses) {}

    /** Called before the database is opened; may put one there. */
    void before(Settings settings, DataFolder folder);

    /** Begins what stands around. Returns the clock that the application goes by. */
    InstantSource begin(Settings settings, DataFolder folder, Organisation organisation);

    /** The database is open, and secrets are in it. */
    void prepare(Database database, Instant now);

    Outside outside(Settings settings, StoredSecrets secrets);

    /**
     * The application begins to run.
     *
     * @param wake has its workers look for what is due
     * @param address where it is reached; empty while it is not yet
     * @param syslog the port that takes lines of syslog; empty where none does
     */
    void running(Runnable wake, Supplier<Optional<String>> address, Supplier<OptionalInt> syslog);

    /** What only a demo can do; empty in earnest. */
    Optional<App.Demo> demo();

    /** Ends what was begun, whatever of it has. */
    @Override
    void close();
}
