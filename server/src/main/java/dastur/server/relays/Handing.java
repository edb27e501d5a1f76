package dastur.server.relays;

import dastur.connectors.Connector;
import dastur.connectors.relay.WorkDone;
import dastur.core.json.Json;
import dastur.core.run.Event;
import dastur.core.step.calling.CallingCommands.CallOutcome;
import dastur.core.workflow.Action;
import dastur.core.workflow.Connection;
import dastur.core.workflow.ZoneKey;
import dastur.store.RelayWork;
import dastur.store.RelayWork.Row;
import java.time.Duration;
import java.util.Map;
import java.util.UUID;
import java.util.concurrent.ConcurrentHashMap;
import java.util.concurrent.Semaphore;
import java.util.concurrent.TimeUnit;
import org.jspecify.annotations.Nullable;

/**
 * Hands calls over to relays where their connection is in a zone, and waits for what becomes of them. What is handed over is kept
 * first: a call that is made again after the application was killed goes on where it was, and nothing is done twice.
 */
public final class Handing implements Connector {
    /** Another node of the application may hear of it: looked up from time to time too. */
    private static final Duration LOOKS_EVERY = Duration.ofSeconds(1);

    private static final Duration FORGETS_EVERY = Duration.ofHours(1);
    private static final Duration OUT_OF_SIGHT = Duration.ofMinutes(15);

    private final Connector direct;
    private final RelayWork work;
    private final Map<String, Waiting> waiting = new ConcurrentHashMap<>();
    private volatile long forgot = System.nanoTime() - FORGETS_EVERY.toNanos();
    private final Map<ZoneKey, Semaphore> asking = new ConcurrentHashMap<>();

    /** Somebody waits for a call. */
    private record Waiting(Semaphore wake, Heartbeat heartbeat) {}

    /** @param direct makes the calls that no relay is needed for */
    public Handing(Connector direct, RelayWork work) {
        this.direct = direct;
        this.work = work;
    }

    /** Has a permit whenever there is something for a relay of a zone to do, as far as this node knows. */
    Semaphore forRelaysOf(ZoneKey zone) {
        return asking.computeIfAbsent(zone, z -> new Semaphore(0));
    }

    /** Has all that wait for something to do look again. */
    void wakeRelays() {
        asking.values().forEach(s -> s.release(1_000));
    }

    @Override
    public CallOutcome call(Event.Call call, Connection connection, @Nullable String secret, Heartbeat heartbeat)
            throws Abandoned {
        if (connection.inZone().isEmpty()) {
            return direct.call(call, connection, secret, heartbeat);
        }
        Connection.InZone there = connection.inZone().get();
        Known known = heartbeat.known() == null
                ? new Known("once." + UUID.randomUUID(), null, Action.Repeat.FREE)
                : heartbeat.known();
        forget();
        work.keep(new RelayWork.Call(
                known.id(),
                there.zone(),
                there.name(),
                Json.write(call),
                known.repeat().word(),
                known.of() == null ? null : Json.write(known.of())));
        forRelaysOf(there.zone()).release();
        Waiting own = new Waiting(new Semaphore(0), heartbeat);
        waiting.put(known.id(), own);
        try {
            return await(known.id(), Duration.ofSeconds(call.limitSeconds()), own);
        } catch (InterruptedException e) {
            Thread.currentThread().interrupt();
            throw new Abandoned();
        } finally {
            waiting.remove(known.id(), own);
        }
    }

    private void forget() {
        long now = System.nanoTime();
        if (now - forgot > FORGETS_EVERY.toNanos()) {
            forgot = now;
            work.forget();
        }
    }

    private CallOutcome await(String id, Duration limit, Waiting own) throws InterruptedException, Abandoned {
        long begun = System.nanoTime();
        Duration atMost = limit.compareTo(OUT_OF_SIGHT) > 0 ? limit : OUT_OF_SIGHT;
        while (true) {
            Row row = work.find(id).orElseThrow(() -> new IllegalStateException("work " + id + " is gone"));
            Duration waited = Duration.ofNanos(System.nanoTime() - begun);
            switch (row.standing()) {
                case DONE -> {
                    // Told here, not where it came in: that may have been at another node, or before this one began.
                    WorkDone done = Json.read(String.valueOf(row.done()), WorkDone.class);
                    if (done.answer() != null) {
                        own.heartbeat().answered(done.answer());
                    }
                    return done.outcome();
                }
                case BACK -> {
                    return new CallOutcome.Failed("It was taken back before a relay had begun it.");
                }
                case LEFT -> {
                    return outOfSight();
                }
                case WAITS -> {
                    boolean over = waited.compareTo(limit) > 0;
                    if ((over || own.heartbeat().cancelled()) && work.takeBack(id)) {
                        return new CallOutcome.Failed(
                                over
                                        ? "No relay of the zone was there to take it within its time limit. Nothing was sent."
                                        : "It was cancelled before a relay had begun it.");
                    }
                }
                case GIVEN -> {
                    if (own.heartbeat().cancelled() && !row.cancelled()) {
                        work.takeBack(id);
                    }
                    if (!row.inSight()) {
                        if (waited.compareTo(atMost) > 0 && work.leave(id)) {
                            return outOfSight();
                        }
                        if (work.again(id)) {
                            forRelaysOf(row.call().zone()).release();
                        }
                    }
                }
            }
            own.wake().tryAcquire(LOOKS_EVERY.toMillis(), TimeUnit.MILLISECONDS);
            own.wake().drainPermits();
            if (!own.heartbeat().stillMine()) {
                throw new Abandoned();
            }
        }
    }

    private static CallOutcome outOfSight() {
        return new CallOutcome.Unknown(
                "The relay that had it has been out of sight since: nobody knows whether it was done. What it says later still counts.");
    }

    /** Whether somebody here waits for it; has them look that it is over. */
    boolean over(String id) {
        Waiting own = waiting.get(id);
        if (own != null) {
            own.wake().release();
        }
        return own != null;
    }

    /** A call says something; told where somebody here waits for it. */
    void heard(String id, String text) {
        Waiting own = waiting.get(id);
        if (own != null) {
            own.heartbeat().heard(text);
        }
    }
}
