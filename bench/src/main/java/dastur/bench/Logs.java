package dastur.bench;

import com.fasterxml.jackson.databind.JsonNode;
import java.io.IOException;
import java.io.InputStream;
import java.io.OutputStream;
import java.nio.charset.StandardCharsets;
import java.nio.file.Path;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.concurrent.CountDownLatch;
import java.util.concurrent.ExecutorService;
import java.util.concurrent.Executors;
import java.util.concurrent.Future;
import java.util.concurrent.TimeUnit;
import java.util.concurrent.locks.LockSupport;
import org.apache.sshd.common.config.keys.KeyUtils;
import org.apache.sshd.common.digest.BuiltinDigests;
import org.apache.sshd.common.session.SessionContext;
import org.apache.sshd.server.Environment;
import org.apache.sshd.server.ExitCallback;
import org.apache.sshd.server.SshServer;
import org.apache.sshd.server.channel.ChannelSession;
import org.apache.sshd.server.command.Command;
import org.apache.sshd.server.keyprovider.SimpleGeneratorHostKeyProvider;

/**
 * What calls say while they go on, to browsers that look on: commands over SSH that say 1 MB a second together, each line with the time
 * at which it was said, and browsers that ask once a second for what is new, as the ticket's page does. Beside it the same commands
 * listened to plainly are as late as their own pipe, which is nothing that could be seen.
 */
final class Logs {
    private static final int BYTES_A_SECOND = 1_000_000;
    private static final int LINE = 100;
    private static final Map<String, Object> CALL = Map.of("method", "RUN", "path", "/", "body", "[\"talk\"]");

    private final DemoApp app;
    private final SshServer machine = SshServer.setUpDefaultServer();
    private final int commands;
    private final int seconds;

    private Logs(Path folder, int commands, int seconds) throws IOException {
        app = new DemoApp(folder.resolve("data"));
        this.commands = commands;
        this.seconds = seconds;
        machine.setHost("127.0.0.1");
        SimpleGeneratorHostKeyProvider keys = new SimpleGeneratorHostKeyProvider();
        keys.setAlgorithm(KeyUtils.EC_ALGORITHM);
        machine.setKeyPairProvider(keys);
        machine.setPasswordAuthenticator((user, given, session) -> true);
        machine.setCommandFactory((channel, line) -> new Talker());
        machine.start();
    }

    /** Says its share in lines, ten times a second. */
    private final class Talker implements Command {
        private OutputStream out = OutputStream.nullOutputStream();
        private ExitCallback exit = (code, said, closeImmediately) -> {};
        private volatile boolean ended;

        @Override
        public void setOutputStream(OutputStream to) {
            out = to;
        }

        @Override
        public void setErrorStream(OutputStream to) {
            // It says nothing there.
        }

        @Override
        public void setInputStream(InputStream from) {
            // It hears nothing.
        }

        @Override
        public void setExitCallback(ExitCallback callback) {
            exit = callback;
        }

        @Override
        public void start(ChannelSession channel, Environment env) {
            Thread.ofVirtual().start(this::talk);
        }

        private void talk() {
            try {
                long begun = System.nanoTime();
                int lines = BYTES_A_SECOND / commands / LINE / 10;
                for (int tenth = 0; tenth < seconds * 10 && !ended; tenth++) {
                    StringBuilder said = new StringBuilder();
                    for (int i = 0; i < lines; i++) {
                        said.append(("%d " + "x".repeat(LINE)).formatted(System.currentTimeMillis()), 0, LINE - 1)
                                .append('\n');
                    }
                    out.write(said.toString().getBytes(StandardCharsets.UTF_8));
                    out.flush();
                    LockSupport.parkNanos(begun + (tenth + 1) * 100_000_000L - System.nanoTime());
                }
                exit.onExit(0);
            } catch (IOException e) {
                exit.onExit(1);
            }
        }

        @Override
        public void destroy(ChannelSession channel) {
            ended = true;
        }
    }

    static void measure(Path folder, int browsers) throws Exception {
        // A call keeps a million characters: so many commands say 1 MB a second for nine seconds.
        new Logs(folder, 10, 9).run(browsers);
    }

    private String address() throws Exception {
        String print = KeyUtils.getFingerPrint(
                BuiltinDigests.sha256,
                machine.getKeyPairProvider()
                        .loadKeys((SessionContext) null)
                        .iterator()
                        .next()
                        .getPublic());
        return "ssh://dastur@127.0.0.1:" + machine.getPort() + "?hostkey=" + print;
    }

    private void run(int browsers) throws Exception {
        Process life = app.start();
        try {
            DemoApp.Signed ines = app.signIn("ines");
            DemoApp.Signed halvard = app.signIn("halvard");
            setUp(ines, halvard);
            List<String> tickets = new ArrayList<>();
            for (int i = 0; i < commands; i++) {
                tickets.add(AtOnce.started(app, ines, "talker-" + i));
            }
            try (ExecutorService threads = Executors.newVirtualThreadPerTaskExecutor()) {
                CountDownLatch ready = new CountDownLatch(browsers);
                List<Future<Seen>> all = new ArrayList<>();
                for (int b = 0; b < browsers; b++) {
                    String ticket = tickets.get(b % commands);
                    all.add(threads.submit(() -> new Browser(ines, ticket).look(ready)));
                }
                long bytes = 0;
                List<Long> late = new ArrayList<>();
                for (Future<Seen> one : all) {
                    Seen seen = one.get(2, TimeUnit.MINUTES);
                    bytes += seen.bytes();
                    late.addAll(seen.late());
                }
                if (late.isEmpty()) {
                    throw new IllegalStateException(
                            app.send(ines, "GET", "/api/tickets/" + tickets.getFirst() + "/record", null, null)
                                    .body());
                }
                late.sort(Long::compare);
                System.out.printf(
                        "%d commands say 1 MB/s for %d s; %d browsers saw %.1f MB; newest line when seen is late by p50 %d ms, p95 %d ms, at most %d ms%n",
                        commands,
                        seconds,
                        browsers,
                        bytes / 1e6,
                        late.get(late.size() / 2),
                        late.get(late.size() * 95 / 100),
                        late.getLast());
            }
        } finally {
            life.destroy();
            life.waitFor(30, TimeUnit.SECONDS);
            machine.stop(true);
        }
    }

    private record Seen(long bytes, List<Long> late) {}

    /** One that looks at a ticket with a call under way, and asks once a second until the call is over. */
    private final class Browser {
        private final DemoApp.Signed who;
        private final String ticket;
        private final List<Long> late = new ArrayList<>();
        private long bytes;
        private int from;

        private Browser(DemoApp.Signed who, String ticket) {
            this.who = who;
            this.ticket = ticket;
        }

        private Seen look(CountDownLatch ready) throws Exception {
            String said = null;
            ready.countDown();
            long end = System.nanoTime() + TimeUnit.SECONDS.toNanos(90);
            while (System.nanoTime() < end) {
                JsonNode calls = got("/api/tickets/" + ticket + "/calls");
                if (said == null && !calls.isEmpty()) {
                    JsonNode call = calls.get(0);
                    said = "/api/tickets/" + ticket + "/calls/"
                            + call.get("visit").asText() + "/"
                            + call.get("attempt").asInt() + "?from=";
                }
                if (said != null) {
                    take(got(said + from));
                    if (calls.isEmpty()) {
                        break;
                    }
                }
                Thread.sleep(1_000);
            }
            return new Seen(bytes, late);
        }

        private void take(JsonNode more) {
            String text = more.get("text").asText();
            from = more.get("next").asInt();
            bytes += text.length();
            int last = text.lastIndexOf('\n', text.length() - 2) + 1;
            if (text.length() - last >= LINE) {
                String stamp = text.substring(last, text.indexOf(' ', last));
                late.add(System.currentTimeMillis() - Long.parseLong(stamp));
            }
        }

        private JsonNode got(String path) throws IOException, InterruptedException {
            return Peers.done(app.send(who, "GET", path, null, null));
        }
    }

    private void setUp(DemoApp.Signed ines, DemoApp.Signed halvard) throws Exception {
        Peers.done(app.send(halvard, "PUT", "/api/secrets/talker", Map.of("value", "any"), null));
        for (int i = 0; i < commands; i++) {
            String key = "talker-" + i;
            Map<String, Object> connection =
                    Map.of("key", key, "name", key, "base", address(), "secret", "talker", "allowedHosts", List.of());
            Peers.done(app.send(halvard, "PUT", "/api/connections/" + key, connection, null));
            Peers.done(app.send(
                    halvard, "PUT", "/api/actions/" + key, Map.of("action", AtOnce.action(key, CALL, 5)), null));
            Peers.publish(app, ines, """
                    workflow %s "%s" for incident
                      owner ines

                    call: run %s "Talk"
                      failed -> done

                    done: done "called" as "Called"
                    """.formatted(key, key, key), "{\"is\":\"by hand\"}");
        }
    }
}
