package dastur.store;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assumptions.assumeThat;

import java.io.BufferedReader;
import java.io.IOException;
import java.io.UncheckedIOException;
import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.nio.file.Path;
import java.nio.file.StandardCopyOption;
import java.sql.Connection;
import java.sql.DriverManager;
import java.sql.ResultSet;
import java.sql.SQLException;
import java.sql.Statement;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Random;
import java.util.concurrent.CompletableFuture;
import java.util.concurrent.ConcurrentHashMap;
import java.util.concurrent.CopyOnWriteArrayList;
import java.util.concurrent.TimeUnit;
import java.util.concurrent.atomic.AtomicLong;
import java.util.stream.IntStream;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;

/**
 * A process that writes to the real store is killed at random moments and started again on the same folder: whatever it
 * acknowledged is there, and what was written in one transaction whole. One thread writes tickets, others beside it, as in the
 * application. Between two kills it is halted every now and then and its file copied, which is what a kill at that
 * moment would have left, and the copy opened: so a few seconds try some hundred moments.
 *
 * <p>Another version of the database is tried here, with {@code -Dh2.version=…}, before it is taken; 2.5.252 fails.
 */
class KillTest {
    /** Milliseconds between small commits: what is lost, if anything, depends on how far apart they are. */
    private static final int[] PAUSES = {5, 20, 150};

    private static final int KILLS = 4;
    private static final int COPIES_A_KILL = 15;

    @TempDir
    Path folder;

    /** Each loss in words. All are counted, so that a run says how often a version loses, not only that it does. */
    private final List<String> losses = new CopyOnWriteArrayList<>();

    private final AtomicLong lost = new AtomicLong();
    private final AtomicLong kept = new AtomicLong();

    @Test
    void whatWasAcknowledgedIsThereAfterEveryKill() {
        // The server has an attack of its own, ServerKillTest.
        assumeThat(Stores.onServer()).isFalse();
        CompletableFuture.allOf(IntStream.of(PAUSES)
                        .mapToObj(pause ->
                                CompletableFuture.runAsync(() -> new Victim(pause).live(), Thread::startVirtualThread))
                        .toArray(CompletableFuture[]::new))
                .join();
        int kills = PAUSES.length * KILLS;
        System.out.printf(
                "%d kills and %d copies of halted files: %d acknowledged entries, %d of them missing, in %d cases%n",
                kills, kills * COPIES_A_KILL, kept.get(), lost.get(), losses.size());
        assertThat(losses).isEmpty();
    }

    /** One folder with the processes that write to it, one after the other. */
    private final class Victim {
        private final int pause;
        private final long seed = System.nanoTime();
        private final Random random = new Random(seed);
        private final Path data;
        /** By ticket, the last entry that was acknowledged. */
        private final Map<String, Long> acknowledged = new ConcurrentHashMap<>();

        Victim(int pause) {
            this.pause = pause;
            this.data = folder.resolve("every-" + pause);
        }

        void live() {
            try {
                Files.createDirectories(data);
                for (int kill = 1; kill <= KILLS; kill++) {
                    liveAndDie(kill);
                }
                assertThat(acknowledged).hasSize(KillTarget.TICKETS + KillTarget.WRITERS + 1);
                acknowledged.values().forEach(kept::addAndGet);
                assertNothingIsMissing(data, acknowledged, "after the last kill");
            } catch (IOException | InterruptedException | SQLException e) {
                throw new IllegalStateException(e);
            }
        }

        private void liveAndDie(int kill) throws IOException, InterruptedException, SQLException {
            Process writer = KillTest.start(data, pause);
            CompletableFuture<Void> ready = new CompletableFuture<>();
            CompletableFuture<Void> heard =
                    CompletableFuture.runAsync(() -> listen(writer, kill, ready), Thread.ofPlatform()::start);
            try {
                CompletableFuture.anyOf(ready, heard).join();
                for (int copy = 0; copy < COPIES_A_KILL && !heard.isDone(); copy++) {
                    writer.waitFor(20 + random.nextInt(180), TimeUnit.MILLISECONDS);
                    lookAtACopy(writer, "kill " + kill + ", copy " + copy);
                }
            } finally {
                // Not destroyForcibly: that closes the pipe with what was acknowledged last still in it.
                signal(writer, "KILL");
            }
            heard.join();
            assertThat(writer.waitFor(20, TimeUnit.SECONDS)).isTrue();
        }

        private void listen(Process writer, int kill, CompletableFuture<Void> ready) {
            Map<String, Long> there = new HashMap<>();
            try (BufferedReader out = writer.inputReader(StandardCharsets.UTF_8)) {
                for (String line = out.readLine(); line != null; line = out.readLine()) {
                    String[] said = line.split(" ");
                    switch (said[0]) {
                        case "there" -> there.put(said[1], Long.parseLong(said[2]));
                        case "ready" -> {
                            compare(there, acknowledged, "before life " + kill);
                            // From here on it is looked at what this life acknowledges.
                            acknowledged.putAll(there);
                            ready.complete(null);
                        }
                        case "kept" -> acknowledged.merge(said[1], Long.parseLong(said[2]), Long::max);
                        default -> throw new AssertionError(line);
                    }
                }
            } catch (IOException e) {
                throw new UncheckedIOException(e);
            }
        }

        private void lookAtACopy(Process writer, String when) throws IOException, InterruptedException, SQLException {
            Path copy = Files.createDirectories(folder.resolve("copy-" + pause));
            signal(writer, "STOP");
            // Only what was heard of before the halt must be in the copy.
            Map<String, Long> sofar = Map.copyOf(acknowledged);
            Files.copy(data.resolve(Database.FILE), copy.resolve(Database.FILE), StandardCopyOption.REPLACE_EXISTING);
            signal(writer, "CONT");
            assertNothingIsMissing(copy, sofar, when);
        }

        private void assertNothingIsMissing(Path where, Map<String, Long> expected, String when) throws SQLException {
            Map<String, Long> there = new HashMap<>();
            try (Connection connection = DriverManager.getConnection(
                            "jdbc:h2:file:" + where.toAbsolutePath().resolve("dastur"), "dastur", "");
                    Statement statement = connection.createStatement()) {
                for (String sql : List.of(
                        "select ticket, count(*) from entry group by ticket",
                        "select subject, count(*) from journal group by subject",
                        "select source, count(*) from signal group by source")) {
                    try (ResultSet rows = statement.executeQuery(sql)) {
                        while (rows.next()) {
                            there.put(rows.getString(1), rows.getLong(2));
                        }
                    }
                }
                fits(statement, when);
                dueFits(statement, when);
            }
            compare(there, expected, when);
        }

        /** What came waits to be looked at, or it did not come. */
        private void dueFits(Statement statement, String when) throws SQLException {
            try (ResultSet rows = statement.executeQuery("select count(*), (select count(*) from signal_due),"
                    + " (select count(*) from signal s join signal_due d on d.id = s.id) from signal")) {
                rows.next();
                if (rows.getLong(1) != rows.getLong(2) || rows.getLong(1) != rows.getLong(3)) {
                    losses.add("%d signals, of which %d wait and %d are found; every %d ms, %s, seed %d"
                            .formatted(rows.getLong(1), rows.getLong(2), rows.getLong(3), pause, when, seed));
                }
            }
        }

        /** What was written in one transaction is there whole or not at all, and each index leads to rows that are there. */
        private void fits(Statement statement, String when) {
            for (String rest : List.of(
                    "journal where seq >= 0",
                    "journal where at > timestamp '2000-01-01 00:00:00'",
                    "journal where subject >= ''",
                    "journal where number >= 0",
                    "log_pending where number >= 0")) {
                // A value that no index holds, so that the row itself is read.
                String of = rest.startsWith("log_pending") ? "hash" : "detail";
                try (ResultSet rows = statement.executeQuery(
                        "select count(*), count(length(" + of + ")), (select seq from journal_head) from " + rest)) {
                    rows.next();
                    long is = rows.getLong(1);
                    if (rows.getLong(2) != is || of.equals("detail") && is != rows.getLong(3)) {
                        losses.add("%s: %d rows, %d with a value, the journal ends with %d; every %d ms, %s, seed %d"
                                .formatted(rest, is, rows.getLong(2), rows.getLong(3), pause, when, seed));
                    }
                } catch (SQLException e) {
                    losses.add("%s: %s; commits every %d ms, %s, seed %d"
                            .formatted(rest, e.getMessage(), pause, when, seed));
                }
            }
        }

        private void compare(Map<String, Long> there, Map<String, Long> expected, String when) {
            expected.forEach((ticket, seq) -> {
                long missing = seq - there.getOrDefault(ticket, 0L);
                if (missing > 0) {
                    lost.addAndGet(missing);
                    losses.add("%s lacks %d entries, commits every %d ms, %s, seed %d"
                            .formatted(ticket, missing, pause, when, seed));
                }
            });
        }
    }

    private static void signal(Process process, String name) throws IOException, InterruptedException {
        Process kill = new ProcessBuilder("kill", "-" + name, String.valueOf(process.pid())).start();
        assertThat(kill.waitFor()).isZero();
    }

    private static Process start(Path data, int pause) throws IOException {
        return new ProcessBuilder(
                        Path.of(System.getProperty("java.home"), "bin", "java").toString(),
                        "-XX:TieredStopAtLevel=1",
                        "-cp",
                        System.getProperty("surefire.test.class.path", System.getProperty("java.class.path")),
                        KillTarget.class.getName(),
                        data.toString(),
                        String.valueOf(pause))
                .redirectError(ProcessBuilder.Redirect.DISCARD)
                .start();
    }
}
