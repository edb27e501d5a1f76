package dastur.server;

import dastur.core.json.Json;
import dastur.core.record.Export;
import dastur.core.record.Witnessed;
import dastur.server.http.OpenApi;
import dastur.server.witness.Giving;
import dastur.standins.Standins;
import dastur.store.Database;
import dastur.store.Durability;
import java.io.IOException;
import java.io.Reader;
import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.nio.file.Path;
import java.security.KeyPairGenerator;
import java.security.NoSuchAlgorithmException;
import java.time.Duration;
import java.time.InstantSource;
import java.util.List;
import java.util.concurrent.CountDownLatch;
import picocli.CommandLine;
import picocli.CommandLine.Command;
import picocli.CommandLine.Option;
import picocli.CommandLine.Parameters;

/** The command line. */
@Command(
        name = "dastur",
        mixinStandardHelpOptions = true,
        description = "Service management: workflows, tickets, and their provable record.")
public final class Main {
    private Main() {}

    public static void main(String[] arguments) {
        CommandLine line = new CommandLine(new Main())
                .setCaseInsensitiveEnumValuesAllowed(true)
                .addSubcommand("demo", new Start(true))
                .addSubcommand("start", new Start(false))
                .addSubcommand(new Verify())
                .addSubcommand(new FileCommands.Check())
                .addSubcommand(new FileCommands.Convert())
                .addSubcommand(new FileCommands.Rehearse())
                .addSubcommand(new KeepingCommands.AuditAll())
                .addSubcommand(new KeepingCommands.Rebuild())
                .addSubcommand(new KeepingCommands.Take())
                .addSubcommand(new KeepingCommands.Restore())
                .addSubcommand(new KeepingCommands.Restored())
                .addSubcommand(new KeepingCommands.ExportAll())
                .addSubcommand(new DescribeApi());
        line.setExecutionExceptionHandler((e, command, parsed) -> {
            command.getErr().println("dastur: " + reason(e));
            return 1;
        });
        System.exit(line.execute(arguments));
    }

    private static String reason(Throwable e) {
        for (Throwable cause = e; cause != null; cause = cause.getCause()) {
            String text = String.valueOf(cause.getMessage());
            if (text.contains("already in use") && text.contains("Database")) {
                return "The data folder is in use by another Dastur. Stop it, or choose another folder with --data.";
            }
            if (text.contains("Address already in use") || text.contains("Port already in use")) {
                return "A port is in use by another program. Choose others with --port, --standins-port and --smtp-port.";
            }
        }
        return String.valueOf(e.getMessage());
    }

    /** Starts the application, with or without the demo. */
    private static final class Start implements java.util.concurrent.Callable<Integer> {
        private final boolean demo;

        @CommandLine.Spec
        private CommandLine.Model.CommandSpec spec;

        @Option(names = "--port", defaultValue = "7070", description = "Port of the application (${DEFAULT-VALUE}).")
        private int port;

        @Option(names = "--host", defaultValue = "127.0.0.1", description = "Address to listen on (${DEFAULT-VALUE}).")
        private String host;

        @Option(names = "--data", description = "Folder for the database, the signing key and the secrets.")
        private Path data;

        @Option(
                names = "--standins-port",
                defaultValue = "7071",
                description = "Demo: port of the stand-ins' pages (${DEFAULT-VALUE}).")
        private int standinsPort;

        @Option(
                names = "--smtp-port",
                defaultValue = "7025",
                description = "Demo: port where the stand-in takes mail (${DEFAULT-VALUE}).")
        private int smtpPort;

        @Option(
                names = "--imap-port",
                defaultValue = "0",
                description = "Demo: port where Dastur's mailbox is read; 0 for any (${DEFAULT-VALUE}).")
        private int imapPort;

        @Option(
                names = "--ssh-port",
                defaultValue = "0",
                description = "Demo: port of the piers' gateway; 0 for any (${DEFAULT-VALUE}).")
        private int sshPort;

        @Option(
                names = "--dns-port",
                defaultValue = "0",
                description = "Demo: port of the name server; 0 for any (${DEFAULT-VALUE}).")
        private int dnsPort;

        @Option(
                names = "--enrolment",
                defaultValue = "8",
                description = "Demo: seconds that enrolling a kiosk takes (${DEFAULT-VALUE}).")
        private int enrolment;

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

        Start(boolean demo) {
            this.demo = demo;
        }

        private Giving.Stamps stamps() {
            if (timeStamps == null) {
                return null;
            }
            if (timeStampsCertificate == null) {
                throw new IllegalArgumentException(
                        "Name the certificate of the time-stamping authority with --time-stamps-certificate; without it nobody can say whose stamps they are.");
            }
            return Giving.Stamps.of(timeStamps, timeStampsCertificate);
        }

        private Path dataFolder() {
            return data == null ? Path.of("data", demo ? "demo" : "live") : data;
        }

        @Override
        public Integer call() throws InterruptedException {
            Settings settings = new Settings(
                    dataFolder(),
                    host,
                    port,
                    InstantSource.system(),
                    Duration.ofSeconds(callLease),
                    new Settings.MailServer(mailHost, mailPort, mailFrom),
                    demo
                            ? new Settings.DemoSettings(
                                    true,
                                    new Standins.Ports(standinsPort, smtpPort, imapPort, sshPort, dnsPort),
                                    Duration.ofSeconds(enrolment))
                            : Settings.DemoSettings.OFF,
                    address,
                    chat,
                    inboxUser == null ? null : new Settings.Inbox(inboxHost, inboxPort, inboxUser),
                    proxies,
                    durability,
                    new Giving.To(witnesses, stamps()),
                    onServer.server(new DataFolder(dataFolder())),
                    copyEvery == 0
                            ? Settings.Copies.NONE
                            : new Settings.Copies(Duration.ofHours(copyEvery), copiesKept));
            if (demo && settings.database() != null) {
                throw new IllegalArgumentException("The demo brings its own database; leave --database out.");
            }
            if (demo && !Files.exists(settings.data().resolve(Database.FILE))) {
                spec.commandLine()
                        .getOut()
                        .println("Playing thirty days of the demo's past; once, up to half a minute.");
                spec.commandLine().getOut().flush();
            }
            Wiring wiring = new Wiring(settings);
            CountDownLatch stopped = new CountDownLatch(1);
            Runtime.getRuntime().addShutdownHook(new Thread(() -> {
                wiring.close();
                stopped.countDown();
            }));
            wiring.standins()
                    .ifPresent(s -> spec.commandLine().getOut().println("Stand-ins and mailbox are at " + s.address()));
            spec.commandLine().getOut().println("Dastur is ready at http://localhost:" + wiring.port());
            spec.commandLine().getOut().flush();
            stopped.await();
            return 0;
        }
    }

    @Command(name = "verify", description = "Checks an exported record (NDJSON): exit 0 when it is proved, 1 when not.")
    private static final class Verify implements java.util.concurrent.Callable<Integer> {
        @Parameters(paramLabel = "FILE", description = "The export.")
        private Path file;

        @Option(names = "--key", description = "The public key expected in the trailer, in base64; see /api/seal/key.")
        private String key;

        @Option(
                names = "--authority",
                description =
                        "The certificate of a time-stamping authority, PEM or DER, with which time stamps are compared.")
        private Path authority;

        @CommandLine.Spec
        private CommandLine.Model.CommandSpec spec;

        @Override
        public Integer call() throws IOException {
            if (!Files.isRegularFile(file)) {
                throw new IOException("There is no file " + file + ".");
            }
            try (Reader in = Files.newBufferedReader(file, StandardCharsets.UTF_8)) {
                Export.Report report =
                        Export.check(in, key, authority == null ? Witnessed.Receipts.NONE : Giving.receipts(authority));
                var out = spec.commandLine().getOut();
                if (report.proved()) {
                    out.println(report.ticket() + ": proved, " + report.entries() + " entries"
                            + (report.redacted() > 0 ? ", of which " + report.redacted() + " redacted" : "")
                            + ". Signed by key " + report.key()
                            + (key == null ? " (compare it with the one you were given)" : ""));
                    out.println(
                            report.log() == null
                                    ? "It says nothing of the log: entries after the last could be missing."
                                    : "The log held it on " + report.log().at() + ", in checkpoint "
                                            + report.log().checkpoint() + " over "
                                            + report.log().size()
                                            + " changes. Whether that checkpoint is of the real log, whoever kept checkpoints can say.");
                    report.seen().forEach(seen -> out.println(words(seen)));
                } else {
                    report.problems().forEach(p -> out.println("line " + p.line() + ": " + p.message()));
                    out.println("NOT PROVED. " + report.entries() + " entries hold up to there.");
                }
                return report.proved() ? 0 : 1;
            } catch (java.nio.charset.MalformedInputException e) {
                throw new IOException("The file is not UTF-8 text: it was altered, or it is no export.", e);
            }
        }
    }

    /** Who saw the log outside, what of it, and how sure that is. */
    private static String words(Export.Seen seen) {
        String how =
                switch (seen.receipt()) {
                    case null -> "; ask there whether it is so";
                    case Witnessed.Genuine g -> "; stamped at " + g.at() + " by " + g.authority();
                    case Witnessed.Unchecked u ->
                        "; its time stamp was not looked at: name its certificate with --authority";
                    case Witnessed.Spoiled s -> "; " + s.why();
                };
        return "Given to " + seen.name() + " (" + seen.kind() + ") at " + seen.given() + " with " + seen.size()
                + " changes, "
                + (seen.all() ? "all of this record among them" : "before the end of this record was written") + how
                + ".";
    }

    @Command(name = "openapi", description = "Prints the OpenAPI description.")
    private static final class DescribeApi implements java.util.concurrent.Callable<Integer> {
        @CommandLine.Spec
        private CommandLine.Model.CommandSpec spec;

        @Override
        public Integer call() {
            spec.commandLine().getOut().println(describe());
            return 0;
        }
    }

    /** The route table's description, made without starting anything. */
    public static String describe() {
        try {
            App nothing = new App(
                    null,
                    null,
                    null,
                    null,
                    null,
                    null,
                    null,
                    null,
                    null,
                    null,
                    null,
                    InstantSource.system(),
                    KeyPairGenerator.getInstance("Ed25519").generateKeyPair(),
                    null,
                    null,
                    null,
                    null,
                    null,
                    null,
                    null,
                    null,
                    null,
                    null,
                    null,
                    null,
                    null,
                    null);
            return Json.mapper()
                    .writerWithDefaultPrettyPrinter()
                    .writeValueAsString(OpenApi.describe(Wiring.routes(nothing)));
        } catch (NoSuchAlgorithmException | com.fasterxml.jackson.core.JsonProcessingException e) {
            throw new IllegalStateException(e);
        }
    }
}
