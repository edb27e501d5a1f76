package dastur.standins;

import io.javalin.Javalin;
import java.nio.file.Path;
import java.time.Duration;
import java.time.InstantSource;
import java.util.function.Consumer;

/** Starts and stops all stand-ins. They listen on this machine only. */
public final class Standins implements AutoCloseable {
    /**
     * Where they listen; 0 for any free port.
     *
     * @param http lanes, kiosks, gates, the partner, chat, and the pages for people
     * @param smtp where mail is taken
     * @param imap where Dastur's mailbox is read
     * @param ssh the gateway of the piers
     * @param dns the name server, over TCP
     */
    public record Ports(int http, int smtp, int imap, int ssh, int dns) {
        /** Any that are free. */
        public static final Ports FREE = new Ports(0, 0, 0, 0, 0);
    }

    /**
     * @param token the bearer token that lanes and kiosks ask for
     * @param enrolment how long enrolling a kiosk takes, and restarting a board
     * @param advance makes the demo's clock go ahead
     * @param folder where the time office keeps its key
     * @param monitor to whom the board monitor tells what it sees
     * @param log who takes the lines that gates write
     * @param site whom the booking site's monitoring calls
     * @param roomToken what the machine host in the Mooring Data Room asks for
     */
    public record Settings(
            Ports ports,
            String token,
            Duration enrolment,
            Consumer<Duration> advance,
            Path folder,
            BoardMonitor.Settings monitor,
            GateLog.Settings log,
            SiteMonitor.Settings site,
            String roomToken) {}

    private final Faults faults = new Faults();
    private final LaneController lanes;
    private final KioskManager kiosks;
    private final GateController gates;
    private final PartnerDesk partner;
    private final Mailbox mailbox;
    private final CopyVault copies;
    private final PierDevices devices;
    private final NameServer names;
    private final CompanyDirectory directory;
    private final ChatServer chat;
    private final TimeAuthority time;
    private final BoardMonitor monitor;
    private final GateLog gateLog;
    private final SiteMonitor site;
    private final HarbourOffice office;
    private final MachineHost machines;
    private final BookingShop shop;
    private final PartsStore parts;
    private final SalesLedger ledger;
    private final Javalin http;

    public Standins(Settings settings) {
        lanes = new LaneController(settings.token(), faults);
        kiosks = new KioskManager(settings.token(), faults, settings.enrolment());
        gates = new GateController(settings.token(), faults, InstantSource.system());
        partner = new PartnerDesk(settings.token(), faults);
        mailbox = new Mailbox(settings.ports().smtp(), settings.ports().imap(), settings.token());
        copies = new CopyVault(mailbox);
        chat = new ChatServer(settings.token(), faults);
        devices = new PierDevices(settings.ports().ssh(), settings.token(), faults, settings.enrolment());
        monitor = new BoardMonitor(devices, settings.monitor());
        gateLog = new GateLog(settings.log());
        office = new HarbourOffice(settings.token(), faults);
        site = new SiteMonitor(settings.site());
        names = new NameServer(settings.ports().dns(), settings.token(), faults);
        directory = new CompanyDirectory(settings.token(), faults);
        machines = new MachineHost(settings.roomToken(), faults, settings.enrolment());
        time = new TimeAuthority(settings.folder(), faults);
        shop = new BookingShop(settings.token(), faults);
        parts = new PartsStore(settings.token(), faults);
        ledger = new SalesLedger(settings.token(), faults);
        ControlPage page = new ControlPage(this, settings.advance());
        ChatPage talk = new ChatPage(chat);
        http = Javalin.create(config -> {
            config.startup.showJavalinBanner = false;
            lanes.routes(config);
            kiosks.routes(config);
            gates.routes(config);
            partner.routes(config);
            chat.routes(config);
            time.routes(config);
            office.routes(config);
            shop.routes(config);
            parts.routes(config);
            talk.routes(config);
            page.routes(config);
        });
        mailbox.start();
        http.start("127.0.0.1", settings.ports().http());
    }

    public LaneController lanes() {
        return lanes;
    }

    public KioskManager kiosks() {
        return kiosks;
    }

    public GateController gates() {
        return gates;
    }

    public PartnerDesk partner() {
        return partner;
    }

    /** The boards behind their piers' gateways. */
    public PierDevices devices() {
        return devices;
    }

    /** Tells of boards that stand still. */
    public GateLog gateLog() {
        return gateLog;
    }

    public BoardMonitor monitor() {
        return monitor;
    }

    /** Is told of what goes on. */
    public HarbourOffice office() {
        return office;
    }

    /** Tells of a booking site that is slow. */
    public SiteMonitor site() {
        return site;
    }

    /** Launches machines, behind a relay. */
    public MachineHost machines() {
        return machines;
    }

    /** Sells trial tickets to people, and to whoever walks through its pages. */
    public BookingShop shop() {
        return shop;
    }

    /** Keeps spare parts. */
    public PartsStore parts() {
        return parts;
    }

    /** Keeps what was sold. */
    public SalesLedger ledger() {
        return ledger;
    }

    public CompanyDirectory directory() {
        return directory;
    }

    public NameServer names() {
        return names;
    }

    /** Writes a mail of each night's copies. */
    public CopyVault copies() {
        return copies;
    }

    public Mailbox mailbox() {
        return mailbox;
    }

    public ChatServer chat() {
        return chat;
    }

    /** Who stamps how far the log reaches. */
    public TimeAuthority time() {
        return time;
    }

    public Faults faults() {
        return faults;
    }

    public String address() {
        return "http://127.0.0.1:" + http.port();
    }

    @Override
    public void close() {
        monitor.close();
        http.stop();
        machines.close();
        mailbox.stop();
        devices.close();
        names.close();
        directory.close();
        ledger.close();
    }
}
