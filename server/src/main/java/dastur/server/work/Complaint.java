package dastur.server.work;

import java.time.Duration;
import org.slf4j.Logger;

/**
 * Trouble that comes again and again, logged so that people see it and nothing else drowns in it: at once, then every few
 * minutes with how often it came, and when it is over.
 */
public final class Complaint {
    private static final Duration AGAIN = Duration.ofMinutes(5);

    private final Logger log;
    private final String what;
    private int count;
    private long saidAt;

    /** @param what the trouble in a few words, without what records hold */
    public Complaint(Logger log, String what) {
        this.log = log;
        this.what = what;
    }

    /** It came. A fault of our own is told with where it happened. */
    public synchronized void about(Exception e) {
        count++;
        if (count == 1 || System.nanoTime() - saidAt > AGAIN.toNanos()) {
            saidAt = System.nanoTime();
            if (e instanceof RuntimeException) {
                log.warn("{}; {} times so far", what, count, e);
            } else {
                log.warn("{}; {} times so far: {}", what, count, e.getMessage());
            }
        }
    }

    public synchronized void over() {
        if (count > 0) {
            log.info("no longer so: {} (it came {} times)", what, count);
            count = 0;
        }
    }
}
