package dastur.server.auth;

import java.time.Duration;
import java.util.concurrent.ConcurrentHashMap;
import java.util.concurrent.ConcurrentMap;
import java.util.concurrent.Semaphore;
import java.util.concurrent.TimeUnit;
import java.util.function.Supplier;

/**
 * Checks and makes hashes of passwords, a few at a time: each takes 19 MiB and a core for a while on purpose, so that
 * whoever guesses pays for it. Without a limit two hundred at once would stop the server for everybody.
 */
public final class Passwords {
    /** There is no place for another one just now; nothing was looked at. */
    public static final class Busy extends Exception {
        Busy() {
            super("too many passwords are being checked");
        }
    }

    /** Half the cores, so that those who are in go on working. */
    private static final int AT_ONCE = Math.max(1, Runtime.getRuntime().availableProcessors() / 2);
    /** A short queue: who waits longer than a moment had better be told. */
    private static final int WAITING = 16;
    /** Under way or waiting from one address. */
    private static final int FROM_ONE_ADDRESS = 4;

    private static final Duration LONGEST_WAIT = Duration.ofSeconds(3);

    private final Semaphore places = new Semaphore(AT_ONCE, true);
    private final Semaphore queue = new Semaphore(AT_ONCE + WAITING);
    private final ConcurrentMap<String, Integer> byAddress = new ConcurrentHashMap<>();

    /** @throws Busy when too many are being checked, here or for this address */
    public boolean fits(String address, String password, String hash) throws Busy {
        return atItsTurn(address, () -> Secrets.passwordFits(password, hash));
    }

    /** @throws Busy when too many are being checked, here or for this address */
    public String hash(String address, String password) throws Busy {
        return atItsTurn(address, () -> Secrets.hashPassword(password));
    }

    private <T> T atItsTurn(String address, Supplier<T> work) throws Busy {
        if (byAddress.merge(address, 1, Integer::sum) > FROM_ONE_ADDRESS) {
            leave(address);
            throw new Busy();
        }
        try {
            if (!queue.tryAcquire()) {
                throw new Busy();
            }
            try {
                if (!places.tryAcquire(LONGEST_WAIT.toMillis(), TimeUnit.MILLISECONDS)) {
                    throw new Busy();
                }
                try {
                    return work.get();
                } finally {
                    places.release();
                }
            } catch (InterruptedException e) {
                Thread.currentThread().interrupt();
                throw new Busy();
            } finally {
                queue.release();
            }
        } finally {
            leave(address);
        }
    }

    private void leave(String address) {
        byAddress.computeIfPresent(address, (a, count) -> count == 1 ? null : count - 1);
    }
}
