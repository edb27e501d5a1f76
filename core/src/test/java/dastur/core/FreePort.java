package dastur.core;

import java.io.IOException;
import java.net.InetAddress;
import java.net.ServerSocket;
import java.util.Set;
import java.util.concurrent.ConcurrentHashMap;
import java.util.random.RandomGenerator;

/**
 * Ports for servers that must be told where to listen before they start.
 *
 * <p>Port 0 would give one of those that the system also hands to whoever calls somebody: between
 * the asking and the listening such a call can take it, and in a busy test it does. These lie below
 * all that systems hand out by themselves.
 */
public final class FreePort {
    private static final int FIRST = 15_000;
    private static final int END = 32_000;
    private static final Set<Integer> GIVEN = ConcurrentHashMap.newKeySet();

    private FreePort() {}

    /** A port on which nobody listens, and which this process was not given before. */
    public static int any() {
        RandomGenerator random = RandomGenerator.getDefault();
        for (int i = 0; i < 1_000; i++) {
            int port = random.nextInt(FIRST, END);
            if (GIVEN.add(port) && free(port)) {
                return port;
            }
        }
        throw new IllegalStateException("no port is free");
    }

    private static boolean free(int port) {
        try (ServerSocket door = new ServerSocket(port, 1, InetAddress.getLoopbackAddress())) {
            return door.isBound();
        } catch (IOException e) {
            return false;
        }
    }
}
