package dastur.core.start;

import dastur.core.time.Rhythm;
import dastur.core.time.WorkingCalendar;
import dastur.core.workflow.Trigger;
import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.List;
import java.util.Optional;
import org.jspecify.annotations.Nullable;

/** What is to be done about a schedule at a moment. Pure: whoever asks knows where the schedule stands (I10). */
public final class Timetable {
    /** What was missed by more is not made good. */
    public static final Duration MADE_GOOD_WITHIN = Duration.ofHours(1);
    /** What starts by no more after its time is in time. */
    public static final Duration IN_TIME = Duration.ofMinutes(1);
    /** So many past times are told apart; of more, the first of them are told as one. */
    private static final int MOST_PAST = 10_000;

    /** What became of times that started nothing. */
    public enum Verdict {
        /** Nothing ran then. */
        MISSED("missed"),
        /** What was started before was still under way. */
        SKIPPED("skipped");

        private final String word;

        Verdict(String word) {
            this.word = word;
        }

        public String word() {
            return word;
        }
    }

    /** Times that started nothing, one or many in a row. */
    public record Passed(Verdict verdict, Instant first, Instant last, long count) {}

    /**
     * Where a schedule stands.
     *
     * @param next the first time that nothing is known of yet
     * @param waits whether that time has come, and waits for what was started before
     */
    public record Mark(Instant next, boolean waits) {}

    /**
     * What is to be done.
     *
     * @param starts the time that starts now; null for none
     * @param late why it starts late; null where it is in time
     * @param then where the schedule stands afterwards; null when no time comes any more
     */
    public record Turn(
            List<Passed> passed,
            @Nullable Instant starts,
            @Nullable String late,
            @Nullable Mark then) {
        public Turn {
            passed = List.copyOf(passed);
        }
    }

    private Timetable() {}

    /** @param underWay how many of what it has started have not ended @param days the days of its calendar; null for all */
    public static Turn turn(
            Trigger.TimeComes when, Mark mark, Instant now, int underWay, @Nullable WorkingCalendar days) {
        if (mark.next().isAfter(now)) {
            return new Turn(List.of(), null, null, mark);
        }
        boolean busy = underWay >= when.overlap().most();
        if (busy && when.overlap() == Trigger.Overlap.WAITS) {
            return new Turn(List.of(), null, null, new Mark(mark.next(), true));
        }
        Past past = past(when.rhythm(), mark.next(), now, days);
        List<Passed> passed = new ArrayList<>();
        if (past.before() != null) {
            passed.add(past.before().as(mark.waits() ? Verdict.SKIPPED : Verdict.MISSED));
        }
        Mark then = past.next().map(at -> new Mark(at, false)).orElse(null);
        Duration after = Duration.between(past.last(), now);
        boolean inTime = after.compareTo(IN_TIME) <= 0;
        boolean made = when.missed() == Trigger.Missed.MADE_GOOD && after.compareTo(MADE_GOOD_WITHIN) <= 0;
        if (busy) {
            passed.add(new Passed(Verdict.SKIPPED, past.last(), past.last(), 1));
        } else if (inTime || made || mark.waits()) {
            String late =
                    inTime ? null : mark.waits() ? "what was started before had to end" : "nothing ran at its time";
            return new Turn(passed, past.last(), late, then);
        } else {
            passed.add(new Passed(Verdict.MISSED, past.last(), past.last(), 1));
        }
        return new Turn(passed, null, null, then);
    }

    /** @param before all past times but the last; null for none */
    private record Past(@Nullable Before before, Instant last, Optional<Instant> next) {}

    private record Before(Instant first, Instant last, long count) {
        Passed as(Verdict verdict) {
            return new Passed(verdict, first, last, count);
        }
    }

    private static Past past(Rhythm rhythm, Instant first, Instant now, @Nullable WorkingCalendar days) {
        Instant at = first;
        Instant previous = null;
        long count = 0;
        Optional<Instant> next = rhythm.next(at, days);
        while (next.isPresent() && !next.get().isAfter(now)) {
            previous = at;
            count++;
            at = next.get();
            next = count < MOST_PAST ? rhythm.next(at, days) : rhythm.next(now, days);
        }
        Before before = previous == null ? null : new Before(first, previous, count);
        return new Past(before, at, next);
    }
}
