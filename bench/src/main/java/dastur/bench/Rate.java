package dastur.bench;

import dastur.bench.Bench.Worker;
import java.util.ArrayList;
import java.util.List;
import java.util.concurrent.ExecutionException;
import java.util.concurrent.ExecutorService;
import java.util.concurrent.Executors;
import java.util.concurrent.Future;
import java.util.function.Supplier;

/** How many steps a second threads get done together. */
final class Rate {
    private Rate() {}

    static double measure(int threads, int seconds, Supplier<Worker> workers)
            throws InterruptedException, ExecutionException {
        List<Worker> made = new ArrayList<>();
        for (int i = 0; i < threads; i++) {
            made.add(workers.get());
        }
        long start = System.nanoTime();
        long end = start + seconds * 1_000_000_000L;
        long done = 0;
        try (ExecutorService pool = Executors.newFixedThreadPool(threads)) {
            List<Future<Long>> counts = new ArrayList<>();
            for (Worker worker : made) {
                counts.add(pool.submit(() -> {
                    long count = 0;
                    while (System.nanoTime() < end) {
                        worker.step();
                        count++;
                    }
                    return count;
                }));
            }
            for (Future<Long> count : counts) {
                done += count.get();
            }
        }
        return done / ((System.nanoTime() - start) / 1e9);
    }
}
