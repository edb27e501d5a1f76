package dastur.server;

import dastur.connectors.MailConnector;
import dastur.connectors.MailInbox;
import dastur.connectors.MatrixConnector;
import dastur.core.people.Channels;
import dastur.server.channels.ChannelsNow;
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

/** Nothing but what the settings name. */
final class Earnest implements Scene {
    private static final Duration MAILBOX_EVERY = Duration.ofSeconds(15);

    /** The port on which a mailbox is read without TLS. */
    private static final int PLAIN = 143;

    @Override
    public void before(Settings settings, DataFolder folder) {
        // The database is there, or begins empty.
    }

    @Override
    public InstantSource begin(Settings settings, DataFolder folder, Organisation organisation) {
        return settings.clock();
    }

    @Override
    public void prepare(Database database, Instant now) {
        // People make it what it is.
    }

    @Override
    public Outside outside(Settings settings, StoredSecrets secrets) {
        Settings.MailServer mail = settings.mail();
        return new Outside(
                MailConnector.Settings.open(mail.host(), mail.port(), mail.from()),
                settings.chat() == null
                        ? null
                        : new MatrixConnector.Settings(settings.chat(), () -> secrets.find(ChannelsNow.CHAT)),
                inbox(settings.inbox(), secrets),
                MAILBOX_EVERY,
                settings.witnesses());
    }

    private static MailInbox.@Nullable Settings inbox(Settings.@Nullable Inbox named, StoredSecrets secrets) {
        return named == null
                ? null
                : new MailInbox.Settings(
                        new Channels.Server(
                                named.host(),
                                named.port(),
                                named.port() == PLAIN ? Channels.Safety.NONE : Channels.Safety.TLS,
                                named.user()),
                        () -> secrets.find(ChannelsNow.MAILBOX));
    }

    @Override
    public void running(Runnable wake, Supplier<Optional<String>> address, Supplier<OptionalInt> syslog) {
        // Nobody else moves its clock.
    }

    @Override
    public Optional<App.Demo> demo() {
        return Optional.empty();
    }

    @Override
    public void close() {
        // Nothing was begun.
    }
}
