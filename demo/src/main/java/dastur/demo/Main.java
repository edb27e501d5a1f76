package dastur.demo;

import dastur.connectors.Carriers;
import dastur.server.Running;
import dastur.server.Settings;
import dastur.server.StartOptions;
import dastur.server.Wiring;
import dastur.standins.Standins;
import dastur.store.Database;
import java.io.PrintWriter;
import java.nio.file.Files;
import java.nio.file.Path;
import java.time.Duration;
import java.util.concurrent.Callable;
import picocli.CommandLine;
import picocli.CommandLine.Command;
import picocli.CommandLine.Option;

/** The command line of the demo: that of the application, and one command more. */
public final class Main {
    private static final Path USUAL = Path.of("data", "demo");

    private Main() {}

    public static void main(String[] arguments) {
        Carriers.provide();
        System.exit(dastur.server.Main.line().addSubcommand(new Start()).execute(arguments));
    }

    @Command(name = "demo", description = "Starts the application with demo data and stand-ins.")
    private static final class Start implements Callable<Integer> {
        @CommandLine.Mixin
        private StartOptions options = new StartOptions();

        @CommandLine.Spec
        private CommandLine.Model.CommandSpec spec;

        @Option(
                names = "--standins-port",
                defaultValue = "7071",
                description = "Port of the stand-ins' pages (${DEFAULT-VALUE}).")
        private int standinsPort;

        @Option(
                names = "--smtp-port",
                defaultValue = "7025",
                description = "Port where the stand-in takes mail (${DEFAULT-VALUE}).")
        private int smtpPort;

        @Option(
                names = "--imap-port",
                defaultValue = "0",
                description = "Port where Dastur's mailbox is read; 0 for any (${DEFAULT-VALUE}).")
        private int imapPort;

        @Option(
                names = "--ssh-port",
                defaultValue = "0",
                description = "Port of the piers' gateway; 0 for any (${DEFAULT-VALUE}).")
        private int sshPort;

        @Option(
                names = "--dns-port",
                defaultValue = "0",
                description = "Port of the name server; 0 for any (${DEFAULT-VALUE}).")
        private int dnsPort;

        @Option(
                names = "--enrolment",
                defaultValue = "8",
                description = "Seconds that enrolling a kiosk takes (${DEFAULT-VALUE}).")
        private int enrolment;

        @Override
        public Integer call() throws InterruptedException {
            Settings asked = options.settings(USUAL);
            Settings settings = asked.syslogPort() == null ? asked.withSyslog(0) : asked;
            if (settings.database() != null) {
                throw new IllegalArgumentException("The demo brings its own database; leave --database out.");
            }
            PrintWriter out = spec.commandLine().getOut();
            if (!Files.exists(settings.data().resolve(Database.FILE))) {
                out.println("Playing thirty days of the demo's past; once, up to half a minute.");
                out.flush();
            }
            DemoScene scene = new DemoScene(
                    new Standins.Ports(standinsPort, smtpPort, imapPort, sshPort, dnsPort),
                    Duration.ofSeconds(enrolment),
                    true);
            Wiring wiring = new Wiring(settings, scene);
            out.println("Stand-ins and mailbox are at " + scene.standins().address());
            Running.untilStopped(wiring, out);
            return 0;
        }
    }
}
