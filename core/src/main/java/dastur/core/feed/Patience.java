package dastur.core.feed;

import java.time.Duration;
import java.time.Instant;
import java.util.List;
import org.jspecify.annotations.Nullable;

/** What is done where events are not taken: pauses that grow, for three days (I17). */
public final class Patience {
    /** So long it is tried. */
    public static final Duration DAYS = Duration.ofDays(3);
    /** So often an event is tried that the other side refuses as it is. */
    public static final int TRIES_OF_REFUSED = 5;

    private static final List<Duration> PAUSES = List.of(
            Duration.ofSeconds(5),
            Duration.ofSeconds(30),
            Duration.ofMinutes(2),
            Duration.ofMinutes(10),
            Duration.ofMinutes(30),
            Duration.ofHours(2),
            Duration.ofHours(6));

    /** What became of one try. */
    public enum Outcome {
        TAKEN,
        /** Not now: it may be taken later. */
        LATER,
        /** Not as it is. */
        REFUSED,
        /** Never more: nobody is there (410). */
        GONE
    }

    private Patience() {}

    /** What an answer means. @param status null when there was none */
    public static Outcome of(@Nullable Integer status) {
        if (status == null || status >= 500 || status == 408 || status == 425 || status == 429) {
            return Outcome.LATER;
        }
        return status == 410 ? Outcome.GONE : status / 100 == 2 ? Outcome.TAKEN : Outcome.REFUSED;
    }

    /** When it is tried next. @param failures in a row, at least 1 @param asked what the other side asks for; null for nothing */
    public static Instant next(Instant now, int failures, @Nullable Duration asked) {
        Duration own = PAUSES.get(Math.min(failures, PAUSES.size()) - 1);
        Duration most = PAUSES.getLast();
        Duration theirs = asked == null ? Duration.ZERO : asked.compareTo(most) > 0 ? most : asked;
        return now.plus(own.compareTo(theirs) > 0 ? own : theirs);
    }

    /** Whether it was tried for long enough. */
    public static boolean isOver(Instant failingSince, Instant now) {
        return !now.isBefore(failingSince.plus(DAYS));
    }
}
