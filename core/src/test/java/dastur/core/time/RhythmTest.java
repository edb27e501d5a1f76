package dastur.core.time;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import dastur.core.json.Json;
import java.time.DayOfWeek;
import java.time.Instant;
import java.time.LocalDate;
import java.time.LocalDateTime;
import java.time.LocalTime;
import java.time.ZoneId;
import java.util.List;
import java.util.Map;
import java.util.Set;
import net.jqwik.api.ForAll;
import net.jqwik.api.Property;
import net.jqwik.api.constraints.IntRange;
import org.jspecify.annotations.Nullable;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;
import org.junit.jupiter.params.provider.ValueSource;

/** When something recurring happens: by real rules of real zones, across changes of the clock, holidays and the end of a month. */
class RhythmTest {
    private static final ZoneId BERLIN = ZoneId.of("Europe/Berlin");
    private static final WorkingCalendar OFFICE = new WorkingCalendar(
            new CalendarKey("office"),
            "Office",
            BERLIN,
            Map.of(
                    DayOfWeek.MONDAY,
                    hours(),
                    DayOfWeek.TUESDAY,
                    hours(),
                    DayOfWeek.WEDNESDAY,
                    hours(),
                    DayOfWeek.THURSDAY,
                    hours(),
                    DayOfWeek.FRIDAY,
                    hours()),
            Set.of(LocalDate.of(2026, 12, 24), LocalDate.of(2026, 12, 25)));

    private static List<WorkingCalendar.Hours> hours() {
        return List.of(new WorkingCalendar.Hours(LocalTime.of(8, 0), LocalTime.of(17, 0)));
    }

    private static Rhythm rhythm(@Nullable String rule, String from, String zone) {
        return new Rhythm(rule, LocalDateTime.parse(from), ZoneId.of(zone), null, null);
    }

    /** The clock is put forward on 2026-03-29 at 02:00 and back on 2026-10-25 at 03:00 in Berlin; by half an hour on Lord Howe. */
    @ParameterizedTest
    @CsvSource(delimiter = '|', textBlock = """
                     FREQ=DAILY                         | 2026-03-27T02:30 | Europe/Berlin       | 2026-03-28T01:30:00Z | 2026-03-29T01:30:00Z | 2026-03-30T00:30:00Z
                     FREQ=DAILY                         | 2026-10-23T02:30 | Europe/Berlin       | 2026-10-24T00:30:00Z | 2026-10-25T00:30:00Z | 2026-10-26T01:30:00Z
                     FREQ=HOURLY                        | 2026-03-28T00:00 | Europe/Berlin       | 2026-03-29T00:00:00Z | 2026-03-29T01:00:00Z | 2026-03-29T02:00:00Z
                     FREQ=HOURLY                        | 2026-10-24T00:00 | Europe/Berlin       | 2026-10-25T00:00:00Z | 2026-10-25T01:00:00Z | 2026-10-25T02:00:00Z
                     FREQ=MINUTELY;INTERVAL=15          | 2026-03-29T00:00 | Europe/Berlin       | 2026-03-29T00:45:00Z | 2026-03-29T01:00:00Z | 2026-03-29T01:15:00Z
                     FREQ=MONTHLY;BYMONTHDAY=31         | 2026-01-31T09:00 | Europe/Berlin       | 2026-01-31T08:00:00Z | 2026-03-31T07:00:00Z | 2026-05-31T07:00:00Z
                     FREQ=MONTHLY;BYMONTHDAY=-1         | 2026-01-31T09:00 | Europe/Berlin       | 2026-01-31T08:00:00Z | 2026-02-28T08:00:00Z | 2026-03-31T07:00:00Z
                     FREQ=MONTHLY;BYDAY=2TU             | 2026-01-13T03:00 | America/New_York    | 2026-01-13T08:00:00Z | 2026-02-10T08:00:00Z | 2026-03-10T07:00:00Z
                     FREQ=YEARLY                        | 2028-02-29T00:00 | UTC                 | 2028-02-29T00:00:00Z | 2032-02-29T00:00:00Z | 2036-02-29T00:00:00Z
                     FREQ=WEEKLY;BYDAY=MO,FR            | 2026-11-27T04:15 | Asia/Kolkata        | 2026-11-26T22:45:00Z | 2026-11-29T22:45:00Z | 2026-12-03T22:45:00Z
                     FREQ=DAILY                         | 2026-10-03T02:15 | Australia/Lord_Howe | 2026-10-02T15:45:00Z | 2026-10-03T15:45:00Z | 2026-10-04T15:15:00Z
                     FREQ=DAILY;BYHOUR=2,3;BYMINUTE=45  | 2026-03-28T02:45 | Europe/Berlin       | 2026-03-28T02:45:00Z | 2026-03-29T01:45:00Z | 2026-03-30T00:45:00Z
                    """)
    void itIsPlacedByTheZonesRules(String rule, String from, String zone, Instant a, Instant b, Instant c) {
        Rhythm rhythm = rhythm(rule, from, zone);
        assertThat(rhythm.next(a.minusMillis(1), 3, null)).containsExactly(a, b, c);
        assertThat(rhythm.next(a, null)).contains(b);
    }

    @Test
    void onceIsOnce() {
        Rhythm once = rhythm(null, "2026-11-29T04:15", "Europe/Berlin");
        assertThat(once.next(Instant.EPOCH, 5, null)).containsExactly(Instant.parse("2026-11-29T03:15:00Z"));
        assertThat(once.next(Instant.parse("2026-11-29T03:15:00Z"), null)).isEmpty();
    }

    @Test
    void itGoesOnDaysOfTheCalendarOnly() {
        Rhythm daily = rhythm("FREQ=DAILY", "2026-11-01T04:15", "Europe/Berlin");
        assertThat(daily.next(Instant.parse("2026-12-23T12:00:00Z"), 2, OFFICE))
                .containsExactly(Instant.parse("2026-12-28T03:15:00Z"), Instant.parse("2026-12-29T03:15:00Z"));
        Rhythm everyMinute = rhythm("FREQ=MINUTELY", "2026-11-01T00:00", "Europe/Berlin");
        assertThat(everyMinute.next(Instant.parse("2026-12-23T22:59:00Z"), OFFICE))
                .as("whole days are passed over")
                .contains(Instant.parse("2026-12-27T23:00:00Z"));
    }

    @Test
    void ofACalendarThatNeverOpensNothingComes() {
        WorkingCalendar never = new WorkingCalendar(
                new CalendarKey("never"), "Never", BERLIN, Map.of(DayOfWeek.MONDAY, List.of()), Set.of());
        assertThat(rhythm("FREQ=DAILY", "2026-11-01T04:15", "Europe/Berlin").next(Instant.EPOCH, never))
                .isEmpty();
        assertThat(rhythm("FREQ=MINUTELY", "2026-11-01T04:15", "Europe/Berlin").next(Instant.EPOCH, never))
                .isEmpty();
    }

    @Test
    void itEndsAtItsLastMoment() {
        Rhythm short_ = new Rhythm(
                "FREQ=DAILY",
                LocalDateTime.parse("2026-11-28T04:15"),
                BERLIN,
                LocalDateTime.parse("2026-11-29T04:15"),
                null);
        assertThat(short_.next(Instant.EPOCH, 9, null)).hasSize(2);
        assertThat(rhythm("FREQ=DAILY;COUNT=3", "2026-11-28T04:15", "UTC").next(Instant.EPOCH, 9, null))
                .hasSize(3);
    }

    @Test
    void aDayThatNeverComesGivesNothingAndEnds() {
        assertThat(rhythm("FREQ=YEARLY;BYMONTH=2;BYMONTHDAY=30", "2026-11-28T04:15", "UTC")
                        .next(Instant.parse("2026-11-28T04:15:00Z"), null))
                .isEmpty();
    }

    @ParameterizedTest
    @ValueSource(
            strings = {
                "every day",
                "FREQ=SECONDLY",
                "FREQ=MINUTELY;BYSECOND=1,2",
                "FREQ=DAILY;UNTIL=20270101T000000Z",
                "FREQ=DAILY;INTERVAL=0",
                "FREQ=DAILY;FREQ=HOURLY",
                "INTERVAL=2"
            })
    void whatIsNoRuleIsRefusedInWords(String rule) {
        assertThatThrownBy(() -> rhythm(rule, "2026-11-28T04:15", "UTC"))
                .isInstanceOf(IllegalArgumentException.class)
                .hasMessageMatching("[A-Z].*[^:]");
    }

    @Test
    void itIsKeptAsItWasSaid() {
        Rhythm all = new Rhythm(
                "FREQ=DAILY",
                LocalDateTime.parse("2026-11-28T04:15"),
                BERLIN,
                LocalDateTime.parse("2027-11-28T04:15"),
                new CalendarKey("office"));
        assertThat(Json.read(Json.write(all), Rhythm.class)).isEqualTo(all);
    }

    /** Where one stands does not change when the next comes; none is doubled and none is passed over. */
    @Property(tries = 300)
    void fromAnyMomentTheSameTimesCome(
            @ForAll @IntRange(max = 3) int which, @ForAll @IntRange(max = 60 * 24 * 500) int minutes) {
        String rule = List.of(
                        "FREQ=DAILY", "FREQ=HOURLY;INTERVAL=5", "FREQ=WEEKLY;BYDAY=SU,WE", "FREQ=MONTHLY;BYDAY=-1SU")
                .get(which);
        Rhythm rhythm = rhythm(rule, "2026-01-04T02:30", "Europe/Berlin");
        Instant at = Instant.parse("2026-01-01T00:00:00Z").plusSeconds(60L * minutes);
        Instant next = rhythm.next(at, null).orElseThrow();
        assertThat(next).isAfter(at);
        assertThat(rhythm.next(next.minusMillis(1), null)).contains(next);
        assertThat(rhythm.next(at.plusMillis((next.toEpochMilli() - at.toEpochMilli()) / 2), null))
                .contains(next);
    }
}
