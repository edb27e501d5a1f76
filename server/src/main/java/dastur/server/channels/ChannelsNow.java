package dastur.server.channels;

import dastur.connectors.MailConnector;
import dastur.connectors.MailInbox;
import dastur.connectors.MatrixConnector;
import dastur.core.people.Channels;
import dastur.server.Scene;
import java.time.Duration;
import java.util.List;
import java.util.Optional;
import java.util.UUID;
import java.util.function.Function;
import java.util.function.LongSupplier;
import java.util.function.Supplier;
import java.util.stream.Stream;
import org.jspecify.annotations.Nullable;

/**
 * By what people are told and heard just now: what was set on screen (R13), else what was named where the application was started.
 * What is set holds at once where it is set, and within two seconds at every other node.
 */
public final class ChannelsNow {
    /** Secrets of what the start names. */
    public static final String MAILBOX = "mailbox";

    public static final String CHAT = "chat";

    /** How secrets of what is set on screen begin: each belongs to one server, and is gone with it. */
    private static final String OWN = "channel.";

    private static final Duration FRESH = Duration.ofSeconds(2);

    private record Read(Channels channels, long at) {}

    private final Scene.Outside started;
    private final @Nullable String startedAddress;
    private final Supplier<Channels> set;
    private final Function<String, Optional<String>> secret;
    private final LongSupplier nanos;
    private volatile @Nullable Read read;

    /** @param started what was named at the start; @param set reads what was set; @param secret a secret's value by its name */
    public ChannelsNow(
            Scene.Outside started,
            @Nullable String startedAddress,
            Supplier<Channels> set,
            Function<String, Optional<String>> secret) {
        this(started, startedAddress, set, secret, System::nanoTime);
    }

    ChannelsNow(
            Scene.Outside started,
            @Nullable String startedAddress,
            Supplier<Channels> set,
            Function<String, Optional<String>> secret,
            LongSupplier nanos) {
        this.nanos = nanos;
        this.started = started;
        this.startedAddress = startedAddress;
        this.set = set;
        this.secret = secret;
    }

    /** As far as it was set on screen. */
    public Channels set() {
        Read known = read;
        if (known == null || nanos.getAsLong() - known.at() > FRESH.toNanos()) {
            known = new Read(set.get(), nanos.getAsLong());
            read = known;
        }
        return known.channels();
    }

    /** Something was set: it is read again. */
    public void changed() {
        read = null;
    }

    public MailConnector.Settings mail() {
        Channels.Mail own = set().mail();
        return own == null
                ? started.mail()
                : new MailConnector.Settings(own, of(own.server().secret()));
    }

    public Optional<MailInbox.Settings> mailbox() {
        Channels.Mailbox own = set().mailbox();
        return own == null
                ? Optional.ofNullable(started.inbox())
                : Optional.ofNullable(own.server()).map(s -> new MailInbox.Settings(s, of(s.secret())));
    }

    /** Where people write to the desk: what is sent there is no machine's. */
    public List<String> ownAddresses() {
        return Stream.concat(
                        Stream.of(mail().mail().from()),
                        mailbox().map(m -> m.server().user()).stream())
                .toList();
    }

    public Optional<MatrixConnector.Settings> chat() {
        Channels.Chat own = set().chat();
        return own == null
                ? Optional.ofNullable(started.chat())
                : Optional.ofNullable(own.address()).map(a -> new MatrixConnector.Settings(a, of(own.secret())));
    }

    /** Where people reach the application; empty where nobody said so. */
    public Optional<String> address() {
        return Optional.ofNullable(set().address()).or(() -> Optional.ofNullable(startedAddress));
    }

    private Supplier<Optional<String>> of(@Nullable String name) {
        return () -> name == null ? Optional.empty() : secret.apply(name);
    }

    /** A name for the secret of a server that is being set: of no other one, so that whoever still knows another server never sends it there. */
    public static String freshSecret(String of) {
        return OWN + of + "." + UUID.randomUUID().toString().substring(0, 8);
    }

    public static boolean isOfChannel(String secret) {
        return secret.startsWith(OWN);
    }

    /** What uses a secret that the start names, for who looks at secrets. */
    public Optional<String> usedAs(String name) {
        return switch (name) {
            case MAILBOX ->
                set().mailbox() == null && started.inbox() != null ? Optional.of("the mailbox") : Optional.empty();
            case CHAT -> set().chat() == null && started.chat() != null ? Optional.of("chat") : Optional.empty();
            default -> Optional.empty();
        };
    }
}
