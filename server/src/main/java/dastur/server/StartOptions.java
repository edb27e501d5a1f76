package dastur.server;

import dastur.server.witness.Giving;
import dastur.store.Durability;
import java.nio.file.Path;
import java.time.Duration;
import java.time.InstantSource;
import java.util.List;
import org.jspecify.annotations.Nullable;
import picocli.CommandLine;
import picocli.CommandLine.Option;

/** What can be said where the application is started. */
public final class StartOptions {
    @Option(names = "--port", defaultValue = "7070", description = "Port of the application (${DEFAULT-VALUE}).")
    private int port;

    @Option(names = "--host", defaultValue = "127.0.0.1", description = "Address to listen on (${DEFAULT-VALUE}).")
    private String host;

    @Option(names = "--data", description = "Folder for the database, the signing key and the secrets.")
    private Path data;

    @Option(
            names = "--call-lease",
            defaultValue = "20",
            description = "Seconds until a call of a dead process is taken over (${DEFAULT-VALUE}).")
    private int callLease;

    @Option(names = "--mail-host", defaultValue = "localhost", description = "Mail server (${DEFAULT-VALUE}).")
    private String mailHost;

    @Option(names = "--mail-port", defaultValue = "25", description = "Mail server's port (${DEFAULT-VALUE}).")
    private int mailPort;

    @Option(
            names = "--mail-from",
            defaultValue = "dastur@localhost.localdomain",
            description = "Sender of mail (${DEFAULT-VALUE}).")
    private String mailFrom;

    @Option(
            names = "--address",
            description = "Where people reach the application, for links in mails (http://localhost:PORT).")
    private String address;

    @Option(
            names = "--proxy",
            description =
                    "Address of a proxy that stands before the application; only what it says of who calls (X-Forwarded-For, X-Forwarded-Proto) is believed. May be given several times.")
    private List<String> proxies = List.of();

    @Option(
            names = "--chat",
            description =
                    "Address of a chat server that speaks the Matrix client-server API; the secret 'chat' is its token.")
    private String chat;

    @Option(
            names = "--inbox-user",
            description =
                    "User of the mailbox to which people answer mails, read over IMAP; the secret 'mailbox' is its password.")
    private String inboxUser;

    @Option(names = "--inbox-host", defaultValue = "localhost", description = "Its server (${DEFAULT-VALUE}).")
    private String inboxHost;

    @Option(names = "--inbox-port", defaultValue = "993", description = "Its port (${DEFAULT-VALUE}).")
    private int inboxPort;

    @Option(
            names = "--syslog-port",
            description =
                    "Port that takes lines of syslog (RFC 5424 over TCP); 0 for any free one. Left out, none does.")
    private Integer syslogPort;

    @Option(
            names = "--durability",
            defaultValue = "POWER",
            description =
                    "What an acknowledged change outlives: 'process' a killed process, 'power' a power failure too (${DEFAULT-VALUE}).")
    private Durability durability;

    @Option(
            names = "--witness",
            description =
                    "Who is given signed statements of how far the log reaches: a file in another place, https://host/path to post to (each minute; the secret 'witness' is its bearer token), or mailto:somebody (once a day). May be given several times.")
    private List<String> witnesses = List.of();

    @Option(
            names = "--time-stamps",
            description = "Address of a time-stamping authority (RFC 3161), which stamps one each hour.")
    private String timeStamps;

    @Option(
            names = "--time-stamps-certificate",
            description = "Its certificate, PEM or DER: only what this one signed is believed.")
    private Path timeStampsCertificate;

    @Option(
            names = "--copy-every",
            defaultValue = "0",
            description = "Hours between copies that are taken by themselves; 0 for none (${DEFAULT-VALUE}).")
    private int copyEvery;

    @Option(
            names = "--copies-kept",
            defaultValue = "7",
            description = "So many copies stay; older ones are deleted (${DEFAULT-VALUE}).")
    private int copiesKept;

    @CommandLine.Mixin
    private OnServer onServer = new OnServer();

    /** @param usual the folder where none is named */
    public Settings settings(Path usual) {
        Path folder = data == null ? usual : data;
        return new Settings(
                folder,
                host,
                port,
                InstantSource.system(),
                Duration.ofSeconds(callLease),
                new Settings.MailServer(mailHost, mailPort, mailFrom),
                address,
                chat,
                inboxUser == null ? null : new Settings.Inbox(inboxHost, inboxPort, inboxUser),
                proxies,
                durability,
                new Giving.To(witnesses, stamps()),
                onServer.server(new DataFolder(folder)),
                copyEvery == 0 ? Settings.Copies.NONE : new Settings.Copies(Duration.ofHours(copyEvery), copiesKept),
                syslogPort);
    }

    private Giving.@Nullable Stamps stamps() {
        if (timeStamps == null) {
            return null;
        }
        if (timeStampsCertificate == null) {
            throw new IllegalArgumentException(
                    "Name the certificate of the time-stamping authority with --time-stamps-certificate; without it nobody can say whose stamps they are.");
        }
        return Giving.Stamps.of(timeStamps, timeStampsCertificate);
    }
}
