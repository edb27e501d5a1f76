package dastur.core.start;

import static org.assertj.core.api.Assertions.assertThat;

import dastur.core.start.Timetable.Mark;
import dastur.core.start.Timetable.Passed;
import dastur.core.start.Timetable.Turn;
import dastur.core.start.Timetable.Verdict;
import dastur.core.time.Rhythm;
import dastur.core.workflow.Trigger.Missed;
import dastur.core.workflow.Trigger.Overlap;
import dastur.core.workflow.Trigger.TimeComes;
import java.time.Duration;
import java.time.Instant;
import java.time.LocalDateTime;
import java.time.ZoneId;
import java.util.Map;
import java.util.stream.Collectors;
import org.jspecify.annotations.Nullable;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;

/** What is done about a schedule: in time, late, missed, skipped, waiting, side by side (I10). */
class TimetableTest {
    private static final Instant FIRST = Instant.parse("2026-11-29T04:00:00Z");

    private static TimeComes hourly(Missed missed, Overlap overlap) {
        Rhythm rhythm =
                new Rhythm("FREQ=HOURLY", LocalDateTime.parse("2026-11-29T04:00"), ZoneId.of("UTC"), null, null);
        return new TimeComes(null, rhythm, null, Map.of(), missed, overlap);
    }

    private static Turn at(String after, Missed missed, Overlap overlap, int underWay, boolean waits) {
        Instant now = FIRST.plus(Duration.parse(after));
        return Timetable.turn(hourly(missed, overlap), new Mark(FIRST, waits), now, underWay, null);
    }

    private static String said(Turn turn) {
        String passed = turn.passed().stream()
                .map(p -> p.count() + " " + p.verdict().word())
                .collect(Collectors.joining(" "));
        String starts = turn.starts() == null
                ? "none"
                : "+" + Duration.between(FIRST, turn.starts()).toHours() + "h" + (turn.late() == null ? "" : " late");
        Mark then = turn.then();
        String next = then == null
                ? "never"
                : "+" + Duration.between(FIRST, then.next()).toHours() + "h" + (then.waits() ? " waits" : "");
        return (passed + " / " + starts + " / " + next).strip();
    }

    @ParameterizedTest
    @CsvSource(delimiter = '|', textBlock = """
                     -PT1S    | MADE_GOOD | SKIPPED | 0  | false | / none / +0h
                     PT0S     | MADE_GOOD | SKIPPED | 0  | false | / +0h / +1h
                     PT60S    | LEFT_OUT  | SKIPPED | 0  | false | / +0h / +1h
                     PT61S    | LEFT_OUT  | SKIPPED | 0  | false | 1 missed / none / +1h
                     PT61S    | MADE_GOOD | SKIPPED | 0  | false | / +0h late / +1h
                     PT30M    | MADE_GOOD | SKIPPED | 0  | false | / +0h late / +1h
                     PT5H30M  | MADE_GOOD | SKIPPED | 0  | false | 5 missed / +5h late / +6h
                     PT5H     | LEFT_OUT  | SKIPPED | 0  | false | 5 missed / +5h / +6h
                     PT5H30M  | LEFT_OUT  | SKIPPED | 0  | false | 5 missed 1 missed / none / +6h
                     PT1S     | MADE_GOOD | SKIPPED | 1  | false | 1 skipped / none / +1h
                     PT1S     | MADE_GOOD | WAITS   | 1  | false | / none / +0h waits
                     PT10M    | MADE_GOOD | WAITS   | 0  | true  | / +0h late / +1h
                     PT5H30M  | LEFT_OUT  | WAITS   | 0  | true  | 5 skipped / +5h late / +6h
                     PT1S     | MADE_GOOD | BESIDE  | 9  | false | / +0h / +1h
                     PT1S     | MADE_GOOD | BESIDE  | 10 | false | 1 skipped / none / +1h
                    """)
    void whatIsDoneFollowsFromWhereItStands(
            String after, Missed missed, Overlap overlap, int underWay, boolean waits, @Nullable String said) {
        assertThat(said(at(after, missed, overlap, underWay, waits))).isEqualTo(said);
    }

    @Test
    void whatIsOverComesNeverAgain() {
        Rhythm once = new Rhythm(null, LocalDateTime.parse("2026-11-29T04:00"), ZoneId.of("UTC"), null, null);
        TimeComes when = new TimeComes(null, once, null, Map.of(), null, null);
        Turn turn = Timetable.turn(when, new Mark(FIRST, false), FIRST, 0, null);
        assertThat(turn.starts()).isEqualTo(FIRST);
        assertThat(turn.then()).isNull();
    }

    /** A made good one starts once, whatever was missed before; all that was missed is told as one. */
    @Test
    void afterAMonthAwayOneStartsAndTheRestIsCounted() {
        Turn turn = at("P30DT5M", Missed.MADE_GOOD, Overlap.SKIPPED, 0, false);
        assertThat(turn.starts()).isEqualTo(FIRST.plus(Duration.ofDays(30)));
        assertThat(turn.passed())
                .containsExactly(new Passed(
                        Verdict.MISSED, FIRST, FIRST.plus(Duration.ofDays(30)).minus(Duration.ofHours(1)), 720));
    }

    @Test
    void ofMoreThanCanBeCountedItStillGoesOnFromNow() {
        Instant now = FIRST.plus(Duration.ofDays(3_000));
        Turn turn = Timetable.turn(
                hourly(Missed.LEFT_OUT, Overlap.SKIPPED), new Mark(FIRST, false), now.plusSeconds(90), 0, null);
        assertThat(turn.then()).isEqualTo(new Mark(now.plus(Duration.ofHours(1)), false));
        assertThat(turn.starts()).isNull();
    }
}
