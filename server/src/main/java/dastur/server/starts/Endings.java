package dastur.server.starts;

import dastur.core.record.Seal;
import dastur.core.run.Event;
import dastur.core.run.Recorded;
import dastur.core.run.RunId;
import dastur.core.ticket.TicketId;
import dastur.store.Records;
import java.time.Duration;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.concurrent.ConcurrentHashMap;
import java.util.concurrent.CountDownLatch;
import java.util.concurrent.Semaphore;
import java.util.concurrent.TimeUnit;

/** How what was started on tickets of their own has ended, for callers who wait for it (I9). */
public final class Endings {
    /** So many callers may wait at a time; further ones are told at once that it goes on. */
    private static final int MOST_WAITING = 200;

    /** @param result the run's @param results what it gives */
    public record Ended(String result, Map<String, Object> results) {}

    private final Records records;
    private final Semaphore places = new Semaphore(MOST_WAITING);
    private final Map<TicketId, CountDownLatch> waiting = new ConcurrentHashMap<>();

    public Endings(Records records) {
        this.records = records;
    }

    /** Hears of what was committed. */
    public void committed(TicketId ticket, List<Recorded> events) {
        CountDownLatch waits = waiting.get(ticket);
        if (waits != null && events.stream().anyMatch(r -> r.event() instanceof Event.RunEnded)) {
            waits.countDown();
        }
    }

    /** How the first run of a ticket has ended; empty while it has not. */
    public Optional<Ended> of(TicketId ticket) {
        RunId first = RunId.of(ticket, 1);
        return records.of(ticket).stream()
                .map(Seal::open)
                .filter(r -> first.equals(r.run()))
                .map(Recorded::event)
                .filter(Event.RunEnded.class::isInstance)
                .map(Event.RunEnded.class::cast)
                .findFirst()
                .map(e ->
                        new Ended(e.stopped() ? "stopped" : e.result(), e.results() == null ? Map.of() : e.results()));
    }

    /** The same, waiting for it. What ends on another node is seen when the time is over. */
    public Optional<Ended> within(TicketId ticket, Duration atMost) {
        if (!places.tryAcquire()) {
            return of(ticket);
        }
        CountDownLatch end = waiting.computeIfAbsent(ticket, t -> new CountDownLatch(1));
        try {
            Optional<Ended> already = of(ticket);
            if (already.isPresent()) {
                return already;
            }
            end.await(atMost.toMillis(), TimeUnit.MILLISECONDS);
            return of(ticket);
        } catch (InterruptedException e) {
            Thread.currentThread().interrupt();
            return Optional.empty();
        } finally {
            waiting.remove(ticket, end);
            places.release();
        }
    }
}
