package dastur.relay;

import dastur.connectors.Carriers;
import java.io.IOException;
import java.io.PrintWriter;
import java.nio.file.Path;
import java.time.InstantSource;
import java.util.concurrent.Callable;
import picocli.CommandLine;
import picocli.CommandLine.Command;
import picocli.CommandLine.Option;

/** The command line of the relay. */
@Command(
        name = "relay",
        mixinStandardHelpOptions = true,
        description =
                "Makes in a private network what a Dastur server asks for and allowed.json allows. It only calls out.")
public final class Main {
    private Main() {}

    public static void main(String[] arguments) {
        Carriers.provide();
        // Of its own name: where the demo runs a relay beside the server, only one of both is to say how it logs.
        System.setProperty("logback.configurationFile", "logback-relay.xml");
        CommandLine line = new CommandLine(new Main())
                .addSubcommand(new Join())
                .addSubcommand(new Move())
                .addSubcommand(new Run())
                .addSubcommand(new Check());
        line.setExecutionExceptionHandler((e, command, parsed) -> {
            command.getErr().println("relay: " + e.getMessage());
            return 1;
        });
        System.exit(line.execute(arguments));
    }

    private abstract static class InFolder {
        @Option(
                names = "--folder",
                defaultValue = "data/relay",
                description = "Holds allowed.json, secrets/, scripts/, and what the relay keeps. ${DEFAULT-VALUE}")
        private Path folder = Path.of("data", "relay");

        @CommandLine.Spec
        private CommandLine.Model.CommandSpec spec;

        Path folder() {
            return folder;
        }

        PrintWriter out() {
            return spec.commandLine().getOut();
        }
    }

    @Command(name = "join", description = "Asks a server to let this relay in, by a code from the page of its zone.")
    private static final class Join extends InFolder implements Callable<Integer> {
        @Option(names = "--server", required = true, description = "Where the server is: https://…")
        private String server = "";

        @Option(names = "--code", required = true, description = "The code, whole.")
        private String code = "";

        @Option(names = "--name", required = true, description = "What people call this relay.")
        private String name = "";

        @Override
        public Integer call() throws IOException, InterruptedException {
            String fingerprint = Joining.join(folder(), server, code, name);
            out().println("Asked to join. The key of this relay is");
            out().println("  " + fingerprint);
            out().println("Compare it on the page of its zone and let it in there; then: relay run");
            return 0;
        }
    }

    @Command(name = "move", description = "Tells the relay where its server is reached now.")
    private static final class Move extends InFolder implements Callable<Integer> {
        @Option(names = "--server", required = true, description = "Where the server is: https://…")
        private String server = "";

        @Override
        public Integer call() throws IOException {
            Joining.move(folder(), server);
            out().println("The server is looked for at " + server);
            return 0;
        }
    }

    @Command(name = "run", description = "Works until it is stopped.")
    private static final class Run extends InFolder implements Callable<Integer> {
        @Override
        public Integer call() throws IOException, InterruptedException {
            Relay relay = new Relay(folder(), InstantSource.system());
            Runtime.getRuntime().addShutdownHook(new Thread(relay::close));
            relay.start();
            out().println("The relay works; its key is " + relay.fingerprint());
            out().flush();
            String why = relay.untilOver();
            if (why != null) {
                out().println("relay: " + why);
                out().flush();
                Runtime.getRuntime().halt(3);
            }
            return 0;
        }
    }

    @Command(name = "check", description = "Reads allowed.json and says what it allows.")
    private static final class Check extends InFolder implements Callable<Integer> {
        @Override
        public Integer call() throws IOException {
            try {
                Folder.Read file = new Folder(folder()).allowed();
                out().println("Zone " + file.allowed().zone() + ", file "
                        + file.hash().substring(0, 12));
                file.allowed().told().forEach(out()::println);
                return 0;
            } catch (Folder.Unusable e) {
                throw new IOException(e.getMessage(), e);
            }
        }
    }
}
