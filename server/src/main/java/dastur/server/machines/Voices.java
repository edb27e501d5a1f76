package dastur.server.machines;

import dastur.server.work.Repeatedly;
import dastur.store.CallsMade;
import java.time.Duration;
import java.time.InstantSource;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.concurrent.ConcurrentHashMap;
import java.util.concurrent.locks.Lock;
import java.util.concurrent.locks.ReentrantLock;
import java.util.stream.Collectors;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;

/**
 * What calls say while they go on, written down as it comes (M7). A call that says little and is over at once
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

    private static final String CUT = "\n… what it says from here on is not kept: it is more than "
            + CallsMade.MOST_SAID / 1_000_000 + " million characters.\n";

    private final CallsMade made;
    private final InstantSource clock;
    private final Map<String, Voice> speaking = new ConcurrentHashMap<>();
    private final Repeatedly rounds;
    private volatile long forgot = System.nanoTime() - FORGETS_EVERY.toNanos();

    public Voices(CallsMade made, InstantSource clock) {
        this.made = made;
        this.clock = clock;
        this.rounds = new Repeatedly("voices", EVERY, this::write);
    }

    public void start() {
        rounds.start();
    }

    /** One call's. */
    public final class Voice implements AutoCloseable {
        private final String call;
        private final Lock writing = new ReentrantLock();
        private final StringBuilder unwritten = new StringBuilder();
        private int said;
        private boolean written;

        private Voice(String call) {
            this.call = call;
        }

        /** Takes no time; what is too much is left out, and that is said once. */
        public synchronized void heard(String text) {
            if (said >= CallsMade.MOST_SAID) {
                return;
            }
            int room = CallsMade.MOST_SAID - said;
            unwritten.append(text, 0, whole(text, Math.min(room, text.length())));
            said += text.length();
            if (said >= CallsMade.MOST_SAID) {
                unwritten.append(CUT);
            }
        }

        /** In order, and not while {@link #heard} would have to wait for it. */
        private void write() {
            writing.lock();
            try {
                for (String part = next(); !part.isEmpty(); part = next()) {
                    made.heard(call, clock.instant(), part);
                    wrote(part.length());
                }
            } finally {
                writing.unlock();
            }
        }

        private synchronized String next() {
            return unwritten.substring(0, whole(unwritten, Math.min(PART, unwritten.length())));
        }

        /** Only what is kept is no longer unwritten: after a failure it is tried again. */
        private synchronized void wrote(int length) {
            unwritten.delete(0, length);
            written = true;
        }

        private synchronized boolean isTold() {
            return written || said > ON_RECORD;
        }

        /** All that it said, once it is over; empty where its record holds all of it. */
        public Optional<String> everything() {
            return isTold() && said > ON_RECORD
                    ? Optional.of(made.said(call, 0).stream()
                            .map(CallsMade.Part::text)
                            .collect(Collectors.joining()))
                    : Optional.empty();
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
            }
        }
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
