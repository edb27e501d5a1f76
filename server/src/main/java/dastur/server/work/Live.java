package dastur.server.work;

import dastur.core.run.Recorded;
import dastur.core.ticket.TicketId;
import java.util.List;
import java.util.Set;
import java.util.concurrent.ArrayBlockingQueue;
import java.util.concurrent.BlockingQueue;
import java.util.concurrent.ConcurrentHashMap;
import java.util.function.Predicate;

/** Tells open browsers which tickets have changed. Each listener has its own short queue; a slow one loses nothing but is told to look at everything. */
public final class Live implements CommandService.Listener {
    private static final int QUEUE = 64;

    /** What is told. @param ticket the ticket that changed; empty means that news were missed: look at everything */
    public record News(String ticket, long seq) {
        static final News EVERYTHING = new News("", 0);
        private static final News WHO_IS_THERE = new News("", -1);

        /** Tells no browser anything: whoever is behind it may no longer be signed in. */
        public boolean isWhoIsThere() {
            return this == WHO_IS_THERE;
        }
    }

    /** One open browser. */
    public static final class Listener {
        private final BlockingQueue<News> queue = new ArrayBlockingQueue<>(QUEUE);
        private final Predicate<TicketId> maySee;

        private Listener(Predicate<TicketId> maySee) {
            this.maySee = maySee;
        }

        /**
         * The next news that the listener may know of; null when none came within the time. Looked up here, on the stream's own
         * thread: whoever commits something does not wait for what others may see.
         */
        public News next(long millis) throws InterruptedException {
            News news = queue.poll(millis, java.util.concurrent.TimeUnit.MILLISECONDS);
            return news == null || news.ticket().isEmpty() || maySee.test(new TicketId(news.ticket())) ? news : null;
        }

        private void offer(News news) {
            if (!queue.offer(news)) {
                queue.clear();
                queue.offer(News.EVERYTHING);
                if (news.isWhoIsThere()) {
                    queue.offer(news);
                }
            }
        }
    }

    private final Set<Listener> listeners = ConcurrentHashMap.newKeySet();

    /** @param maySee whether the listener may know of a ticket */
    public Listener open(Predicate<TicketId> maySee) {
        Listener listener = new Listener(maySee);
        listeners.add(listener);
        return listener;
    }

    public void close(Listener listener) {
        listeners.remove(listener);
    }

    /** A sign-in, token or account has ended or changed: each stream looks at once whose it still is. */
    public void lookWhoIsThere() {
        listeners.forEach(l -> l.offer(News.WHO_IS_THERE));
    }

    /** Something may have changed, and nobody knows what. */
    public void missed() {
        listeners.forEach(l -> l.offer(News.EVERYTHING));
    }

    /** Another node has changed a ticket. @param seq the number of its last entry */
    public void changed(TicketId ticket, long seq) {
        News news = new News(ticket.value(), seq);
        listeners.forEach(l -> l.offer(news));
    }

    @Override
    public void committed(TicketId ticket, List<Recorded> events) {
        changed(ticket, events.getLast().seq());
    }
}
