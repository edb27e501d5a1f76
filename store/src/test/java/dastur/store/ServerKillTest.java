package dastur.store;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assumptions.assumeThat;

import dastur.core.record.Entry;
import dastur.core.record.Mac;
import dastur.core.record.Seal;
import dastur.core.ticket.TicketId;
import java.io.BufferedReader;
import java.io.IOException;
import java.io.UncheckedIOException;
import java.nio.charset.StandardCharsets;
import java.nio.file.Path;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.Random;
import java.util.concurrent.CompletableFuture;
import java.util.concurrent.ConcurrentHashMap;
import java.util.concurrent.TimeUnit;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;

/**
 * Two nodes write to the same three tickets on one server. Now one of them is killed, now the server: whatever any of them
 * acknowledged is there, once, in one unbroken record (K7, K8).
 */
class ServerKillTest {
    private static final int KILLS = 8;

    private final long seed = System.nanoTime();
    private final Random random = new Random(seed);
    /** By ticket, the last entry that some node acknowledged. */
    private final Map<String, Long> acknowledged = new ConcurrentHashMap<>();

    @BeforeEach
    void once() {
        assumeThat(Stores.onServer()).isTrue();
    }

    @Test
    void whatAnyNodeAcknowledgedIsThereWhoeverIsKilled() throws Exception {
        try (PgServer server = new PgServer(List.of())) {
            Database.Server database = server.database();
            Database.onServer(database, Mac.NONE).close();
            List<Node> nodes = new ArrayList<>(List.of(new Node(database), new Node(database)));
            for (int kill = 0; kill < KILLS; kill++) {
                long before = sum();
                nodes.forEach(Node::untilItWrites);
                nodes.getFirst().process.waitFor(200 + random.nextInt(600), TimeUnit.MILLISECONDS);
                if (kill % 2 == 0) {
                    nodes.remove(random.nextInt(2)).kill();
                    nodes.add(new Node(database));
                } else {
                    server.kill();
                    server.start();
                }
                assertThat(sum())
                        .as("something was written before kill %d", kill)
                        .isGreaterThan(before);
            }
            nodes.forEach(Node::untilItWrites);
            nodes.forEach(Node::kill);
            assertAllIsThere(database);
        }
    }

    private long sum() {
        return acknowledged.values().stream().mapToLong(Long::longValue).sum();
    }

    private void assertAllIsThere(Database.Server server) {
        assertThat(acknowledged).hasSize(KillTarget.TICKETS + KillTarget.WRITERS);
        try (Database database = Database.onServer(server, Mac.NONE)) {
            acknowledged.forEach((ticket, seq) -> {
                if (ticket.startsWith("writer-")) {
                    assertThat(KillTarget.lines(database, ticket)).as(ticket).isGreaterThanOrEqualTo(seq);
                    return;
                }
                List<Entry> record = database.read(session -> Records.read(session, new TicketId(ticket), 0));
                assertThat((long) record.size()).as("%s, seed %d", ticket, seed).isGreaterThanOrEqualTo(seq);
                assertThat(Seal.check(record)).isEmpty();
            });
            System.out.printf("%d kills of nodes and server: %d acknowledged entries, none missing%n", KILLS, sum());
            RecordLog log = new RecordLog(database, Signers.fresh());
            log.catchUp();
            assertThat(new Audit(database, log).run(done -> {}).findings()).isEmpty();
        }
    }

    private final class Node {
        private final Process process;
        private CompletableFuture<Void> wrote = new CompletableFuture<>();

        Node(Database.Server server) throws IOException {
            process = new ProcessBuilder(
                            Path.of(System.getProperty("java.home"), "bin", "java")
                                    .toString(),
                            "-XX:TieredStopAtLevel=1",
                            "-cp",
                            System.getProperty("surefire.test.class.path", System.getProperty("java.class.path")),
                            KillTarget.class.getName(),
                            server.url(),
                            "1",
                            server.user(),
                            server.password())
                    .redirectError(ProcessBuilder.Redirect.DISCARD)
                    .start();
            Thread.ofPlatform().daemon().start(this::listen);
        }

        private void listen() {
            try (BufferedReader out = process.inputReader(StandardCharsets.UTF_8)) {
                for (String line = out.readLine(); line != null; line = out.readLine()) {
                    String[] said = line.split(" ");
                    if (said[0].equals("kept")) {
                        acknowledged.merge(said[1], Long.parseLong(said[2]), Long::max);
                        next().complete(null);
                    }
                }
            } catch (IOException e) {
                throw new UncheckedIOException(e);
            }
        }

        private synchronized CompletableFuture<Void> next() {
            return wrote;
        }

        /** Until it has acknowledged something from now on. */
        void untilItWrites() {
            synchronized (this) {
                wrote = new CompletableFuture<>();
            }
            next().orTimeout(60, TimeUnit.SECONDS).join();
        }

        void kill() {
            process.destroyForcibly();
            process.onExit().join();
        }
    }
}
