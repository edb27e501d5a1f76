package dastur.server.work;

import java.util.List;
import java.util.Map;
import java.util.concurrent.ConcurrentHashMap;
import java.util.concurrent.atomic.AtomicInteger;

/**
 * How many calls may be under way to each outside system at once. The fewer places are left over all, the fewer each may have,
 * down to one: so a peer that is quick finds a place also while hundreds of others do not answer.
 */
final class PeerPlaces {
    /** As many may be under way over all. */
    static final int ALL = 1_000;

    private static final int WHILE_MOST_ARE_FREE = 16;
    private static final int WHILE_HALF_ARE_FREE = 4;
    private static final int WHILE_FEW_ARE_FREE = 1;

    /** By connection. */
    private final Map<String, AtomicInteger> underWay = new ConcurrentHashMap<>();

    /** How many each may have, and how many may be taken at once, so that one peer's do not fill what is left. */
    static int each(int free) {
        if (free > ALL / 2) {
            return WHILE_MOST_ARE_FREE;
        }
        return free > ALL / 4 ? WHILE_HALF_ARE_FREE : WHILE_FEW_ARE_FREE;
    }

    /** Those that may have no more. */
    List<String> busy(int each) {
        return underWay.entrySet().stream()
                .filter(p -> p.getValue().get() >= each)
                .map(Map.Entry::getKey)
                .toList();
    }

    void begin(String peer) {
        underWay.computeIfAbsent(peer, p -> new AtomicInteger()).incrementAndGet();
    }

    /** Forgets peers to which nothing is under way. */
    void end(String peer) {
        underWay.computeIfPresent(peer, (p, count) -> count.decrementAndGet() == 0 ? null : count);
    }
}
