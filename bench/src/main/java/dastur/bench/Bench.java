package dastur.bench;

import dastur.store.Database;
import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.sql.SQLException;
import java.util.Comparator;
import java.util.List;
import java.util.stream.Stream;

/** Runs the measurements and prints their figures; see docs/measurements.md. */
public final class Bench {
    /** The path through Hibernate is long: the compiler needs more than a minute on two cores until rates stand still. */
    private static final int WARM_UP_SECONDS = 80;

    private static final int SECONDS = 8;
    private static final int SETTLE_SECONDS = 40;

    private Bench() {}

    public static void main(String[] arguments) throws Exception {
        String which = arguments.length == 0 ? "all" : arguments[0];
        if (!List.of("all", "steps", "tickets", "design", "reading").contains(which)) {
            System.err.println("bench: steps, tickets, design, reading or all");
            System.exit(2);
        }
        if (which.equals("design") || which.equals("all")) {
            Design.measure();
        }
        if (which.equals("reading") || which.equals("all")) {
            inFolder(Reading::measure);
        }
        if (which.equals("design") || which.equals("reading")) {
            return;
        }
        // Each measurement has a database of its own: a large one from before would slow the next.
        withDatabase(database -> Rate.measure(8, WARM_UP_SECONDS, new Steps(database)::worker));
        if (!which.equals("tickets")) {
            withDatabase(database -> steps(database, new Steps(database)));
        }
        if (!which.equals("steps")) {
            withDatabase(database -> tickets(database, new Steps(database)));
        }
    }

    /** Engine steps against raw transactions, with 1 and 16 threads. */
    private static void steps(Database database, Steps steps) throws Exception {
        RawTransactions raw = new RawTransactions(database);
        Rate.measure(1, 10, raw::worker);
        Rate.measure(1, 5, steps::worker);
        System.out.println("threads | engine steps/s | raw transactions/s | ratio");
        for (int threads : new int[] {1, 16}) {
            // Interleaved, so that a slow minute of the machine hurts both.
            double rawBefore = Rate.measure(threads, SECONDS / 2, raw::worker);
            double engine = Rate.measure(threads, SECONDS, steps::worker);
            double rawAfter = Rate.measure(threads, SECONDS / 2, raw::worker);
            double rawRate = (rawBefore + rawAfter) / 2;
            System.out.printf("%7d | %14.0f | %18.0f | %.2f%n", threads, engine, rawRate, engine / rawRate);
        }
    }

    /** The same steps with 1,000 and with 100,000 tickets in the database. */
    private static void tickets(Database database, Steps steps) throws Exception {
        System.out.println("tickets | engine steps/s (1 thread) | (16 threads)");
        Filling filling = new Filling(database);
        for (int count : new int[] {1_000, 100_000}) {
            filling.fillTo(count);
            // The database tidies up its file after a bulk load; what is meant here is the state after that.
            Rate.measure(1, SETTLE_SECONDS, steps::worker);
            double one = Rate.measure(1, SECONDS, steps::worker);
            double many = Rate.measure(16, SECONDS, steps::worker);
            System.out.printf("%7d | %25.0f | %12.0f%n", count, one, many);
        }
    }

    private interface OnDatabase {
        void run(Database database) throws Exception;
    }

    private interface InFolder {
        void run(Path folder) throws Exception;
    }

    private static void withDatabase(OnDatabase work) throws Exception {
        inFolder(folder -> {
            try (Database database = Database.inFolder(folder)) {
                work.run(database);
            }
        });
    }

    private static void inFolder(InFolder work) throws Exception {
        Path folder = Files.createTempDirectory(Path.of("").toAbsolutePath().resolve("bench/target"), "data");
        try {
            work.run(folder);
        } finally {
            delete(folder);
        }
    }

    private static void delete(Path folder) throws IOException {
        try (Stream<Path> files = Files.walk(folder)) {
            for (Path file : files.sorted(Comparator.reverseOrder()).toList()) {
                Files.delete(file);
            }
        }
    }

    /** What a thread does again and again. */
    interface Worker {
        void step() throws SQLException;
    }
}
