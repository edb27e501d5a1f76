package dastur.server.work;

import dastur.core.step.calling.CallingCommands.CallOutcome;
import dastur.store.ByHand;
import java.time.Duration;
import java.time.Instant;
import java.time.InstantSource;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.TreeMap;
import java.util.concurrent.ConcurrentHashMap;
import java.util.function.Supplier;
import org.jspecify.annotations.Nullable;

/**
 * The breakers of all connections, as far as this node's calls tell, and what people said of them, which counts for all nodes.
 * Calls that wait are only not begun: what becomes of them when their time is over, their tickets decide.
 */
public final class Breakers {
    private static final Duration READ_EVERY = Duration.ofSeconds(1);

    private final Supplier<Map<String, ByHand>> read;
    private final InstantSource clock;
    private final Map<String, Breaker> breakers = new ConcurrentHashMap<>();
    private volatile Map<String, ByHand> byHand = Map.of();
    private volatile long readAtNanos;
    private volatile boolean everRead;

    /**
     * Since when calls wait.
     *
     * @param until when the next goes out as a probe; null where they wait for a person to let them out
     * @param byHand whether a person holds them back; null for nobody
     */
    public record Held(
            Instant since,
            @Nullable Instant until,
            @Nullable ByHand byHand) {}

    /** @param byHand what people said of connections, by their keys */
    public Breakers(Supplier<Map<String, ByHand>> byHand, InstantSource clock) {
        this.read = byHand;
        this.clock = clock;
    }

    /** What is held back, by connection. */
    public Map<String, Held> held() {
        Map<String, Held> held = new TreeMap<>();
        breakers.forEach((peer, breaker) -> {
            Breaker.Open open = current(peer, breaker).open();
            if (open != null) {
                held.put(peer, new Held(open.since(), open.until(), null));
            }
        });
        said().forEach((peer, hand) -> {
            if (hand.held()) {
                held.put(peer, new Held(hand.at(), null, hand));
            }
        });
        return held;
    }

    /** The connections whose calls wait now, also those where one is about to probe. */
    List<String> waiting() {
        return List.copyOf(held().keySet());
    }

    /** Those over which one call may go out to see how it is. */
    List<String> toProbe() {
        Instant now = clock.instant();
        List<String> all = new ArrayList<>();
        Map<String, ByHand> said = said();
        breakers.forEach((peer, breaker) -> {
            boolean held =
                    Optional.ofNullable(said.get(peer)).filter(ByHand::held).isPresent();
            if (!held && current(peer, breaker).mayProbe(now)) {
                all.add(peer);
            }
        });
        return all;
    }

    void begun(String peer) {
        breakers.computeIfPresent(peer, (p, b) -> current(p, b).begun());
    }

    void givenUp(String peer) {
        breakers.computeIfPresent(peer, (p, b) -> current(p, b).givenUp());
    }

    void heard(String peer, CallOutcome outcome) {
        Instant now = clock.instant();
        Optional<Breaker.How> how = how(outcome);
        breakers.compute(peer, (p, b) -> {
            Breaker before = b == null ? Breaker.CLOSED : current(p, b);
            Breaker after = how.map(h -> before.heard(h, now)).orElseGet(before::givenUp);
            return after.equals(Breaker.CLOSED) ? null : after;
        });
    }

    /** A fault of our own says nothing of the other side. */
    private static Optional<Breaker.How> how(CallOutcome outcome) {
        return switch (outcome) {
            case CallOutcome.Done done -> Optional.of(Breaker.How.ANSWERED);
            case CallOutcome.Failed failed ->
                Optional.of(failed.unreached() ? Breaker.How.UNREACHED : Breaker.How.ANSWERED);
            case CallOutcome.Unknown unknown -> Optional.of(Breaker.How.NO_ANSWER);
            case CallOutcome.Fault fault -> Optional.empty();
        };
    }

    /** Whoever let calls out again meant also this breaker, if it held them back before that. */
    private Breaker current(String peer, Breaker breaker) {
        ByHand hand = said().get(peer);
        Breaker.Open open = breaker.open();
        return hand != null && open != null && !hand.held() && hand.at().isAfter(open.since())
                ? Breaker.CLOSED
                : breaker;
    }

    /** Read at most each second: what a person says counts then. */
    private Map<String, ByHand> said() {
        long now = System.nanoTime();
        if (!everRead || now - readAtNanos > READ_EVERY.toNanos()) {
            everRead = true;
            readAtNanos = now;
            byHand = read.get();
        }
        return byHand;
    }

    /** What was said a moment ago counts at once on this node. */
    public void readAnew() {
        everRead = false;
    }
}
