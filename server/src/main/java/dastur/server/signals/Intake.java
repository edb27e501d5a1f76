package dastur.server.signals;

import dastur.core.signal.Silence;
import dastur.core.signal.SourceKey;
import dastur.server.auth.Secrets;
import dastur.store.Busy;
import dastur.store.Incoming;
import dastur.store.Incoming.Arrival;
import dastur.store.Incoming.Fate;
import java.time.Instant;
import java.util.ArrayList;
import java.util.HexFormat;
import java.util.List;
import java.util.concurrent.CompletableFuture;
import java.util.concurrent.CompletionException;
import java.util.concurrent.LinkedBlockingQueue;
import java.util.concurrent.Semaphore;
import java.util.concurrent.TimeUnit;
import java.util.function.Consumer;
import org.jspecify.annotations.Nullable;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;

/** Keeps what comes: all that waits, up to {@value #TOGETHER} events, in one transaction (I1, K2). */
public final class Intake implements AutoCloseable {
    private static final Logger LOG = LoggerFactory.getLogger(Intake.class);
    private static final int TOGETHER = 200;
    /** So many events may wait to be written. */
    private static final int WAITING = 20_000;

    /** So many bytes may wait to be written. */
    private static final int WAITING_BYTES = 64 << 20;

    /** So many events may wait to be routed: beyond, senders do better to keep them than we. */
    static final int UNROUTED = 200_000;

    private static final int ENDS_WITHIN_SECONDS = 10;

    private record Waiting(List<Arrival> arrivals, CompletableFuture<List<Fate>> fates) {}

    private final Incoming incoming;
    private final Consumer<Integer> kept;
    private final LinkedBlockingQueue<Waiting> queue = new LinkedBlockingQueue<>();
    private final Semaphore places = new Semaphore(WAITING);
    private final Semaphore bytes = new Semaphore(WAITING_BYTES);
    private final Thread thread;
    private volatile boolean closed;
    private volatile boolean full;
    private long lastMillis;
    private int inMillis;

    /** @param kept hears how many were kept, after they were */
    public Intake(Incoming incoming, Consumer<Integer> kept) {
        this.incoming = incoming;
        this.kept = kept;
        this.thread = Thread.ofPlatform().daemon().name("dastur-intake").start(this::run);
    }

    /** An id for what came now: ids stand in the order of receipt, and no two nodes give the same. */
    synchronized String newId(Instant now) {
        long millis = Math.max(now.toEpochMilli(), lastMillis);
        inMillis = millis == lastMillis ? inMillis + 1 : 0;
        lastMillis = millis;
        String random = HexFormat.of().formatHex(Secrets.randomBytes(), 0, 4);
        return Incoming.idOf(Instant.ofEpochMilli(millis)) + String.format("%06x", inMillis) + random;
    }

    /** Keeps what comes from inside, such as what a watch saw; ends when it is on the disk. */
    public void keep(SourceKey source, Instant now, String delivery, String raw) {
        keep(List.of(arrival(source, now, delivery, "{}", raw)));
    }

    /** Keeps that nothing comes from a source, or that something does again. */
    void keep(SourceKey source, Instant now, Silence.Said said) {
        keep(List.of(arrival(source, now, said.delivery(), Silence.HEADERS, said.body())));
    }

    /** One event. @param delivery what it is known again by; null for nothing */
    Arrival arrival(SourceKey source, Instant now, @Nullable String delivery, String headers, String raw) {
        return new Arrival(
                newId(now),
                source,
                now,
                delivery == null ? null : Secrets.hashToken(delivery),
                Secrets.hashToken(raw),
                headers,
                raw);
    }

    /**
     * Keeps what came with one request, and ends when it is on the disk.
     *
     * @throws Busy when too much waits already, to be written or to be routed: whoever sends keeps it and tries again
     */
    List<Fate> keep(List<Arrival> arrivals) {
        int size = arrivals.stream().mapToInt(a -> a.raw().length()).sum();
        if (closed || full || !places.tryAcquire(arrivals.size())) {
            throw new Busy();
        }
        if (!bytes.tryAcquire(size)) {
            places.release(arrivals.size());
            throw new Busy();
        }
        Waiting waiting = new Waiting(arrivals, new CompletableFuture<>());
        queue.add(waiting);
        try {
            return waiting.fates().join();
        } catch (CompletionException e) {
            throw e.getCause() instanceof RuntimeException cause ? cause : new IllegalStateException(e.getCause());
        } finally {
            places.release(arrivals.size());
            bytes.release(size);
        }
    }

    /** For how many more bytes there is room. */
    int bytesFree() {
        return bytes.availablePermits();
    }

    /** Says how many wait to be routed; while these are too many, nothing more is taken. */
    void unrouted(long count) {
        boolean now = count >= UNROUTED;
        if (now != full) {
            LOG.warn(
                    now ? "{} signals wait to be routed: no more are taken" : "signals are taken again; {} wait",
                    count);
        }
        full = now;
    }

    private void run() {
        while (!closed || !queue.isEmpty()) {
            try {
                Waiting first = queue.poll(100, TimeUnit.MILLISECONDS);
                if (first != null) {
                    write(group(first));
                }
            } catch (InterruptedException e) {
                closed = true;
            }
        }
    }

    private List<Waiting> group(Waiting first) {
        List<Waiting> group = new ArrayList<>(List.of(first));
        int events = first.arrivals().size();
        for (Waiting next = queue.peek();
                next != null && events + next.arrivals().size() <= TOGETHER;
                next = queue.peek()) {
            group.add(queue.remove());
            events += next.arrivals().size();
        }
        return group;
    }

    private void write(List<Waiting> group) {
        try {
            List<Arrival> all =
                    group.stream().flatMap(w -> w.arrivals().stream()).toList();
            List<Fate> fates = incoming.keep(all);
            int at = 0;
            for (Waiting w : group) {
                w.fates().complete(fates.subList(at, at + w.arrivals().size()));
                at += w.arrivals().size();
            }
            kept.accept(all.size());
        } catch (RuntimeException e) {
            if (group.size() > 1) {
                // One of them hurt the others, such as a delivery that another node has just kept.
                LOG.info("what came is kept one by one, since together it could not be", e);
                group.forEach(w -> write(List.of(w)));
            } else {
                group.getFirst().fates().completeExceptionally(e);
            }
        }
    }

    /** Keeps what waits, and takes nothing more. */
    @Override
    public void close() {
        closed = true;
        try {
            thread.join(TimeUnit.SECONDS.toMillis(ENDS_WITHIN_SECONDS));
        } catch (InterruptedException e) {
            Thread.currentThread().interrupt();
        }
    }
}
