package dastur.connectors;

import java.time.Duration;
import java.util.concurrent.Callable;
import java.util.concurrent.ExecutionException;
import java.util.concurrent.ExecutorService;
import java.util.concurrent.Executors;
import java.util.concurrent.TimeUnit;
import java.util.concurrent.TimeoutException;

/**
 * Keeps a wait in the operating system from stopping everything else (decision 76). A virtual thread that waits in native code, for
 * the output of a program or for a name, does not give back the platform's thread that carries it. The platform makes up for that as
 * long as its books are right; after an earlier such wait and half a minute of rest they are not, and two scripts that say nothing
 * stop all virtual threads on a machine of two cores. So such waits are made on threads of their own, and there are more carriers
 * than cores, for what is left: a slow disk, or a computation that does not pause.
 */
public final class Carriers {
    private static final String HOW_MANY = "jdk.virtualThreadScheduler.parallelism";
    private static final int AT_LEAST = 16;

    private static final ExecutorService APART = Executors.newCachedThreadPool(
            Thread.ofPlatform().daemon().name("apart-", 1).factory());

    private Carriers() {}

    /** To be called before the first virtual thread begins. What whoever starts the program has set himself holds. */
    public static void provide() {
        if (System.getProperty(HOW_MANY) == null) {
            System.setProperty(
                    HOW_MANY,
                    String.valueOf(Math.max(AT_LEAST, Runtime.getRuntime().availableProcessors())));
        }
    }

    /** Begins what waits in native code, on a thread of its own. It ends with the process. */
    public static Thread apart(String name, Runnable what) {
        return Thread.ofPlatform().daemon().name(name).start(what);
    }

    /**
     * Waits for what waits in native code. There are as many of these threads as there are callers.
     *
     * @throws InterruptedException when the caller was; what was begun goes on by itself
     * @throws ExecutionException with what it threw
     * @throws TimeoutException when it takes longer than this; what was begun goes on by itself
     */
    static <T> T await(Callable<T> what, Duration limit)
            throws InterruptedException, ExecutionException, TimeoutException {
        return APART.submit(what).get(limit.toMillis(), TimeUnit.MILLISECONDS);
    }
}
