package dastur.bench;

import dastur.bench.Bench.Worker;
import dastur.store.Database;
import java.nio.file.Files;
import java.nio.file.Path;
import java.sql.SQLException;
import java.util.ArrayList;
import java.util.List;
import java.util.concurrent.TimeUnit;
import java.util.concurrent.atomic.AtomicLong;
import org.h2.mvstore.MVStore;

/**
 * How large the file of the built-in database becomes beside the least it could be, while steps come at an even rate: what is
 * written anew leaves its old place behind, which tidying has to give back.
 */
final class FileSize {
    private static final int HANDS = 4;
    private static final int LOOKS = 12;

    private FileSize() {}

    /**
     * @param aSecond steps a second
     * @param steps how many in all
     */
    static void measure(Path folder, int aSecond, int steps) throws Exception {
        Path file = folder.resolve("dastur.mv.db");
        System.out.printf("%d steps at %d a second%n", steps, aSecond);
        long largest = 0;
        long began = System.nanoTime();
        try (Database database = Database.inFolder(folder)) {
            Steps work = new Steps(database);
            AtomicLong taken = new AtomicLong();
            List<Thread> hands = new ArrayList<>();
            for (int i = 0; i < HANDS; i++) {
                Worker worker = work.worker();
                hands.add(Thread.ofPlatform().start(() -> hand(worker, taken, began, aSecond, steps)));
            }
            for (int look = 1; look <= LOOKS; look++) {
                waitUntil(began + look * (long) (steps / (double) aSecond / LOOKS * 1e9));
                largest = Math.max(largest, Files.size(file));
                System.out.printf(
                        "after %5d s: %7d steps, file %5d MB%n",
                        (System.nanoTime() - began) / 1_000_000_000,
                        Math.min(steps, taken.get()),
                        Files.size(file) / 1_000_000);
            }
            for (Thread hand : hands) {
                hand.join();
            }
        }
        double seconds = (System.nanoTime() - began) / 1e9;
        long stopped = Files.size(file);
        MVStore.compact(file.toString(), folder.resolve("least.mv.db").toString(), false, null);
        long least = Files.size(folder.resolve("least.mv.db"));
        System.out.printf(
                "%d steps in %.0f s: largest %d MB, stopped %d MB, compacted %d MB, largest is %.1f times that; %.0f bytes a step compacted%n",
                steps,
                seconds,
                largest / 1_000_000,
                stopped / 1_000_000,
                least / 1_000_000,
                largest / (double) least,
                least / (double) steps);
    }

    /** Each step has its time; one that comes late is done at once, so the rate holds over the whole. */
    private static void hand(Worker worker, AtomicLong taken, long began, int aSecond, int steps) {
        long step;
        while ((step = taken.getAndIncrement()) < steps) {
            waitUntil(began + (long) (step * 1e9 / aSecond));
            try {
                worker.step();
            } catch (SQLException e) {
                throw new IllegalStateException(e);
            }
        }
    }

    private static void waitUntil(long nanos) {
        try {
            TimeUnit.NANOSECONDS.sleep(nanos - System.nanoTime());
        } catch (InterruptedException e) {
            Thread.currentThread().interrupt();
            throw new IllegalStateException(e);
        }
    }
}
