package dastur.server.work;

import java.time.Duration;
import java.time.Instant;
import java.util.List;
import java.util.stream.Stream;
import org.jspecify.annotations.Nullable;

/**
 * Whether calls over one connection go out, by how the last ones went (M6, N84): five in a row that reached nobody, or half of
 * twenty within a minute without an answer, and they wait; first for half a minute, then twice as long each time, at most ten
 * minutes. Then one goes out as a probe, and what comes of it decides.
 *
 * @param inARow how many in a row reached nobody
 * @param lately how the last ones of the last minute went, at most twenty
 * @param open since when they wait; null while they go out
 */
record Breaker(int inARow, List<Heard> lately, @Nullable Open open) {
    static final int IN_A_ROW = 5;
    static final int OF = 20;
    static final Duration WITHIN = Duration.ofMinutes(1);
    static final Duration FIRST = Duration.ofSeconds(30);
    static final Duration LONGEST = Duration.ofMinutes(10);

    /** All has gone well, as far as is known. */
    static final Breaker CLOSED = new Breaker(0, List.of(), null);

    /** How a call went, for whoever asks whether anybody is there. */
    enum How {
        /** Somebody answered, be it with a no. */
        ANSWERED,
        /** Nobody was there. */
        UNREACHED,
        /** It may have got there, and nothing came back. */
        NO_ANSWER
    }

    record Heard(Instant at, boolean bad) {}

    /**
     * @param until when the next probe may go
     * @param span how long they wait before that
     * @param probing whether one is under way
     */
    record Open(Instant since, Instant until, Duration span, boolean probing) {}

    /** Whether calls go out freely. */
    boolean isClosed() {
        return open == null;
    }

    /** Whether one call may go out to see how it is. */
    boolean mayProbe(Instant now) {
        return open != null && !open.probing() && !now.isBefore(open.until());
    }

    /** A call has begun: if they wait, it is the probe. */
    Breaker begun() {
        return open == null
                ? this
                : new Breaker(inARow, lately, new Open(open.since(), open.until(), open.span(), true));
    }

    /** A call was given up, and nothing is known from it: another may probe. */
    Breaker givenUp() {
        return open == null
                ? this
                : new Breaker(inARow, lately, new Open(open.since(), open.until(), open.span(), false));
    }

    /** How a call went. One that was begun before they had to wait, and ends badly, changes nothing. */
    Breaker heard(How how, Instant now) {
        if (open != null) {
            if (how == How.ANSWERED) {
                return CLOSED;
            }
            Duration twice = open.span().multipliedBy(2);
            Duration next = twice.compareTo(LONGEST) > 0 ? LONGEST : twice;
            return open.probing()
                    ? new Breaker(inARow, lately, new Open(open.since(), now.plus(next), next, false))
                    : this;
        }
        int row = how == How.UNREACHED ? inARow + 1 : 0;
        List<Heard> recent = Stream.concat(lately.stream(), Stream.of(new Heard(now, how != How.ANSWERED)))
                .filter(h -> h.at().isAfter(now.minus(WITHIN)))
                .toList();
        List<Heard> kept = recent.size() > OF ? recent.subList(recent.size() - OF, recent.size()) : recent;
        boolean half = kept.size() == OF && 2 * kept.stream().filter(Heard::bad).count() >= OF;
        return new Breaker(
                row, List.copyOf(kept), row >= IN_A_ROW || half ? new Open(now, now.plus(FIRST), FIRST, false) : null);
    }
}
