package dastur.server;

import java.util.ArrayDeque;
import java.util.Deque;

/** What was opened, to be closed in reverse, by whoever comes to an end: the application, or its beginning that failed. */
final class Parts implements AutoCloseable {
    private final Deque<AutoCloseable> open = new ArrayDeque<>();

    <T extends AutoCloseable> T add(T part) {
        open.push(part);
        return part;
    }

    /** Closes all, the last one first; one that fails keeps none of the others open. */
    @Override
    public void close() {
        RuntimeException failed = null;
        while (!open.isEmpty()) {
            try {
                open.pop().close();
            } catch (RuntimeException e) {
                failed = added(failed, e);
            } catch (Exception e) {
                failed = added(failed, new IllegalStateException(e));
            }
        }
        if (failed != null) {
            throw failed;
        }
    }

    private static RuntimeException added(RuntimeException before, RuntimeException now) {
        if (before == null) {
            return now;
        }
        before.addSuppressed(now);
        return before;
    }
}
