package dastur.core.time;

import com.fasterxml.jackson.annotation.JsonIgnore;
import java.time.Duration;
import java.time.Instant;
import java.time.LocalDate;
import java.time.LocalDateTime;
import java.time.ZoneId;
import java.time.ZoneOffset;
import java.time.ZonedDateTime;
import java.time.temporal.ChronoUnit;
import java.util.ArrayList;
import java.util.List;
import java.util.Optional;
import org.dmfs.rfc5545.DateTime;
import org.dmfs.rfc5545.recur.Freq;
import org.dmfs.rfc5545.recur.InvalidRecurrenceRuleException;
import org.dmfs.rfc5545.recur.RecurrenceRule;
import org.dmfs.rfc5545.recur.RecurrenceRuleIterator;
import org.jspecify.annotations.Nullable;

/**
 * When something happens, once or again and again (I10). Days and longer are counted in local time and placed by the zone's rules:
 * what stands in the gap of a change of the clock happens later by as much, what stands there twice happens the first time. Hours and
 * minutes are counted in real time.
 *
 * @param rule a recurrence rule (RFC 5545, 3.3.10) such as {@code FREQ=DAILY}; null for once
 * @param from the first time, in the zone; what the rule leaves open, such as the minute, is as here
 * @param until the last moment, in the zone; null for ever
 * @param openDaysOf only on days on which this calendar opens; null for all days
 */
public record Rhythm(
        @Nullable String rule,
        LocalDateTime from,
        ZoneId zone,
        @Nullable LocalDateTime until,
        @Nullable CalendarKey openDaysOf) {
    private static final int MAX_RULE = 500;
    /** How many shut days or empty periods are passed over before it is taken that nothing comes any more. */
    private static final int MAX_PASSED_OVER = 400;
    /** The clock is nowhere put forward by more: what is placed later than that cannot come earlier. */
    private static final Duration PUT_FORWARD = Duration.ofHours(3);

    public Rhythm {
        if (from == null || zone == null) {
            throw new IllegalArgumentException("A time says its first moment and its zone.");
        }
        from = from.truncatedTo(ChronoUnit.MINUTES);
        rule = rule == null || rule.isBlank() ? null : rule.strip();
        if (rule != null) {
            check(rule);
        }
    }

    private static void check(String rule) {
        if (rule.length() > MAX_RULE) {
            throw new IllegalArgumentException("A rule has at most " + MAX_RULE + " characters.");
        }
        RecurrenceRule parsed = parsed(rule);
        if (parsed.getFreq() == Freq.SECONDLY || parsed.getByPart(RecurrenceRule.Part.BYSECOND) != null) {
            throw new IllegalArgumentException("Once a minute is the finest that may be asked for.");
        }
        if (parsed.getUntil() != null) {
            throw new IllegalArgumentException("The last moment stands beside the rule: leave UNTIL out.");
        }
    }

    private static RecurrenceRule parsed(String rule) {
        try {
            return new RecurrenceRule(rule, RecurrenceRule.RfcMode.RFC5545_STRICT);
        } catch (InvalidRecurrenceRuleException | IllegalArgumentException e) {
            throw new IllegalArgumentException("This is no recurrence rule (RFC 5545): " + e.getMessage());
        }
    }

    /** The first time after a moment; empty when there is none. @param days tells the days of {@link #openDaysOf}; null for all */
    public Optional<Instant> next(Instant after, @Nullable WorkingCalendar days) {
        Instant last = until == null ? Instant.MAX : placed(until);
        Optional<Instant> next = rule == null
                ? Optional.of(placed(from)).filter(at -> at.isAfter(after) && opens(from.toLocalDate(), days))
                : recurring(parsed(rule), after, days);
        return next.filter(at -> !at.isAfter(last));
    }

    /** The next times after a moment, at most so many. */
    public List<Instant> next(Instant after, int most, @Nullable WorkingCalendar days) {
        List<Instant> times = new ArrayList<>();
        Optional<Instant> next = next(after, days);
        while (next.isPresent() && times.size() < most) {
            times.add(next.get());
            next = next(next.get(), days);
        }
        return times;
    }

    /** Whether it is counted in real time, and not by the clock on the wall. */
    @JsonIgnore
    public boolean isOfRealTime() {
        Freq freq = rule == null ? null : parsed(rule).getFreq();
        return freq == Freq.HOURLY || freq == Freq.MINUTELY;
    }

    private Optional<Instant> recurring(RecurrenceRule parsed, Instant after, @Nullable WorkingCalendar days) {
        Search search = new Search(isOfRealTime(), after, days);
        try {
            search.through(parsed);
        } catch (IllegalArgumentException e) {
            // Periods without any day of the rule, such as the 30th of February, until the library gives up.
            return Optional.ofNullable(search.best);
        }
        return Optional.ofNullable(search.best);
    }

    /** Looks for the earliest moment after another: in the gap of a change of the clock the order of local times is not theirs. */
    private final class Search {
        private final boolean real;
        private final Instant after;
        private final @Nullable WorkingCalendar days;
        private @Nullable Instant best;
        private LocalDateTime bestAt = LocalDateTime.MAX;

        Search(boolean real, Instant after, @Nullable WorkingCalendar days) {
            this.real = real;
            this.after = after;
            this.days = days;
        }

        void through(RecurrenceRule rule) {
            LocalDateTime first = real ? LocalDateTime.ofInstant(placed(from), ZoneOffset.UTC) : from;
            LocalDateTime near =
                    LocalDateTime.ofInstant(after, real ? ZoneOffset.UTC : zone).minus(PUT_FORWARD);
            RecurrenceRuleIterator times = rule.iterator(floating(first));
            if (near.isAfter(first)) {
                times.fastForward(floating(near));
            }
            int shut = 0;
            while (times.hasNext() && shut < MAX_PASSED_OVER) {
                LocalDateTime at = local(times.nextDateTime());
                if (best != null && at.isAfter(bestAt.plus(PUT_FORWARD))) {
                    return;
                }
                Instant placed = real ? at.toInstant(ZoneOffset.UTC) : placed(at);
                LocalDate day = real ? LocalDate.ofInstant(placed, zone) : at.toLocalDate();
                if (!opens(day, days)) {
                    shut++;
                    times.fastForward(floating(beginOf(day.plusDays(1))));
                } else if (placed.isAfter(after) && (best == null || placed.isBefore(best))) {
                    best = placed;
                    bestAt = at;
                }
            }
        }

        private LocalDateTime beginOf(LocalDate day) {
            return real
                    ? LocalDateTime.ofInstant(day.atStartOfDay(zone).toInstant(), ZoneOffset.UTC)
                    : day.atStartOfDay();
        }
    }

    private static boolean opens(LocalDate day, @Nullable WorkingCalendar days) {
        return days == null || days.isOpen(day);
    }

    private Instant placed(LocalDateTime at) {
        return ZonedDateTime.of(at, zone).toInstant();
    }

    private static DateTime floating(LocalDateTime at) {
        return new DateTime(
                (java.util.TimeZone) null,
                at.getYear(),
                at.getMonthValue() - 1,
                at.getDayOfMonth(),
                at.getHour(),
                at.getMinute(),
                at.getSecond());
    }

    private static LocalDateTime local(DateTime at) {
        return LocalDateTime.of(
                at.getYear(), at.getMonth() + 1, at.getDayOfMonth(), at.getHours(), at.getMinutes(), at.getSeconds());
    }
}
