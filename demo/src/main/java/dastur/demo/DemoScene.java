package dastur.demo;

import dastur.connectors.MailConnector;
import dastur.connectors.MailInbox;
import dastur.connectors.MatrixConnector;
import dastur.core.people.Channels;
import dastur.core.record.Seal;
import dastur.core.ticket.CiId;
import dastur.core.ticket.ConfigurationItem;
import dastur.server.App;
import dastur.server.DataFolder;
import dastur.server.Scene;
import dastur.server.Settings;
import dastur.server.feed.Telling;
import dastur.server.signals.Proving;
import dastur.server.starts.HookDoor;
import dastur.server.witness.Giving;
import dastur.standins.BoardMonitor;
import dastur.standins.GateLog;
import dastur.standins.HarbourOffice;
import dastur.standins.Mailbox;
import dastur.standins.NameServer;
import dastur.standins.SiteMonitor;
import dastur.standins.Standins;
import dastur.store.Database;
import dastur.store.Organisation;
import dastur.store.StoredSecrets;
import java.net.URI;
import java.nio.file.Path;
import java.security.cert.CertificateEncodingException;
import java.time.Duration;
import java.time.Instant;
import java.time.InstantSource;
import java.util.List;
import java.util.Objects;
import java.util.Optional;
import java.util.OptionalInt;
import java.util.function.Supplier;
import org.jspecify.annotations.Nullable;

/** The world of the demo: its data, the machines and mailboxes that stand in for those of others, and a clock that can be moved. */
public final class DemoScene implements Scene {
    private static final Duration MAILBOX_EVERY = Duration.ofSeconds(1);
    private static final String SENDER = "dastur@kestrel.example";

    private final Standins.Ports ports;
    private final Duration enrolment;
    private final boolean relays;

    private @Nullable Standins standins;
    private @Nullable DemoClock clock;
    private @Nullable DataFolder keys;
    private @Nullable DemoRelay relay;
    private String roomToken = "";
    private Path data = Path.of("");
    private volatile Runnable wake = () -> {};
    private volatile Supplier<Optional<String>> reached = Optional::empty;
    private volatile Supplier<OptionalInt> syslog = OptionalInt::empty;

    /**
     * A scene.
     *
     * @param ports where the stand-ins listen
     * @param enrolment how long enrolling a kiosk, restarting a board and launching a machine take there
     * @param relays whether the relay of the Mooring Data Room works
     */
    public DemoScene(Standins.Ports ports, Duration enrolment, boolean relays) {
        this.ports = ports;
        this.enrolment = enrolment;
        this.relays = relays;
    }

    @Override
    public void before(Settings settings, DataFolder folder) {
        Demo.make(settings.data(), settings.clock().instant(), folder.rowKey());
    }

    @Override
    public InstantSource begin(Settings settings, DataFolder folder, Organisation organisation) {
        DemoClock moved = new DemoClock(settings.clock(), organisation);
        clock = moved;
        data = settings.data();
        String token = folder.secretOrNew(Demo.SECRET);
        folder.keepSecret(Demo.ZONE_KEY, NameServer.secret(token));
        String monitors = BoardMonitor.secret(token);
        folder.keepSecret(Proving.name(DemoSources.BOARDS, 1), monitors);
        BoardMonitor.Settings monitor = new BoardMonitor.Settings(
                () -> reached.get().map(a -> URI.create(a + "/in/" + DemoSources.BOARDS)),
                monitors,
                board -> organisation
                        .ci(new CiId(board))
                        .map(ConfigurationItem::address)
                        .orElse(board),
                moved);
        String caller = Seal.hash("site monitor " + token);
        folder.keepSecret(HookDoor.secretName(DemoStarts.SLOW, 1), caller);
        folder.keepSecret(Telling.secretName(DemoStarts.OFFICE), HarbourOffice.secret(token));
        GateLog.Settings log = new GateLog.Settings(() -> syslog.get(), moved);
        SiteMonitor.Settings site = new SiteMonitor.Settings(
                () -> reached.get().map(a -> URI.create(a + HookDoor.AT + DemoStarts.SLOW)), caller);
        String room = Seal.hash("machine host " + token);
        roomToken = room;
        keys = folder;
        standins = new Standins(new Standins.Settings(
                ports, token, enrolment, this::advance, settings.data(), monitor, log, site, room));
        return moved;
    }

    private void advance(Duration by) {
        Objects.requireNonNull(clock).advance(by);
        wake.run();
    }

    @Override
    public void prepare(Database database, Instant now) {
        Standins around = standins();
        Demo.prepare(
                database,
                new Demo.Outside(
                        around.address(),
                        around.devices().address(),
                        around.names().address(),
                        around.directory().address(),
                        around.ledger().address()),
                now);
        if (relays) {
            relay = new DemoRelay(
                    data.resolve("relay"),
                    Objects.requireNonNull(keys),
                    database,
                    around.machines().address(),
                    roomToken,
                    () -> reached.get());
        }
    }

    @Override
    public Outside outside(Settings settings, StoredSecrets secrets) {
        Standins around = standins();
        return new Outside(
                MailConnector.Settings.open("127.0.0.1", around.mailbox().port(), SENDER),
                new MatrixConnector.Settings(around.address(), () -> secrets.find(Demo.SECRET)),
                new MailInbox.Settings(
                        new Channels.Server(
                                "127.0.0.1", around.mailbox().imapPort(), Channels.Safety.NONE, Mailbox.OWN),
                        () -> secrets.find(Demo.SECRET)),
                MAILBOX_EVERY,
                witnesses(settings, around));
    }

    /** The demo shows how it works; in earnest a file belongs on another machine. */
    private static Giving.To witnesses(Settings settings, Standins around) {
        Giving.To named = settings.witnesses();
        try {
            return new Giving.To(
                    named.to().isEmpty()
                            ? List.of(settings.data().resolve("witness.ndjson").toString())
                            : named.to(),
                    named.stamps() != null
                            ? named.stamps()
                            : new Giving.Stamps(
                                    URI.create(around.address() + "/time-stamps"),
                                    around.time().certificate().getEncoded()));
        } catch (CertificateEncodingException e) {
            throw new IllegalStateException(e);
        }
    }

    @Override
    public void running(Runnable workers, Supplier<Optional<String>> address, Supplier<OptionalInt> lines) {
        wake = workers;
        reached = address;
        syslog = lines;
    }

    @Override
    public Optional<App.Demo> demo() {
        return Optional.of(new App.Demo(standins().address(), this::advance));
    }

    /** The stand-ins, once the application has begun. */
    public Standins standins() {
        return Objects.requireNonNull(standins, "the application has not begun");
    }

    @Override
    public void close() {
        if (relay != null) {
            relay.close();
        }
        if (standins != null) {
            standins.close();
        }
    }
}
