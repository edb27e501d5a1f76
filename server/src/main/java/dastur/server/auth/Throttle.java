package dastur.server.auth;

import com.github.benmanes.caffeine.cache.Cache;
import com.github.benmanes.caffeine.cache.Caffeine;
import io.github.bucket4j.Bucket;
import java.time.Duration;

/**
 * Slows down guessing: by address, by account, and by both together. Accounts are named as they are compared, so that
 * another spelling of the same name is no further try. Whoever has signed in from an address before is not locked out there
 * by what others try elsewhere.
 */
public final class Throttle {
    private static final Duration REMEMBERED = Duration.ofMinutes(30);
    private static final Duration KNOWN = Duration.ofDays(30);

    /** How many tries at once, and how many come back in a minute. */
    private record Limit(int atOnce, int aMinute) {}

    /** Many people can stand behind one address. */
    private static final Limit ADDRESS = new Limit(60, 30);
    /** From everywhere together: more than somebody forgets, far less than guessing needs. */
    private static final Limit ACCOUNT = new Limit(20, 4);

    private static final Limit BOTH = new Limit(5, 5);

    private final Cache<String, Bucket> buckets = Caffeine.newBuilder()
            .maximumSize(100_000)
            .expireAfterAccess(REMEMBERED)
            .build();
    private final Cache<String, Boolean> known =
            Caffeine.newBuilder().maximumSize(100_000).expireAfterWrite(KNOWN).build();

    /**
     * Whether another try is allowed now.
     *
     * @param account the account as it is compared: the id of a person, or what was typed in small letters
     */
    public boolean allows(String address, String account) {
        String both = both(address, account);
        boolean allowed = bucket("a:" + address, ADDRESS).tryConsume(1)
                & bucket(both, BOTH).tryConsume(1);
        boolean fromHere = known.getIfPresent(both) != null;
        return allowed && (fromHere || bucket("n:" + account, ACCOUNT).tryConsume(1));
    }

    /** A success clears the slate of this account at this address, and is remembered. */
    public void succeeded(String address, String account) {
        String both = both(address, account);
        buckets.invalidate(both);
        // Many who come in the morning from one office are no guessers.
        bucket("a:" + address, ADDRESS).addTokens(1);
        buckets.invalidate("n:" + account);
        known.put(both, true);
    }

    private static String both(String address, String account) {
        return "b:" + address + " " + account;
    }

    private Bucket bucket(String who, Limit limit) {
        return buckets.get(who, k -> Bucket.builder()
                .addLimit(l -> l.capacity(limit.atOnce()).refillGreedy(limit.aMinute(), Duration.ofMinutes(1)))
                .build());
    }
}
