package dastur.server.work;

import dastur.core.run.Case;
import dastur.core.run.Recorded;
import dastur.core.ticket.TicketId;
import dastur.store.Tickets;
import java.time.Instant;
import java.util.ArrayList;
import java.util.Collections;
import java.util.List;
import java.util.Set;
import java.util.concurrent.ArrayBlockingQueue;
import java.util.concurrent.BlockingQueue;
import java.util.concurrent.ConcurrentHashMap;
import java.util.concurrent.TimeUnit;
import java.util.function.Supplier;
import org.jspecify.annotations.Nullable;

/**
 * Tells open browsers which tickets have changed, and which of their lists with them. Each listener has its own short queue; a
 * slow one loses nothing but is told to look at everything.
 */
public final class Live implements CommandService.Listener {
    private static final int QUEUE = 64;

    private static final String DESK = "desk";
    private static final String ASKED = "asked";
    private static final String TICKETS = "tickets";
    private static final String RUNS = "runs";
    private static final String WORKFLOWS = "workflows";
    private static final String UNDELIVERED = "undelivered";

    /**
     * What one browser is told.
     *
     * @param ticket the ticket that changed; empty where there is none that the listener may know of
     * @param at when; null where it is not known
     * @param lists which lists are to be read anew; null where nobody knows: all of them, and with an empty ticket each ticket
     * @param counts how many tickets are open and runs stalled, where that has changed and the listener is told numbers
     */
    public record News(
            String ticket,
            long seq,
            @Nullable Instant at,
            @Nullable List<String> lists,
            Tickets.@Nullable Counts counts) {
        static final News EVERYTHING = new News("", 0, null, null, null);
        private static final News WHO_IS_THERE = new News("", -1, null, null, null);

        /** Tells no browser anything: whoever is behind it may no longer be signed in. */
        public boolean isWhoIsThere() {
            return this == WHO_IS_THERE;
        }
    }

    /** A change. @param touched null where it is not known whose lists it touches */
    private record Change(News news, @Nullable Touched touched, Counting counting) {
        Change(News news) {
            this(news, null, new Counting(() -> new Tickets.Counts(0, 0)));
        }
    }

    /** Counted once for all who hear of a change, when the first of them is told. */
    private static final class Counting {
        private final Supplier<Tickets.Counts> count;
        private Tickets.@Nullable Counts counted;

        Counting(Supplier<Tickets.Counts> count) {
            this.count = count;
        }

        synchronized Tickets.Counts counts() {
            Tickets.Counts known = counted;
            if (known == null) {
                known = count.get();
                counted = known;
            }
            return known;
        }
    }

    /** Whoever is behind an open browser. Asked when something has changed, so that it may look things up. */
    public interface Reader {
        boolean maySee(TicketId ticket);

        /** Under which words they stand among those who are asked something, and those for whom they act. */
        Set<String> standsAs();

        /** By what they are known as the one who asked. */
        String id();

        /** Whether they are told how many tickets are open, and how many runs stalled. */
        boolean countsAll();

        /** Whether they are told of what could not be delivered. */
        boolean works();
    }

    /** One open browser. */
    public static final class Listener {
        private final BlockingQueue<Change> queue = new ArrayBlockingQueue<>(QUEUE);
        private final Reader reader;

        private Listener(Reader reader) {
            this.reader = reader;
        }

        /**
         * The next news that the listener may know of; null when none came within the time. Looked up here, on the stream's own
         * thread: whoever commits something does not wait for what others may see.
         */
        public @Nullable News next(long millis) throws InterruptedException {
            Change change = queue.poll(millis, TimeUnit.MILLISECONDS);
            if (change == null) {
                return null;
            }
            News news = change.news();
            Touched touched = change.touched();
            if (news.ticket().isEmpty()) {
                return news;
            }
            boolean sees = reader.maySee(new TicketId(news.ticket()));
            if (touched == null) {
                return sees ? news : null;
            }
            List<String> lists = lists(touched, sees);
            if (!sees) {
                // What was theirs is no longer, and which ticket it was is nobody's business now.
                return lists.isEmpty() ? null : new News("", 0, null, lists, null);
            }
            Tickets.Counts counts =
                    touched.counts() && reader.countsAll() ? change.counting().counts() : null;
            return new News(news.ticket(), news.seq(), news.at(), lists, counts);
        }

        private List<String> lists(Touched touched, boolean sees) {
            List<String> lists = new ArrayList<>();
            boolean givenUp = touched.undelivered() && reader.works();
            boolean mine = !touched.whose().isEmpty() && !Collections.disjoint(touched.whose(), reader.standsAs());
            put(lists, DESK, mine || givenUp);
            put(lists, ASKED, touched.requesters().contains(reader.id()));
            put(lists, TICKETS, sees && touched.row());
            put(lists, RUNS, sees && touched.runs());
            put(lists, WORKFLOWS, sees && touched.begunOrEnded());
            put(lists, UNDELIVERED, givenUp);
            return lists;
        }

        private static void put(List<String> lists, String list, boolean touched) {
            if (touched) {
                lists.add(list);
            }
        }

        private void offer(Change change) {
            if (!queue.offer(change)) {
                queue.clear();
                queue.offer(new Change(News.EVERYTHING));
                if (change.news().isWhoIsThere()) {
                    queue.offer(change);
                }
            }
        }
    }

    private final Set<Listener> listeners = ConcurrentHashMap.newKeySet();
    private final Supplier<Tickets.Counts> count;

    /** @param count how many tickets are open and runs stalled just now */
    public Live(Supplier<Tickets.Counts> count) {
        this.count = count;
    }

    public Listener open(Reader reader) {
        Listener listener = new Listener(reader);
        listeners.add(listener);
        return listener;
    }

    public void close(Listener listener) {
        listeners.remove(listener);
    }

    /** A sign-in, token or account has ended or changed: each stream looks at once whose it still is. */
    public void lookWhoIsThere() {
        tell(new Change(News.WHO_IS_THERE));
    }

    /** Something may have changed, and nobody knows what. */
    public void missed() {
        tell(new Change(News.EVERYTHING));
    }

    /** Another node has changed a ticket. @param seq the number of its last entry */
    public void changed(TicketId ticket, long seq) {
        tell(new Change(new News(ticket.value(), seq, null, null, null)));
    }

    @Override
    public void committed(Case before, List<Recorded> events, Case after) {
        Touched touched = Touched.between(before, events, after);
        tell(new Change(
                new News(after.id().value(), after.seq(), after.lastAt(), null, null), touched, new Counting(count)));
    }

    private void tell(Change change) {
        listeners.forEach(l -> l.offer(change));
    }
}
