package dastur.bench;

import com.fasterxml.jackson.databind.JsonNode;
import java.io.IOException;
import java.io.OutputStream;
import java.net.http.HttpResponse;
import java.nio.charset.StandardCharsets;
import java.nio.file.Path;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.List;
import java.util.Map;
import java.util.UUID;
import java.util.concurrent.ConcurrentLinkedQueue;
import java.util.concurrent.ExecutorService;
import java.util.concurrent.Executors;
import java.util.concurrent.Future;
import java.util.concurrent.TimeUnit;
import java.util.concurrent.atomic.AtomicLong;
import java.util.concurrent.locks.LockSupport;
import org.apache.sshd.client.SshClient;
import org.apache.sshd.client.channel.ChannelExec;
import org.apache.sshd.client.session.ClientSession;
import org.apache.sshd.common.config.keys.KeyUtils;
import org.apache.sshd.common.digest.BuiltinDigests;
import org.apache.sshd.server.SshServer;
import org.apache.sshd.server.command.AbstractCommandSupport;
import org.apache.sshd.server.keyprovider.SimpleGeneratorHostKeyProvider;

/**
 * Logs while they are spoken (M7): ten calls say 100 kB a second each for nine seconds, together 900 kB a second, and twenty browsers look at all of
 * them. Each line says when it was spoken. How late is it seen, and how late by somebody who reads the same over a line of their own?
 */
final class Logs {
    private static final int CALLS = 10;
    private static final int BROWSERS = 20;
    private static final int SECONDS = 9;
    private static final int A_SECOND = 1_000;
    private static final int LINE = 100;

    private final DemoApp app;
    private final SshServer machine = SshServer.setUpDefaultServer();
    private final ConcurrentLinkedQueue<Long> late = new ConcurrentLinkedQueue<>();
    private final AtomicLong read = new AtomicLong();

    private Logs(Path folder) throws IOException {
        app = new DemoApp(folder.resolve("data"));
        machine.setHost("127.0.0.1");
        machine.setPort(0);
        machine.setKeyPairProvider(new SimpleGeneratorHostKeyProvider(folder.resolve("host.key")));
        machine.setPasswordAuthenticator((user, password, session) -> true);
        machine.setCommandFactory((channel, command) -> new Talking(command));
        machine.start();
    }

    static void measure(Path folder) throws Exception {
        new Logs(folder).run();
    }

    /** Speaks lines of a hundred characters, each with the moment it is spoken. */
    private static final class Talking extends AbstractCommandSupport {
        Talking(String command) {
            super(command, null);
        }

        @Override
        public void run() {
            long begun = System.nanoTime();
            try (OutputStream out = getOutputStream()) {
                for (int i = 0; i < SECONDS * A_SECOND; i++) {
                    String said = String.valueOf(System.currentTimeMillis());
                    out.write((said + " " + "x".repeat(LINE - said.length() - 2) + "\n")
                            .getBytes(StandardCharsets.UTF_8));
                    out.flush();
                    long due = begun + (i + 1L) * 1_000_000_000L / A_SECOND;
                    LockSupport.parkNanos(due - System.nanoTime());
                }
                onExit(0);
            } catch (IOException e) {
                onExit(1);
            }
        }
    }

    private void run() throws Exception {
        Process life = app.start();
        try {
            DemoApp.Signed ines = app.signIn("ines");
            connect();
            Peers.publish(app, ines, """
                    workflow talking "Talk" for incident
                      owner ines

                    call: run machine.talk "Talk"

                    done: done "talked" as "Talked"
                    """, "{\"is\":\"by hand\"}");
            System.out.println("ms late           |   p50 |   p95 | longest |  MB/s");
            told("over its own line", plainly());
            told("by 20 browsers", seen(ines));
        } finally {
            life.destroy();
            life.waitFor(30, TimeUnit.SECONDS);
            machine.stop(true);
        }
    }

    private void told(String what, double seconds) {
        long[] all = late.stream().mapToLong(Long::longValue).sorted().toArray();
        System.out.printf(
                "%-17s | %5d | %5d | %7d | %5.1f%n",
                what, all[all.length / 2], all[all.length * 95 / 100], all[all.length - 1], read.get() / 1e6 / seconds);
        late.clear();
        read.set(0);
    }

    private void heard(String text) {
        read.addAndGet(text.length());
        long now = System.currentTimeMillis();
        text.lines()
                .filter(l -> l.length() == LINE - 1 && l.charAt(0) == '1')
                .forEach(l -> late.add(now - Long.parseLong(l.substring(0, l.indexOf(' ')))));
    }

    private double plainly() throws Exception {
        long begun = System.nanoTime();
        try (SshClient client = SshClient.setUpDefaultClient()) {
            client.start();
            try (ClientSession session = client.connect("bench", "127.0.0.1", machine.getPort())
                    .verify(10, TimeUnit.SECONDS)
                    .getSession()) {
                session.addPasswordIdentity("any");
                session.auth().verify(10, TimeUnit.SECONDS);
                ChannelExec channel = session.createExecChannel("talk");
                channel.open().verify(10, TimeUnit.SECONDS);
                byte[] buffer = new byte[64_000];
                StringBuilder unread = new StringBuilder();
                for (int n = channel.getInvertedOut().read(buffer);
                        n >= 0;
                        n = channel.getInvertedOut().read(buffer)) {
                    unread.append(new String(buffer, 0, n, StandardCharsets.UTF_8));
                    int whole = unread.lastIndexOf("\n") + 1;
                    heard(unread.substring(0, whole));
                    unread.delete(0, whole);
                }
            }
        }
        return (System.nanoTime() - begun) / 1e9;
    }

    private void connect() throws Exception {
        DemoApp.Signed halvard = app.signIn("halvard");
        String key = KeyUtils.getFingerPrint(
                BuiltinDigests.sha256,
                machine.getKeyPairProvider().loadKeys(null).iterator().next().getPublic());
        good(app.send(halvard, "PUT", "/api/secrets/machine", Map.of("value", "any"), null));
        good(app.send(
                halvard,
                "PUT",
                "/api/connections/machine",
                Map.of(
                        "key",
                        "machine",
                        "name",
                        "Machine",
                        "base",
                        "ssh://bench@127.0.0.1:" + machine.getPort() + "?hostkey=" + key,
                        "allowedHosts",
                        List.of(),
                        "secret",
                        "machine"),
                null));
        Map<String, Object> action = Map.ofEntries(
                Map.entry("key", "machine.talk"),
                Map.entry("name", "Talk"),
                Map.entry("description", ""),
                Map.entry("connection", "machine"),
                Map.entry("call", Map.of("method", "RUN", "path", "", "body", "[\"talk\"]")),
                Map.entry("inputs", List.of()),
                Map.entry("outputs", List.of()),
                Map.entry("results", List.of()),
                Map.entry("repeat", "free"),
                Map.entry("changesWorld", false),
                Map.entry("timeLimit", "2 min"),
                Map.entry("tries", 1),
                Map.entry("pause", "1 s"));
        good(app.send(halvard, "PUT", "/api/actions/machine.talk", Map.of("action", action), null));
    }

    private static void good(HttpResponse<String> answer) {
        if (answer.statusCode() >= 300) {
            throw new IllegalStateException(answer.body());
        }
    }

    private record OneCall(String path) {}

    /** Until every browser has all that was said. */
    private double seen(DemoApp.Signed ines) throws Exception {
        List<String> tickets = new ArrayList<>();
        for (int i = 0; i < CALLS; i++) {
            String ticket = DemoApp.parsed(app.send(
                            ines,
                            "POST",
                            "/api/tickets",
                            Map.of("kind", "incident", "fields", Map.of("title", "Talks", "requester", "mira")),
                            UUID.randomUUID().toString()))
                    .path("ticket")
                    .asText();
            tickets.add(ticket);
        }
        for (String ticket : tickets) {
            Peers.done(app.send(
                    ines,
                    "POST",
                    "/api/tickets/" + ticket + "/runs",
                    Map.of("workflow", "talking", "inputs", Map.of()),
                    UUID.randomUUID().toString()));
        }
        List<OneCall> calls = new ArrayList<>();
        for (String ticket : tickets) {
            JsonNode under = DemoApp.parsed(app.send(ines, "GET", "/api/tickets/" + ticket + "/calls", null, null))
                    .path(0);
            calls.add(new OneCall("/api/tickets/" + ticket + "/calls/"
                    + under.path("visit").asText() + "/" + under.path("attempt").asText()));
        }
        long begun = System.nanoTime();
        List<Future<?>> looking = new ArrayList<>();
        try (ExecutorService browsers = Executors.newVirtualThreadPerTaskExecutor()) {
            for (int i = 0; i < BROWSERS; i++) {
                DemoApp.Signed by = app.signIn("ines");
                looking.add(browsers.submit(() -> look(by, calls)));
            }
            for (Future<?> one : looking) {
                one.get(5, TimeUnit.MINUTES);
            }
        }
        return (System.nanoTime() - begun) / 1e9;
    }

    /** As the page of a ticket does: each second, what was said since. */
    private Void look(DemoApp.Signed by, List<OneCall> calls) throws Exception {
        int[] from = new int[calls.size()];
        long[] got = new long[calls.size()];
        long whole = (long) SECONDS * A_SECOND * LINE;
        while (Arrays.stream(got).anyMatch(g -> g < whole)) {
            long round = System.nanoTime();
            for (int i = 0; i < calls.size(); i++) {
                HttpResponse<String> answer = app.send(by, "GET", calls.get(i).path() + "?from=" + from[i], null, null);
                good(answer);
                JsonNode more = DemoApp.parsed(answer);
                from[i] = more.path("next").asInt();
                String text = more.path("text").asText();
                got[i] += text.lines()
                                .filter(l -> l.length() == LINE - 1 && l.charAt(0) == '1')
                                .count()
                        * LINE;
                heard(text);
            }
            LockSupport.parkNanos(TimeUnit.SECONDS.toNanos(1) - (System.nanoTime() - round));
        }
        return null;
    }
}
