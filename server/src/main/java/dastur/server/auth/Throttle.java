package dastur.server.auth;

import com.github.benmanes.caffeine.cache.Cache;
import com.github.benmanes.caffeine.cache.Caffeine;
import io.github.bucket4j.Bucket;
import java.time.Duration;

/** Slows down guessing: five tries, then one every twelve seconds, for each address and account. */
public final class Throttle {
    private final Cache<String, Bucket> buckets = Caffeine.newBuilder()
            .maximumSize(100_000)
            .expireAfterAccess(Duration.ofMinutes(10))
            .build();

    /** Whether another try is allowed now. */
    public boolean allows(String who) {
        return buckets.get(who, k -> Bucket.builder()
                        .addLimit(limit -> limit.capacity(5).refillGreedy(5, Duration.ofMinutes(1)))
                        .build())
                .tryConsume(1);
    }

    /** A success clears the slate. */
    public void forget(String who) {
        buckets.invalidate(who);
    }
}
