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
    }

    /** One open browser. */
    public static final class Listener {
        private final BlockingQueue<News> queue = new ArrayBlockingQueue<>(QUEUE);
        private final Predicate<TicketId> maySee;

        private Listener(Predicate<TicketId> maySee) {
            this.maySee = maySee;
        }

        /** The next news; null when none came within the time. */
        public News next(long millis) throws InterruptedException {
            return queue.poll(millis, java.util.concurrent.TimeUnit.MILLISECONDS);
        }

        private void offer(News news) {
            if (!queue.offer(news)) {
                queue.clear();
                queue.add(News.EVERYTHING);
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

    @Override
    public void committed(TicketId ticket, List<Recorded> events) {
        News news = new News(ticket.value(), events.getLast().seq());
        listeners.stream().filter(l -> l.maySee.test(ticket)).forEach(l -> l.offer(news));
    }
}
