package dastur.bench;

import dastur.core.record.Mac;
import dastur.server.StormOnTwoNodes;
import dastur.store.Database;
import dastur.store.PgServer;
import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.sql.SQLException;
import java.util.ArrayList;
import java.util.Comparator;
import java.util.List;
import java.util.function.ToDoubleFunction;
import java.util.stream.Stream;

/** Runs the measurements and prints their figures; see docs/measurements.md. */
public final class Bench {
    /** The path through Hibernate is long: the compiler needs more than a minute on two cores until rates stand still. */
    private static final int WARM_UP_SECONDS = 80;

    private static final int ROUNDS = 11;
    private static final int SETTLE_SECONDS = 40;

    /** Whether it is measured on a PostgreSQL server, started for it, in place of the built-in database. */
    private static boolean onServer;

    /** Whether the server then says where its time went. */
    private static boolean profiled;

    private Bench() {}

    public static void main(String[] arguments) throws Exception {
        String which = arguments.length == 0 ? "all" : arguments[0];
        onServer = List.of(arguments).contains("postgresql");
        profiled = List.of(arguments).contains("profile");
        if (!List.of(
                        "all",
                        "steps",
                        "tickets",
                        "design",
                        "reading",
                        "crash",
                        "file",
                        "peers",
                        "signals",
                        "signals-nodes",
                        "triggers",
                        "calls",
                        "at-once",
                        "logs",
                        "choices",
                        "browsers")
                .contains(which)) {
            System.err.println(
                    "bench: steps, tickets, design, reading, crash, file, peers, signals, signals-nodes, triggers, calls, at-once, logs, choices, browsers or all");
            System.exit(2);
        }
        if (which.equals("design") || which.equals("all")) {
            Design.measure();
        }
        if (which.equals("reading") || which.equals("all")) {
            inFolder(Reading::measure);
        }
        if (which.equals("choices")) {
            inFolder(Reading::choices);
        }
        if (which.equals("browsers")) {
            inFolder(Browsers::measure);
        }
        if (which.equals("triggers")) {
            ManyTriggers.measure();
        }
        if (which.equals("crash")) {
            int kills = arguments.length > 1 ? Integer.parseInt(arguments[1]) : Crash.KILLS;
            inFolder(folder -> Crash.measure(folder, kills));
        }
        if (which.equals("file")) {
            int aSecond = arguments.length > 1 ? Integer.parseInt(arguments[1]) : 100;
            int steps = arguments.length > 2 ? Integer.parseInt(arguments[2]) : aSecond * 3_600;
            inFolder(folder -> FileSize.measure(folder, aSecond, steps));
        }
        if (which.equals("peers")) {
            int seconds = arguments.length > 1 ? Integer.parseInt(arguments[1]) : 600;
            inFolder(folder -> Peers.measure(folder, seconds));
        }
        if (which.equals("signals")) {
            int seconds = arguments.length > 1 ? Integer.parseInt(arguments[1]) : 60;
            int rate = arguments.length > 2 ? Integer.parseInt(arguments[2]) : 2_000;
            inFolder(folder -> Storm.measure(folder, seconds, rate));
        }
        if (which.equals("signals-nodes")) {
            int seconds = arguments.length > 1 ? Integer.parseInt(arguments[1]) : 60;
            int rate = arguments.length > 2 ? Integer.parseInt(arguments[2]) : 2_000;
            inFolder(folder -> onTwoNodes(folder, seconds, rate));
        }
        if (which.equals("calls")) {
            int count = arguments.length > 1 ? Integer.parseInt(arguments[1]) : 200;
            inFolder(folder -> Calls.measure(folder, count));
        }
        if (which.equals("logs")) {
            int browsers = arguments.length > 1 ? Integer.parseInt(arguments[1]) : 20;
            inFolder(folder -> Logs.measure(folder, browsers));
        }
        if (which.equals("at-once")) {
            int count = arguments.length > 1 ? Integer.parseInt(arguments[1]) : 200;
            inFolder(folder -> AtOnce.measure(folder, count));
        }
        if (List.of(
                        "design",
                        "reading",
                        "crash",
                        "file",
                        "peers",
                        "signals",
                        "signals-nodes",
                        "triggers",
                        "calls",
                        "at-once",
                        "logs",
                        "choices",
                        "browsers")
                .contains(which)) {
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

    /** A storm at two nodes on one PostgreSQL server, each of which is killed once (I8). */
    private static void onTwoNodes(Path folder, int seconds, int rate) throws Exception {
        try (StormOnTwoNodes storm = new StormOnTwoNodes(folder)) {
            StormOnTwoNodes.Outcome of = storm.run(seconds * rate, 40, 50, rate);
            System.out.printf(
                    "%d signals in %.0f s (%.0f a second), each node killed once; %d posts were sent again%n",
                    of.acknowledged(), of.seconds(), of.acknowledged() / of.seconds(), of.again());
            System.out.printf(
                    "counted by their matters %d, %.1f s after the last was sent; %d matters, %d tickets about them%n",
                    of.counted(), of.settled(), of.matters(), of.tickets().size());
        }
    }

    /** Engine steps against raw transactions, with 1 and 16 threads. */
    private static void steps(Database database, Steps steps) throws Exception {
        RawTransactions raw = new RawTransactions(database);
        Rate.measure(1, 10, raw::worker);
        Rate.measure(1, 5, steps::worker);
        System.out.println("threads | engine steps/s | raw transactions/s | ratio");
        for (int threads : new int[] {1, 16}) {
            long[] before = database.written();
            long[] syncsBefore = database.synced();
            Rates rates = beside(threads, raw, steps);
            long[] after = database.written();
            long[] syncs = database.synced();
            System.out.printf(
                    "%7d | %14.0f | %18.0f | %.2f; %.1f changes a group, %.2f ms a sync%n",
                    threads,
                    rates.engine(),
                    rates.raw(),
                    rates.ratio(),
                    (after[1] - before[1]) / (double) Math.max(1, after[0] - before[0]),
                    (syncs[1] - syncsBefore[1]) / 1e6 / Math.max(1, syncs[0] - syncsBefore[0]));
        }
    }

    /** The same with 1,000 and with 100,000 tickets in the database. */
    private static void tickets(Database database, Steps steps) throws Exception {
        System.out.println("tickets | threads | engine steps/s | raw transactions/s | ratio");
        RawTransactions raw = new RawTransactions(database);
        Filling filling = new Filling(database);
        for (int count : new int[] {1_000, 100_000}) {
            filling.fillTo(count);
            // The database tidies up its file after a bulk load; what is meant here is the state after that.
            Rate.measure(1, SETTLE_SECONDS, steps::worker);
            for (int threads : new int[] {1, 16}) {
                Rates rates = beside(threads, raw, steps);
                System.out.printf(
                        "%7d | %7d | %14.0f | %18.0f | %.2f%n",
                        count, threads, rates.engine(), rates.raw(), rates.ratio());
            }
        }
    }

    private record Rates(double engine, double raw, double ratio) {}

    /** Medians of many short rounds, each with raw transactions before and after: a slow moment of the machine hurts both. */
    private static Rates beside(int threads, RawTransactions raw, Steps steps) throws Exception {
        List<Rates> rounds = new ArrayList<>();
        for (int round = 0; round < ROUNDS; round++) {
            double before = Rate.measure(threads, 1, raw::worker);
            double engine = Rate.measure(threads, 2, steps::worker);
            double plain = (before + Rate.measure(threads, 1, raw::worker)) / 2;
            rounds.add(new Rates(engine, plain, engine / plain));
        }
        return new Rates(median(rounds, Rates::engine), median(rounds, Rates::raw), median(rounds, Rates::ratio));
    }

    private static double median(List<Rates> rounds, ToDoubleFunction<Rates> of) {
        return rounds.stream().mapToDouble(of).sorted().toArray()[ROUNDS / 2];
    }

    private interface OnDatabase {
        void run(Database database) throws Exception;
    }

    private interface InFolder {
        void run(Path folder) throws Exception;
    }

    private static void withDatabase(OnDatabase work) throws Exception {
        if (onServer) {
            try (PgServer server =
                    new PgServer(profiled ? List.of("shared_preload_libraries=pg_stat_statements") : List.of())) {
                Database.Server own = server.database();
                try (Database database = Database.onServer(own, Mac.NONE)) {
                    if (profiled) {
                        Statements.begin(own);
                    }
                    work.run(database);
                    if (profiled) {
                        Statements.print(own);
                    }
                }
            }
            return;
        }
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
