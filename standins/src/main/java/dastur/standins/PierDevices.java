package dastur.standins;

import com.fasterxml.jackson.databind.ObjectMapper;
import java.io.IOException;
import java.io.InputStream;
import java.io.OutputStream;
import java.io.UncheckedIOException;
import java.nio.charset.StandardCharsets;
import java.time.Duration;
import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.TreeSet;
import java.util.concurrent.ConcurrentHashMap;
import org.apache.sshd.common.config.keys.KeyUtils;
import org.apache.sshd.common.digest.BuiltinDigests;
import org.apache.sshd.common.keyprovider.KeyPairProvider;
import org.apache.sshd.common.session.SessionContext;
import org.apache.sshd.server.Environment;
import org.apache.sshd.server.ExitCallback;
import org.apache.sshd.server.SshServer;
import org.apache.sshd.server.channel.ChannelSession;
import org.apache.sshd.server.command.Command;
import org.apache.sshd.server.keyprovider.SimpleGeneratorHostKeyProvider;

/**
 * The departure boards as seen from their piers' gateway, over SSH: {@code board log ALD-07}, {@code board look ALD-07} and
 * {@code board restart ALD-07}. A restart takes a moment, and helps unless the board needs a part.
 */
public final class PierDevices implements AutoCloseable {
    private static final String USER = "dastur";
    private static final ObjectMapper JSON = new ObjectMapper();

    private final Faults faults;
    private final Duration restartTakes;
    private final SshServer server = SshServer.setUpDefaultServer();
    private final TraceFiles traces;
    private final PierGateways gateways = new PierGateways();
    private final Set<String> frozen = ConcurrentHashMap.newKeySet();
    private final Set<String> broken = ConcurrentHashMap.newKeySet();
    private final Map<String, Long> upAtNanos = new ConcurrentHashMap<>();

    PierDevices(int port, String password, Faults faults, Duration restartTakes) {
        this.faults = faults;
        this.restartTakes = restartTakes;
        server.setHost("127.0.0.1");
        server.setPort(port);
        SimpleGeneratorHostKeyProvider keys = new SimpleGeneratorHostKeyProvider();
        keys.setAlgorithm(KeyUtils.EC_ALGORITHM);
        server.setKeyPairProvider(keys);
        server.setPasswordAuthenticator(
                (user, given, session) -> user.equals(USER) && given.equals(password) && isUp());
        server.setCommandFactory((channel, line) -> new OneCommand(line));
        traces = new TraceFiles(server);
        try {
            server.start();
        } catch (IOException e) {
            throw new UncheckedIOException(e);
        }
    }

    private boolean isUp() {
        return faults.of("devices") != Faults.Fault.DOWN;
    }

    /** Where they are reached, with the key by which the host is known. */
    public String address() {
        KeyPairProvider keys = server.getKeyPairProvider();
        try {
            String print = KeyUtils.getFingerPrint(
                    BuiltinDigests.sha256,
                    keys.loadKeys((SessionContext) null).iterator().next().getPublic());
            return "ssh://" + USER + "@127.0.0.1:" + server.getPort() + "?hostkey=" + print;
        } catch (IOException | java.security.GeneralSecurityException e) {
            throw new IllegalStateException(e);
        }
    }

    /** Files that are reached over the same machine. */
    public TraceFiles traces() {
        return traces;
    }

    /** The gateways in front of them. */
    public PierGateways gateways() {
        return gateways;
    }

    /** Freezes a board's picture, or lets it move again. */
    public void freeze(String board, boolean stands) {
        if (stands) {
            frozen.add(board);
        } else {
            frozen.remove(board);
        }
    }

    /** Freezes the picture of all boards behind a gateway at the same moment. */
    public void freezeAll(String gateway) {
        PierGateways.boards(gateway).forEach(board -> freeze(board, true));
    }

    /** A board that needs a part stays frozen whatever is done from afar. */
    public void needsPart(String board, boolean needs) {
        if (needs) {
            broken.add(board);
            frozen.add(board);
        } else {
            broken.remove(board);
            frozen.remove(board);
        }
    }

    public Set<String> frozen() {
        return new TreeSet<>(frozen);
    }

    private record Said(int status, Object answer) {}

    private Said answer(String line) {
        List<String> words = List.of(line.replace("'", "").strip().split("\\s+"));
        if (faults.of("devices") == Faults.Fault.REFUSES) {
            return new Said(1, "the gateway is locked for maintenance");
        }
        if (words.getFirst().equals("gateway")) {
            return gateways.answer(words)
                    .map(said -> new Said(0, said))
                    .orElseGet(() -> new Said(127, "unknown command"));
        }
        if (words.size() != 3 || !words.getFirst().equals("board")) {
            return new Said(127, "unknown command");
        }
        String board = words.get(2);
        return switch (words.get(1)) {
            case "log" ->
                new Said(
                        0,
                        "07:58 link up\n08:01 picture loaded\n".repeat(repeats)
                                + (frozen.contains(board)
                                        ? "08:14 no picture for 60 s\n08:15 no picture for 120 s"
                                        : "08:14 picture loaded"));
            case "look" -> new Said(0, Map.of("board", board, "picture", picture(board), "firmware", "4.11"));
            case "restart" -> {
                upAtNanos.put(board, System.nanoTime() + restartTakes.toNanos());
                if (!broken.contains(board)) {
                    frozen.remove(board);
                }
                yield new Said(0, Map.of("board", board, "reference", "restart of " + board));
            }
            default -> new Said(127, "unknown command");
        };
    }

    /** How often boards tell of their morning, so that a log may be as long as one likes. */
    public void repeat(int times) {
        repeats = times;
    }

    /** What a board's picture does: moves, stands still, or is starting. */
    public String picture(String board) {
        boolean starting = upAtNanos.getOrDefault(board, Long.MIN_VALUE) > System.nanoTime();
        return starting ? "starting" : frozen.contains(board) ? "stands still" : "moves";
    }

    private volatile int repeats = 1;

    @Override
    public void close() {
        traces.close();
        try {
            server.stop(true);
        } catch (IOException e) {
            throw new UncheckedIOException(e);
        }
    }

    /** One command of one session: answers and ends. */
    private final class OneCommand implements Command {
        private final String line;
        private OutputStream out = OutputStream.nullOutputStream();
        private OutputStream err = OutputStream.nullOutputStream();
        private ExitCallback exit = (status, why, close) -> {};

        OneCommand(String line) {
            this.line = line;
        }

        @Override
        public void setInputStream(InputStream in) {
            // No command reads anything.
        }

        @Override
        public void setOutputStream(OutputStream stream) {
            out = stream;
        }

        @Override
        public void setErrorStream(OutputStream stream) {
            err = stream;
        }

        @Override
        public void setExitCallback(ExitCallback callback) {
            exit = callback;
        }

        @Override
        public void start(ChannelSession channel, Environment environment) throws IOException {
            Said said = answer(line);
            if (faults.of("devices") == Faults.Fault.LOSES_ANSWERS) {
                channel.getSession().close(true);
                return;
            }
            String text = said.answer() instanceof String s ? s : JSON.writeValueAsString(said.answer());
            // Not here: whoever reads slowly says that there is room again on this very thread.
            Thread.startVirtualThread(() -> say(said.status(), text));
        }

        private void say(int status, String text) {
            try {
                OutputStream to = status == 0 ? out : err;
                to.write((text + "\n").getBytes(StandardCharsets.UTF_8));
                to.flush();
            } catch (IOException e) {
                // Whoever asked has hung up.
            } finally {
                exit.onExit(status);
            }
        }

        @Override
        public void destroy(ChannelSession channel) {
            // Nothing is held.
        }
    }
}
