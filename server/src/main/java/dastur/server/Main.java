package dastur.server;

import dastur.connectors.Carriers;
import dastur.core.json.Json;
import dastur.core.record.Export;
import dastur.core.record.Witnessed;
import dastur.server.api.RouteTable;
import dastur.server.http.OpenApi;
import dastur.server.relays.RelayDoor;
import dastur.server.witness.Giving;
import java.io.IOException;
import java.io.Reader;
import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.nio.file.Path;
import java.security.KeyPairGenerator;
import java.security.NoSuchAlgorithmException;
import java.time.InstantSource;
import java.util.concurrent.Callable;
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

    private static final Path LIVE = Path.of("data", "live");

    public static void main(String[] arguments) {
        Carriers.provide();
        System.exit(line().execute(arguments));
    }

    /** All commands; a demo adds its own. */
    public static CommandLine line() {
        CommandLine line = new CommandLine(new Main())
                .setCaseInsensitiveEnumValuesAllowed(true)
                .addSubcommand(new Start())
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
        return line;
    }

    private static String reason(Throwable e) {
        for (Throwable cause = e; cause != null; cause = cause.getCause()) {
            String text = String.valueOf(cause.getMessage());
            if (text.contains("already in use") && text.contains("Database")) {
                return "The data folder is in use by another Dastur. Stop it, or choose another folder with --data.";
            }
            if (text.contains("Address already in use") || text.contains("Port already in use")) {
                return "A port is in use by another program. Choose another with --port or --syslog-port; a demo also has --standins-port and --smtp-port.";
            }
        }
        return String.valueOf(e.getMessage());
    }

    /** Starts the application. */
    @Command(name = "start", description = "Starts the application; the first visit makes the first account.")
    private static final class Start implements Callable<Integer> {
        @CommandLine.Mixin
        private StartOptions options = new StartOptions();

        @CommandLine.Spec
        private CommandLine.Model.CommandSpec spec;

        @Override
        public Integer call() throws InterruptedException {
            Running.untilStopped(
                    new Wiring(options.settings(LIVE)), spec.commandLine().getOut());
            return 0;
        }
    }

    @Command(name = "verify", description = "Checks an exported record (NDJSON): exit 0 when it is proved, 1 when not.")
    private static final class Verify implements Callable<Integer> {
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
    private static final class DescribeApi implements Callable<Integer> {
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
                    new App.Work(null, null, null, null, null, null),
                    new App.Design(null, null, null, null, null, null, null),
                    new App.Door(null, null, null, null, null),
                    new App.Kept(null, KeyPairGenerator.getInstance("Ed25519").generateKeyPair(), null),
                    new App.Beside(null, null, null, null),
                    new App.Signalling(null, null, null, null, null, null, null, null, null, null),
                    new App.Starts(null, null, null, null, null, null),
                    new App.Out(null, null, null, null),
                    new App.Machines(null, null, null, null, null, null, null, null),
                    new App.Zones(
                            null,
                            null,
                            new RelayDoor(new RelayDoor.Uses(null, null, null, null, null, null, null, null, null)),
                            null),
                    new App.AtPartners(null, null, null),
                    InstantSource.system(),
                    null);
            return Json.mapper()
                    .writerWithDefaultPrettyPrinter()
                    .writeValueAsString(OpenApi.describe(RouteTable.of(nothing)));
        } catch (NoSuchAlgorithmException | com.fasterxml.jackson.core.JsonProcessingException e) {
            throw new IllegalStateException(e);
        }
    }
}
