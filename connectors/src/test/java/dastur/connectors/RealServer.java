package dastur.connectors;

import static org.assertj.core.api.Assertions.assertThat;

import dastur.core.run.Event;
import dastur.core.ticket.Field;
import dastur.core.ticket.FieldType;
import dastur.core.workflow.Action;
import java.io.IOException;
import java.net.InetAddress;
import java.net.Socket;
import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.nio.file.Path;
import java.time.Instant;
import java.util.List;
import java.util.Map;
import java.util.concurrent.TimeUnit;
import java.util.concurrent.locks.LockSupport;
import org.jspecify.annotations.Nullable;

/** A server that somebody else wrote, for as long as a test needs it. {@code ./dastur test} installs them. */
final class RealServer {
    private RealServer() {}

    static final Connector.Heartbeat ALIVE = () -> true;

    static Event.Call call(String method, String path, @Nullable String body, Action.Output... outputs) {
        return new Event.Call(
                "c",
                method,
                path,
                Map.of(),
                body,
                null,
                List.of(outputs),
                List.of(new Action.OwnResult("was away", "/status", "3")),
                5);
    }

    static Action.Output output(String name, FieldType type, String pointer) {
        return new Action.Output(Field.of(name, name, type).asRequired(), pointer);
    }

    static Process started(Path log, int port, String... command) throws IOException {
        Process process = new ProcessBuilder(command)
                .redirectErrorStream(true)
                .redirectOutput(log.toFile())
                .start();
        Instant end = Instant.now().plusSeconds(20);
        while (true) {
            try (Socket socket = new Socket(InetAddress.getLoopbackAddress(), port)) {
                assertThat(socket.isConnected()).isTrue();
                return process;
            } catch (IOException e) {
                assertThat(process.isAlive() && Instant.now().isBefore(end))
                        .as(() -> read(log))
                        .isTrue();
                LockSupport.parkNanos(20_000_000);
            }
        }
    }

    static String read(Path file) {
        try {
            return Files.readString(file);
        } catch (IOException e) {
            return e.toString();
        }
    }

    static String shell(String... command) throws IOException, InterruptedException {
        Process process = new ProcessBuilder(command).redirectErrorStream(true).start();
        String said = new String(process.getInputStream().readAllBytes(), StandardCharsets.UTF_8);
        assertThat(process.waitFor(20, TimeUnit.SECONDS)).isTrue();
        return said;
    }

    static void stop(@Nullable Process process) throws InterruptedException {
        if (process != null) {
            process.destroy();
            process.waitFor(10, TimeUnit.SECONDS);
        }
    }
}
