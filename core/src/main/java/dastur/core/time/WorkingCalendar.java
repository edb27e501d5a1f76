package dastur.core.time;

import java.time.DayOfWeek;
import java.time.Duration;
import java.time.Instant;
import java.time.LocalDate;
import java.time.LocalTime;
import java.time.ZoneId;
import java.time.ZonedDateTime;
import java.util.Collections;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.TreeMap;
import java.util.TreeSet;

/**
 * Hours, holidays and zone in which working durations count. Correct across changes of the clock: hours are real hours
 * between the local opening and closing of each day (law 7).
 *
 * @param hours opening hours by day of the week, in order and not overlapping; a missing day is closed
 */
public record WorkingCalendar(
        CalendarKey key, String name, ZoneId zone, Map<DayOfWeek, List<Hours>> hours, Set<LocalDate> holidays) {
    /** How far ahead working time is looked for (D28). */
    private static final int MAX_DAYS = 400;

    /** Around the clock in UTC: what counts when nothing else is named. */
    public static final WorkingCalendar ALWAYS =
            new WorkingCalendar(new CalendarKey("always"), "Around the clock", ZoneId.of("UTC"), Map.of(), Set.of());

    /** Monday to Friday from 8 to 17, without holidays. */
    public static WorkingCalendar weekdays(ZoneId zone) {
        Map<DayOfWeek, List<Hours>> hours = new TreeMap<>();
        for (DayOfWeek day = DayOfWeek.MONDAY; day != DayOfWeek.SATURDAY; day = day.plus(1)) {
            hours.put(day, List.of(new Hours(LocalTime.of(8, 0), LocalTime.of(17, 0))));
        }
        return new WorkingCalendar(new CalendarKey("weekdays"), "Weekdays", zone, hours, Set.of());
    }

    /**
     * Opening hours of a day.
     *
     * @param to the end, exclusive; midnight means the end of the day
     */
    public record Hours(LocalTime from, LocalTime to) {
        public Hours {
            if (!to.equals(LocalTime.MIDNIGHT) && !from.isBefore(to)) {
                throw new IllegalArgumentException(
                        "Opening hours end after they begin, but were " + from + " to " + to + ".");
            }
        }
    }

    public WorkingCalendar {
        hours = Collections.unmodifiableMap(new TreeMap<>(hours));
        holidays = Collections.unmodifiableSet(new TreeSet<>(holidays));
    }

    /** The instant a span after a start; empty when there is no such working time within 400 days. */
    public Optional<Instant> after(Instant start, Span span) {
        if (!span.working()) {
            return Optional.of(clockAfter(start, span));
        }
        return span.unit() == Span.Unit.DAY ? workingDaysAfter(start, span.amount()) : workingTimeAfter(start, span);
    }

    private Instant clockAfter(Instant start, Span span) {
        return span.unit() == Span.Unit.DAY
                ? start.atZone(zone).plusDays(span.amount()).toInstant()
                : start.plusSeconds(span.roughSeconds());
    }

    private Optional<Instant> workingDaysAfter(Instant start, long days) {
        ZonedDateTime local = start.atZone(zone);
        LocalDate date = local.toLocalDate();
        long left = days;
        for (int i = 0; i < MAX_DAYS && left > 0; i++) {
            date = date.plusDays(1);
            if (isOpen(date)) {
                left--;
            }
        }
        return left > 0
                ? Optional.empty()
                : Optional.of(ZonedDateTime.of(date, local.toLocalTime(), zone).toInstant());
    }

    private Optional<Instant> workingTimeAfter(Instant start, Span span) {
        Duration left = Duration.ofSeconds(span.roughSeconds());
        LocalDate date = start.atZone(zone).toLocalDate();
        for (int i = 0; i < MAX_DAYS; i++, date = date.plusDays(1)) {
            for (Hours open : hoursOf(date)) {
                Instant from = max(start, at(date, open.from()));
                Instant to = endOf(date, open);
                if (from.isBefore(to)) {
                    Duration here = Duration.between(from, to);
                    if (here.compareTo(left) >= 0) {
                        return Optional.of(from.plus(left));
                    }
                    left = left.minus(here);
                }
            }
        }
        return Optional.empty();
    }

    /** How long is left from a moment to a later one: in working time or on the clock; zero when it is past. */
    public Duration between(Instant from, Instant to, boolean working) {
        if (!from.isBefore(to)) {
            return Duration.ZERO;
        }
        if (!working) {
            return Duration.between(from, to);
        }
        Duration open = Duration.ZERO;
        LocalDate last = to.atZone(zone).toLocalDate();
        LocalDate date = from.atZone(zone).toLocalDate();
        for (int i = 0; i < MAX_DAYS && !date.isAfter(last); i++, date = date.plusDays(1)) {
            for (Hours hours : hoursOf(date)) {
                Instant begin = max(from, at(date, hours.from()));
                Instant end = endOf(date, hours);
                Instant until = end.isAfter(to) ? to : end;
                if (begin.isBefore(until)) {
                    open = open.plus(Duration.between(begin, until));
                }
            }
        }
        return open;
    }

    /** Whether the calendar is open at an instant. */
    public boolean isOpenAt(Instant instant) {
        LocalDate date = instant.atZone(zone).toLocalDate();
        return hoursOf(date).stream()
                .anyMatch(open -> !instant.isBefore(at(date, open.from())) && instant.isBefore(endOf(date, open)));
    }

    /** Whether it opens at all on a day. */
    public boolean isOpen(LocalDate date) {
        return !hoursOf(date).isEmpty();
    }

    private List<Hours> hoursOf(LocalDate date) {
        if (holidays.contains(date)) {
            return List.of();
        }
        if (hours.isEmpty()) {
            return List.of(new Hours(LocalTime.MIDNIGHT, LocalTime.MIDNIGHT));
        }
        return hours.getOrDefault(date.getDayOfWeek(), List.of());
    }

    private Instant at(LocalDate date, LocalTime time) {
        return ZonedDateTime.of(date, time, zone).toInstant();
    }

    private Instant endOf(LocalDate date, Hours open) {
        return open.to().equals(LocalTime.MIDNIGHT) ? at(date.plusDays(1), LocalTime.MIDNIGHT) : at(date, open.to());
    }

    private static Instant max(Instant a, Instant b) {
        return a.isAfter(b) ? a : b;
    }
}
