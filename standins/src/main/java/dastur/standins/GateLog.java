package dastur.standins;

import java.io.IOException;
import java.io.OutputStream;
import java.net.InetSocketAddress;
import java.net.Socket;
import java.nio.charset.StandardCharsets;
import java.time.InstantSource;
import java.util.OptionalInt;
import java.util.Set;
import java.util.concurrent.ConcurrentHashMap;
import java.util.function.Supplier;

/** What the gates write: a line of syslog (RFC 5424, with its length before it) when one stands open, and when it is well again. */
public final class GateLog {
    private static final int WITHIN_MILLIS = 3_000;
    /** Facility local0; severities error and notice. */
    private static final int ERROR = 131;

    private static final int NOTICE = 133;

    /** @param to the port where somebody takes it; empty while nobody does */
    public record Settings(Supplier<OptionalInt> to, InstantSource clock) {}

    private final Settings settings;
    private final Set<String> stuck = ConcurrentHashMap.newKeySet();

    GateLog(Settings settings) {
        this.settings = settings;
    }

    public boolean isStuck(String gate) {
        return stuck.contains(gate);
    }

    /** A gate gets stuck, or is well again, and says so. What nobody takes is lost: the protocol has no answer. */
    public void turn(String gate) {
        boolean now = !stuck.remove(gate);
        if (now) {
            stuck.add(gate);
        }
        String words = "Gate " + gate + (now ? " stands open" : " is well");
        String line = "<%d>1 %s gate-bus gates - %s [gate@32473 id=\"%s\"] %s"
                .formatted(now ? ERROR : NOTICE, settings.clock().instant(), now ? "STUCK" : "WELL", gate, words);
        settings.to().get().ifPresent(port -> send(port, line));
    }

    private static void send(int port, String line) {
        byte[] bytes = line.getBytes(StandardCharsets.UTF_8);
        try (Socket socket = new Socket()) {
            socket.connect(new InetSocketAddress("127.0.0.1", port), WITHIN_MILLIS);
            OutputStream out = socket.getOutputStream();
            out.write((bytes.length + " ").getBytes(StandardCharsets.US_ASCII));
            out.write(bytes);
            out.flush();
        } catch (IOException e) {
            // As real gates do: they do not wait for anybody who may read their log.
        }
    }
}
