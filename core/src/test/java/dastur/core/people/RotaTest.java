package dastur.core.people;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import dastur.core.people.Rota.Layer;
import dastur.core.people.Rota.Level;
import dastur.core.people.Rota.Shift;
import dastur.core.people.Rota.Swap;
import dastur.core.time.WorkingCalendar.Hours;
import java.time.DayOfWeek;
import java.time.Duration;
import java.time.Instant;
import java.time.LocalDateTime;
import java.time.LocalTime;
import java.time.ZoneId;
import java.util.List;
import java.util.Map;
import net.jqwik.api.ForAll;
import net.jqwik.api.Property;
import net.jqwik.api.constraints.IntRange;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;

class RotaTest {
    private static final ZoneId OSLO = ZoneId.of("Europe/Oslo");
    private static final PersonId SEM = new PersonId("sem");
    private static final PersonId TOMAS = new PersonId("tomas");
    private static final PersonId DARIO = new PersonId("dario");
    /** A Monday. */
    private static final LocalDateTime START = LocalDateTime.of(2026, 10, 5, 8, 0);

    private static Layer weekly(PersonId... people) {
        return new Layer(List.of(people), START, 7, Map.of());
    }

    private static Rota rota(List<Swap> swaps, Layer... layers) {
        return new Rota(new RotaKey("network"), "Network", OSLO, List.of(new Level(List.of(layers))), swaps);
    }

    /** Clocks go back on 25 October 2026, and forward on 28 March 2027: the hand-over stays at eight. */
    @ParameterizedTest
    @CsvSource({
        "2026-10-05T05:59:59Z, ",
        "2026-10-05T06:00:00Z, sem",
        "2026-10-12T05:59:59Z, sem",
        "2026-10-12T06:00:00Z, tomas",
        "2026-10-26T06:59:59Z, sem",
        "2026-10-26T07:00:00Z, tomas",
        "2027-03-29T05:59:59Z, sem",
        "2027-03-29T06:00:00Z, tomas",
    })
    void turnsChangeAtTheSameLocalTimeThroughTheYear(Instant at, String who) {
        assertThat(rota(List.of(), weekly(SEM, TOMAS)).onCall(1, at).map(PersonId::value))
                .isEqualTo(java.util.Optional.ofNullable(who));
    }

    @Test
    void aLayerCountsInItsHoursAndTheNextFillsTheRest() {
        Layer days = new Layer(
                List.of(DARIO),
                START,
                1,
                Map.of(DayOfWeek.MONDAY, List.of(new Hours(LocalTime.of(8, 0), LocalTime.of(16, 0)))));
        Rota rota = rota(List.of(), days, weekly(SEM, TOMAS));
        assertThat(rota.onCall(1, Instant.parse("2026-11-23T08:00:00Z"))).contains(DARIO);
        assertThat(rota.onCall(1, Instant.parse("2026-11-23T15:00:00Z"))).contains(TOMAS);
        assertThat(rota.shifts(1, Instant.parse("2026-11-23T00:00:00Z"), Instant.parse("2026-11-24T00:00:00Z")))
                .containsExactly(
                        new Shift(SEM, Instant.parse("2026-11-23T00:00:00Z"), Instant.parse("2026-11-23T07:00:00Z")),
                        new Shift(DARIO, Instant.parse("2026-11-23T07:00:00Z"), Instant.parse("2026-11-23T15:00:00Z")),
                        new Shift(TOMAS, Instant.parse("2026-11-23T15:00:00Z"), Instant.parse("2026-11-24T00:00:00Z")));
    }

    @Test
    void whatNoLayerCoversIsAGap() {
        Layer untilNoon = new Layer(
                List.of(SEM),
                START,
                7,
                Map.of(DayOfWeek.SUNDAY, List.of(new Hours(LocalTime.NOON, LocalTime.MIDNIGHT))));
        Instant from = Instant.parse("2026-11-22T10:00:00Z");
        List<Shift> shifts = rota(List.of(), untilNoon).shifts(1, from, Instant.parse("2026-11-23T06:00:00Z"));
        assertThat(shifts)
                .containsExactly(
                        new Shift(null, from, Instant.parse("2026-11-22T11:00:00Z")),
                        new Shift(SEM, Instant.parse("2026-11-22T11:00:00Z"), Instant.parse("2026-11-22T23:00:00Z")),
                        new Shift(null, Instant.parse("2026-11-22T23:00:00Z"), Instant.parse("2026-11-23T06:00:00Z")));
    }

    @Test
    void whoStandsInWinsAndTheLastToSaySoWinsOverAll() {
        Instant from = Instant.parse("2026-11-25T10:00:00Z");
        Swap first = new Swap(1, DARIO, from, from.plus(Duration.ofHours(8)));
        Swap second = new Swap(1, SEM, from.plus(Duration.ofHours(1)), from.plus(Duration.ofHours(2)));
        Rota rota = rota(List.of(first, second), weekly(TOMAS));
        assertThat(rota.onCall(1, from.minusMillis(1))).contains(TOMAS);
        assertThat(rota.onCall(1, from)).contains(DARIO);
        assertThat(rota.onCall(1, from.plus(Duration.ofMinutes(90)))).contains(SEM);
        assertThat(rota.onCall(1, from.plus(Duration.ofHours(8)))).contains(TOMAS);
        assertThat(rota.onCall(2, from)).isEmpty();
    }

    @Test
    void whatMakesNoSenseIsRefused() {
        assertThatThrownBy(() -> new Layer(List.of(), START, 7, Map.of())).hasMessageContaining("needs somebody");
        assertThatThrownBy(() -> new Layer(List.of(SEM), START, 0, Map.of())).hasMessageContaining("1 to 366 days");
        assertThatThrownBy(() -> new Swap(1, SEM, Instant.EPOCH, Instant.EPOCH)).hasMessageContaining("ends after");
        assertThatThrownBy(
                        () -> rota(List.of(new Swap(2, SEM, Instant.EPOCH, Instant.EPOCH.plusSeconds(1))), weekly(SEM)))
                .hasMessageContaining("does not have");
    }

    /** Shifts tell at every moment what onCall tells, without holes, whatever the turns and hours are. */
    @Property(tries = 200)
    void shiftsAgreeWithEveryMoment(
            @ForAll @IntRange(min = 1, max = 9) int days,
            @ForAll @IntRange(min = 0, max = 23) int opens,
            @ForAll @IntRange(min = 0, max = 4000) int minutes) {
        Layer part = new Layer(
                List.of(DARIO, SEM),
                START.plusMinutes(minutes),
                days,
                Map.of(DayOfWeek.SATURDAY, List.of(new Hours(LocalTime.of(opens, 0), LocalTime.MIDNIGHT))));
        Swap swap = new Swap(
                1,
                TOMAS,
                Instant.parse("2026-10-24T01:30:00Z"),
                Instant.parse("2026-10-24T01:30:00Z").plusSeconds(60L * minutes + 60));
        Rota rota = rota(List.of(swap), part, new Layer(List.of(SEM, TOMAS), START, days, Map.of()));
        Instant from = Instant.parse("2026-10-20T00:00:00Z").plusSeconds(60L * minutes);
        Instant until = from.plus(Duration.ofDays(10));
        List<Shift> shifts = rota.shifts(1, from, until);
        assertThat(shifts.getFirst().from()).isEqualTo(from);
        assertThat(shifts.getLast().until()).isEqualTo(until);
        for (int i = 1; i < shifts.size(); i++) {
            assertThat(shifts.get(i).from()).isEqualTo(shifts.get(i - 1).until());
            assertThat(shifts.get(i).person()).isNotEqualTo(shifts.get(i - 1).person());
        }
        for (Shift shift : shifts) {
            for (Instant at = shift.from(); at.isBefore(shift.until()); at = at.plus(Duration.ofMinutes(47))) {
                assertThat(rota.onCall(1, at).orElse(null)).isEqualTo(shift.person());
            }
        }
    }
}
