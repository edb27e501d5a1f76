package dastur.server.machines;

import dastur.server.work.Repeatedly;
import dastur.store.CallsMade;
import java.io.ByteArrayOutputStream;
import java.nio.charset.StandardCharsets;
import java.time.Duration;
import java.time.InstantSource;
import java.util.ArrayDeque;
import java.util.Deque;
import java.util.List;
import java.util.Map;
import java.util.Queue;
import java.util.concurrent.ConcurrentHashMap;
import java.util.concurrent.ConcurrentLinkedQueue;
import java.util.concurrent.Semaphore;
import java.util.concurrent.atomic.AtomicLong;
import java.util.concurrent.locks.Lock;
import java.util.concurrent.locks.ReentrantLock;
import java.util.function.Predicate;
import org.jspecify.annotations.Nullable;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;

/**
 * What calls say while they go on, written down as it comes (M7): of what is very long, the head and the tail. A call that says little and is over at once
 * writes nothing here: its record holds all of it. What is not written yet when the process is killed is lost: it is told beside the
 * record, never instead of it.
 */
public final class Voices implements AutoCloseable {
    private static final Logger LOG = LoggerFactory.getLogger(Voices.class);
    private static final Duration EVERY = Duration.ofSeconds(1);
    private static final Duration FORGETS_EVERY = Duration.ofHours(1);
    /** At most so much in one part. */
    private static final int PART = 64_000;
    /** So much of what a call said stands on the record. */
    private static final int ON_RECORD = 2_000;

    /**
     * How much of what one call says is kept, in characters (M7): its head, and of what follows the tail.
     *
     * @param unwritten so much of one may wait to be written, and more while all together is less than {@code together}; what comes
     *     quicker than that is missing, and that is said
     */
    record Limits(int head, int tail, int unwritten, long together) {
        static final Limits USUAL = new Limits(40_000_000, 10_000_000, 4_000_000, 60_000_000);
    }

    /** What waits to be written, of all calls. */
    private final AtomicLong waiting = new AtomicLong();

    /** Of a long one a whole is put together in memory: one after the other. */
    private static final Semaphore WHOLE = new Semaphore(1, true);

    private static final int PARTS_AT_ONCE = 32;

    /** The part of what may be unwritten at which it is written without waiting. */
    private static final int HURRIES_AT = 8;

    private final Limits limits;
    private final CallsMade made;
    private final InstantSource clock;
    private final Map<String, Voice> speaking = new ConcurrentHashMap<>();
    /** Calls of which all stands elsewhere: a little of each goes with each round. */
    private final Queue<String> elsewhere = new ConcurrentLinkedQueue<>();

    private final Repeatedly rounds;
    private volatile long forgot = System.nanoTime() - FORGETS_EVERY.toNanos();

    public Voices(CallsMade made, InstantSource clock) {
        this(made, clock, Limits.USUAL);
    }

    Voices(CallsMade made, InstantSource clock, Limits limits) {
        this.limits = limits;
        this.made = made;
        this.clock = clock;
        this.rounds = new Repeatedly("voices", EVERY, this::write);
    }

    public void start() {
        rounds.start();
    }

    /** A part of the tail, which goes when enough has come after it. */
    private record Kept(int number, int length) {}

    /** One call's. */
    public final class Voice implements AutoCloseable {
        private final String call;
        private final Deque<String> unwritten = new ArrayDeque<>();
        private int length;
        private long said;
        /** What came quicker than it could be written, and is not told yet. */
        private long missed;

        private boolean hurried;

        private final Lock writing = new ReentrantLock();
        /** Taken, and not written yet: after a failure it is tried again. */
        private @Nullable String inHand;

        private long head;
        private final Deque<Kept> tail = new ArrayDeque<>();
        private long inTail;
        private long leftOut;
        private volatile boolean written;

        private Voice(String call) {
            this.call = call;
        }

        /** Takes no time: who speaks is never kept waiting by whoever writes. */
        public synchronized void heard(String text) {
            said += text.length();
            add(text);
            if (length > limits.unwritten() && waiting.get() > limits.together()) {
                // Half of it at once: one gap is told, and not one with each word that comes.
                missed += take(length - limits.unwritten() / 2).length();
            } else if (!hurried && length > limits.unwritten() / HURRIES_AT) {
                hurried = true;
                Thread.startVirtualThread(this::hurry);
            }
        }

        private void add(String text) {
            unwritten.addLast(text);
            length += text.length();
            waiting.addAndGet(text.length());
        }

        /** Takes from the front so much, or a character less. */
        private String take(int most) {
            StringBuilder taken = new StringBuilder();
            while (!unwritten.isEmpty() && taken.length() < most) {
                String next = unwritten.removeFirst();
                int end = whole(next, Math.min(next.length(), most - taken.length()));
                taken.append(next, 0, end);
                if (end < next.length()) {
                    unwritten.addFirst(next.substring(end));
                    break;
                }
            }
            length -= taken.length();
            waiting.addAndGet(-taken.length());
            return taken.toString();
        }

        /** What comes quickly does not wait for the next round. */
        private void hurry() {
            try {
                write();
            } catch (RuntimeException e) {
                // The next round tries again; until it has, nobody hurries.
                LOG.warn("what {} says could not be written", call, e);
            }
        }

        /** In order, and not while {@link #heard} would have to wait for it. */
        private void write() {
            writing.lock();
            try {
                inHand = inHand == null ? next() : inHand;
                while (!inHand.isEmpty()) {
                    keep(inHand);
                    inHand = next();
                }
                inHand = null;
                caughtUp();
            } finally {
                writing.unlock();
            }
        }

        private synchronized void caughtUp() {
            hurried = false;
        }

        private synchronized String next() {
            if (missed > 0) {
                String gap = gap(missed);
                missed = 0;
                return gap;
            }
            return take(PART);
        }

        private void keep(String part) {
            int number = made.heard(call, clock.instant(), part);
            written = true;
            if (head < limits.head()) {
                head += part.length();
                return;
            }
            tail.add(new Kept(number, part.length()));
            inTail += part.length();
            while (inTail - tail.getFirst().length() >= limits.tail()) {
                Kept gone = tail.removeFirst();
                made.letGo(call, gone.number());
                inTail -= gone.length();
                leftOut += gone.length();
            }
        }

        private synchronized boolean isTold() {
            return written || said > ON_RECORD;
        }

        /**
         * Hands over all that is kept of what it said, UTF-8, once it is over; nothing where its record holds all of it.
         *
         * @param to whether it stands elsewhere from now on, so that it can be let go here
         */
        public void everything(Predicate<byte[]> to) {
            if (!isTold() || said <= ON_RECORD) {
                return;
            }
            WHOLE.acquireUninterruptibly();
            try {
                if (to.test(together())) {
                    elsewhere.add(call);
                }
            } finally {
                WHOLE.release();
            }
        }

        private byte[] together() {
            ByteArrayOutputStream all = new ByteArrayOutputStream();
            int from = 0;
            List<CallsMade.Part> parts = made.said(call, from, PARTS_AT_ONCE);
            while (!parts.isEmpty()) {
                for (CallsMade.Part part : parts) {
                    if (part.number() > from) {
                        all.writeBytes(gap(leftOut).getBytes(StandardCharsets.UTF_8));
                    }
                    all.writeBytes(part.text().getBytes(StandardCharsets.UTF_8));
                    from = part.number() + 1;
                }
                parts = made.said(call, from, PARTS_AT_ONCE);
            }
            return all.toByteArray();
        }

        /** It is over: what its record does not hold is written. What came of the call does not hang on that. */
        @Override
        public void close() {
            speaking.remove(call);
            try {
                if (isTold()) {
                    write();
                }
            } catch (RuntimeException e) {
                LOG.warn("the end of what {} said could not be kept", call, e);
            } finally {
                letGo();
            }
        }

        /** What is not written by now is not waited for: others need the room, and whoever hurries still comes too late. */
        private void letGo() {
            writing.lock();
            try {
                inHand = null;
                dropped();
            } finally {
                writing.unlock();
            }
        }

        private synchronized void dropped() {
            take(length);
        }
    }

    private static String gap(long characters) {
        return "\n… " + characters + " characters are left out here …\n";
    }

    /** An end at which no character is cut in two. */
    private static int whole(CharSequence text, int end) {
        return end > 0 && end < text.length() && Character.isHighSurrogate(text.charAt(end - 1)) ? end - 1 : end;
    }

    /** Listens to a call from now on. */
    public Voice of(String call) {
        Voice voice = new Voice(call);
        speaking.put(call, voice);
        return voice;
    }

    /** Writes down what has been said since; a thread of this does it each second. */
    void write() {
        List.copyOf(speaking.values()).forEach(Voice::write);
        String over = elsewhere.peek();
        if (over != null && !made.letSomeGo(over)) {
            elsewhere.remove();
        }
        if (System.nanoTime() - forgot > FORGETS_EVERY.toNanos()) {
            forgot = System.nanoTime();
            made.forgetBefore(clock.instant().minus(CallsMade.KEPT));
        }
    }

    /** What is under way tells no more. */
    @Override
    public void close() {
        rounds.close();
    }
}
