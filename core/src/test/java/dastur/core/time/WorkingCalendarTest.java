package dastur.core.time;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import java.time.DayOfWeek;
import java.time.Instant;
import java.time.LocalDate;
import java.time.LocalTime;
import java.time.ZoneId;
import java.time.ZonedDateTime;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Set;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;
import org.junit.jupiter.params.provider.ValueSource;

/** Real zone rules: Oslo goes ahead on 29 March 2026 at 02:00 and back on 25 October 2026 at 03:00. */
class WorkingCalendarTest {
    private static final ZoneId OSLO = ZoneId.of("Europe/Oslo");
    private static final WorkingCalendar OFFICE = calendar(
            "08:00",
            "17:00",
            DayOfWeek.MONDAY,
            DayOfWeek.TUESDAY,
            DayOfWeek.WEDNESDAY,
            DayOfWeek.THURSDAY,
            DayOfWeek.FRIDAY);
    private static final WorkingCalendar NIGHT = calendar("00:00", "06:00", DayOfWeek.values());

    private static WorkingCalendar calendar(String from, String to, DayOfWeek... days) {
        Map<DayOfWeek, List<WorkingCalendar.Hours>> hours = new HashMap<>();
        for (DayOfWeek day : days) {
            hours.put(day, List.of(new WorkingCalendar.Hours(LocalTime.parse(from), LocalTime.parse(to))));
        }
        return new WorkingCalendar(new CalendarKey("c"), "C", OSLO, hours, Set.of(LocalDate.of(2026, 12, 25)));
    }

    private static Instant oslo(String local) {
        return ZonedDateTime.of(java.time.LocalDateTime.parse(local), OSLO).toInstant();
    }

    @ParameterizedTest
    @CsvSource({
        // within a day, over a night, over a weekend, from before opening, from a weekend
        "2026-03-02T09:00, 4 working h, 2026-03-02T13:00",
        "2026-03-02T15:00, 4 working h, 2026-03-03T10:00",
        "2026-03-06T16:00, 2 working h, 2026-03-09T09:00",
        "2026-03-02T05:00, 30 working min, 2026-03-02T08:30",
        "2026-03-07T12:00, 1 working h, 2026-03-09T09:00",
        // exactly to closing, and a whole week of hours
        "2026-03-02T08:00, 9 working h, 2026-03-02T17:00",
        "2026-03-02T08:00, 45 working h, 2026-03-06T17:00",
        // days: the same time on the n-th next working day, over weekend and holiday
        "2026-03-05T10:15, 2 working days, 2026-03-09T10:15",
        "2026-12-24T10:00, 1 working days, 2026-12-28T10:00",
        // around the holiday
        "2026-12-24T16:00, 2 working h, 2026-12-28T09:00",
        // a clock day keeps its local time over the change of the clock
        "2026-03-28T12:00, 1 day, 2026-03-29T12:00",
        "2026-10-24T12:00, 1 day, 2026-10-25T12:00",
        // clock hours are real hours
        "2026-03-29T01:00, 2 h, 2026-03-29T04:00",
        "2026-10-25T01:00, 4 h, 2026-10-25T04:00",
    })
    void countsAsPeopleDo(String start, String span, String due) {
        assertThat(OFFICE.after(oslo(start), Span.parse(span))).hasValue(oslo(due));
    }

    /** A night of six local hours has five real ones in March and seven in October. */
    @ParameterizedTest
    @CsvSource({
        "2026-03-29T00:00, 5 working h, 2026-03-29T06:00",
        "2026-03-29T00:00, 6 working h, 2026-03-30T01:00",
        "2026-10-25T00:00, 7 working h, 2026-10-25T06:00",
        "2026-10-25T00:00, 6 working h, 2026-10-25T05:00",
    })
    void hoursAreRealHoursWhenTheClockChanges(String start, String span, String due) {
        assertThat(NIGHT.after(oslo(start), Span.parse(span))).hasValue(oslo(due));
    }

    @Test
    void withoutWorkingTimeThereIsNoDue() {
        WorkingCalendar closed =
                new WorkingCalendar(new CalendarKey("c"), "Never", OSLO, Map.of(DayOfWeek.MONDAY, List.of()), Set.of());
        assertThat(closed.after(Instant.EPOCH, Span.parse("1 working h"))).isEmpty();
        assertThat(closed.after(Instant.EPOCH, Span.parse("1 working days"))).isEmpty();
        assertThat(closed.after(Instant.EPOCH, Span.parse("1 h"))).isPresent();
    }

    @ParameterizedTest
    @ValueSource(strings = {"", "soon", "30", "-5 min", "4 workingh", "9999999 min", "5 weeks"})
    void whatIsNoLengthOfTimeIsRefused(String text) {
        assertThatThrownBy(() -> Span.parse(text)).hasMessageContaining("Write it like 30 min");
    }

    @ParameterizedTest
    @CsvSource({
        "30min, 30 min",
        "4 Working hours, 4 working h",
        "1 day, 1 day",
        "2 working days, 2 working days",
        "45 seconds, 45 s"
    })
    void spansAreReadAsPeopleWriteThem(String text, String normal) {
        assertThat(Span.parse(text)).hasToString(normal);
        assertThat(Span.parse(normal)).isEqualTo(Span.parse(text));
    }
}
