package dastur.store;

import static org.assertj.core.api.Assertions.assertThat;

import dastur.core.people.Person;
import dastur.core.people.Role;
import dastur.core.ticket.TicketId;
import java.nio.file.Files;
import java.nio.file.Path;
import java.sql.Connection;
import java.sql.DriverManager;
import java.sql.ResultSet;
import java.sql.SQLException;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.HashMap;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Random;
import java.util.Set;
import java.util.concurrent.ArrayBlockingQueue;
import java.util.concurrent.BlockingQueue;
import java.util.concurrent.ConcurrentHashMap;
import java.util.concurrent.TimeUnit;
import java.util.concurrent.locks.LockSupport;
import java.util.stream.Stream;
import org.h2.store.fs.FilePath;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;

/**
 * The power fails (K3): of what was not forced, the disk keeps nothing, all, the beginning, the end only, any part, or the
 * last write torn. Whichever it is, the file opens, and nothing is missing that was acknowledged.
 *
 * <p>Tidying runs meanwhile, and parts out of use are overwritten after half a second in place of 45: so that there are holes
 * to write into.
 */
class PowerFailureTest {
    private static final int MOMENTS = 120;
    private static final int TICKETS = 3;

    @TempDir
    Path folder;

    private record Failure(LossyPath.Moment moment, Map<String, Long> acknowledged) {}

    @Test
    void whateverTheDiskKeepsNothingAcknowledgedIsMissing() throws Exception {
        FilePath.register(new LossyPath());
        long seed = System.nanoTime();
        Random random = new Random(seed);
        Map<String, Long> acknowledged = new ConcurrentHashMap<>();
        BlockingQueue<Failure> failures = new ArrayBlockingQueue<>(4);
        LossyPath.watch(
                "retry:" + folder.toAbsolutePath().resolve(Database.FILE).toString(), moment -> {
                    // Those where something is pending beside the last write are few and matter most.
                    if (!acknowledged.isEmpty() && (moment.pending().size() > 1 || random.nextInt(3) == 0)) {
                        failures.offer(new Failure(moment, Map.copyOf(acknowledged)));
                    }
                });
        List<String> losses = new ArrayList<>();
        int looked = 0;
        try (Database database =
                Database.through(PartFiles.ORDERED + ":" + LossyPath.SCHEME, folder, Durability.POWER)) {
            Thread writer = Thread.startVirtualThread(() -> write(database, acknowledged));
            for (int moment = 0; moment < MOMENTS; moment++) {
                Failure failure = failures.poll(30, TimeUnit.SECONDS);
                assertThat(failure).as("something is written").isNotNull();
                for (Map.Entry<String, byte[]> way :
                        ways(failure.moment(), random).entrySet()) {
                    looked++;
                    missing(way.getValue(), failure.acknowledged())
                            .ifPresent(what -> losses.add(way.getKey() + ": " + what + ", seed " + seed));
                }
            }
            writer.interrupt();
            writer.join();
        }
        System.out.printf("%d moments, %d disks after a power failure, %d losses%n", MOMENTS, looked, losses.size());
        assertThat(losses).isEmpty();
    }

    private static void write(Database database, Map<String, Long> acknowledged) {
        new Organisation(database)
                .putPerson(
                        new Person(KillTarget.ADA, "Ada Brandvold", "ada@kestrel.example", Set.of(Role.AGENT), true),
                        null);
        database.run(session ->
                session.createNativeMutationQuery("set retention_time 500").executeUpdate());
        Cases cases = new Cases(database, () -> new byte[32]);
        for (int i = 0; !Thread.currentThread().isInterrupted(); i++) {
            TicketId ticket = new TicketId("I-" + (1 + i % TICKETS));
            acknowledged.put(ticket.value(), KillTarget.write(cases, ticket));
            LockSupport.parkNanos(TimeUnit.MILLISECONDS.toNanos(i % 40));
        }
    }

    /** What the disk may hold, by how it came to that; the same only once. */
    private static Map<String, byte[]> ways(LossyPath.Moment m, Random random) {
        List<LossyPath.Pending> p = m.pending();
        Map<String, List<LossyPath.Pending>> kept = new LinkedHashMap<>();
        kept.put("nothing", List.of());
        kept.put("all", p);
        kept.put("a beginning", p.subList(0, random.nextInt(p.size() + 1)));
        kept.put("only the last", p.subList(p.size() - 1, p.size()));
        kept.put("any part", p.stream().filter(x -> random.nextBoolean()).toList());
        kept.put("torn at 4096", torn(p, 4096, random));
        kept.put("torn at 512", torn(p, 512, random));
        Map<String, byte[]> disks = new LinkedHashMap<>();
        kept.forEach((way, writes) -> {
            byte[] disk = m.with(writes);
            if (disks.values().stream().noneMatch(d -> Arrays.equals(d, disk))) {
                disks.put(way, disk);
            }
        });
        return disks;
    }

    /** Of the last write, some sectors. */
    private static List<LossyPath.Pending> torn(List<LossyPath.Pending> pending, int sector, Random random) {
        LossyPath.Pending last = pending.getLast();
        List<LossyPath.Pending> kept = new ArrayList<>(pending.subList(0, pending.size() - 1));
        for (int at = 0; last.bytes() != null && at < last.bytes().length; at += sector) {
            if (random.nextBoolean()) {
                int until = Math.min(at + sector, last.bytes().length);
                kept.add(new LossyPath.Pending(last.position() + at, Arrays.copyOfRange(last.bytes(), at, until)));
            }
        }
        return kept;
    }

    private java.util.Optional<String> missing(byte[] disk, Map<String, Long> acknowledged) throws Exception {
        Path after = Files.createDirectories(folder.resolve("after"));
        try (Stream<Path> old = Files.list(after)) {
            for (Path file : old.toList()) {
                Files.delete(file);
            }
        }
        Files.write(after.resolve(Database.FILE), disk);
        Map<String, Long> there = new HashMap<>();
        try (Connection connection =
                        DriverManager.getConnection("jdbc:h2:file:" + after.resolve("dastur"), "dastur", "");
                ResultSet rows = connection
                        .createStatement()
                        .executeQuery("select ticket, count(*) from entry group by ticket")) {
            while (rows.next()) {
                there.put(rows.getString(1), rows.getLong(2));
            }
        } catch (SQLException e) {
            return java.util.Optional.of("the file does not open: " + e.getMessage());
        }
        return acknowledged.entrySet().stream()
                .filter(a -> there.getOrDefault(a.getKey(), 0L) < a.getValue())
                .map(a -> a.getKey() + " has " + there.get(a.getKey()) + " of " + a.getValue() + " entries")
                .findFirst();
    }
}
