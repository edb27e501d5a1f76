package dastur.store;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.tuple;

import dastur.core.signal.SourceKey;
import dastur.core.start.Extremes;
import dastur.core.start.Watching;
import dastur.core.start.Watching.Said;
import java.math.BigDecimal;
import java.nio.file.Path;
import java.time.Duration;
import java.time.Instant;
import java.util.List;
import java.util.Map;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;

/** What watches saw: stretches for two years, single readings for seven days (I11). */
class WatchesTest {
    private static final SourceKey PAPER = new SourceKey("paper");
    private static final SourceKey OTHER = new SourceKey("other");
    private static final Instant BEGIN = Instant.parse("2026-03-02T10:00:00Z");

    @TempDir
    Path folder;

    private Database database;
    private Watches watches;

    @BeforeEach
    void open() {
        database = Stores.in(folder);
        watches = new Watches(database);
    }

    @AfterEach
    void close() {
        database.close();
    }

    private void saw(SourceKey watch, int minute, Said said, Map<String, Object> values) {
        watches.saw(
                watch,
                new Watching.Reading(
                        at(minute), said, false, values, said == Said.COULD_NOT_BE_READ ? "No answer." : null),
                Watching.Stand.NEW);
    }

    private static Instant at(int minute) {
        return BEGIN.plus(Duration.ofMinutes(minute));
    }

    private List<Instant> single(Instant from, Instant before, int most) {
        return watches.readings(PAPER, from, before, most).stream()
                .map(Watches.Single::at)
                .toList();
    }

    @Test
    void aStretchTellsBetweenWhatItsNumbersLayAndIsMadeOfSingleReadings() {
        saw(PAPER, 0, Said.DOES_NOT, Map.of("metres", 40));
        saw(PAPER, 1, Said.DOES_NOT, Map.of("metres", 12.5));
        saw(OTHER, 1, Said.HOLDS, Map.of("metres", 1));
        saw(PAPER, 2, Said.DOES_NOT, Map.of("metres", 31));
        saw(PAPER, 3, Said.COULD_NOT_BE_READ, Map.of());
        saw(PAPER, 4, Said.DOES_NOT, Map.of("metres", 7));
        assertThat(watches.stretches(PAPER, 10))
                .extracting(Watches.Stretch::said, Watches.Stretch::count, s -> s.extremes()
                        .numbers()
                        .get("metres"))
                .containsExactly(
                        tuple("does not hold", 1L, range("7", "7")),
                        tuple("could not be read", 1L, null),
                        tuple("does not hold", 3L, range("12.5", "40")));
        assertThat(single(at(0), at(3), 10)).containsExactly(at(2), at(1), at(0));
        assertThat(single(at(0), at(3), 2)).containsExactly(at(2), at(1));
        assertThat(watches.readings(PAPER, at(3), at(4), 10))
                .containsExactly(new Watches.Single(at(3), "could not be read", "{}", "No answer."));
    }

    private static Extremes.Range range(String least, String most) {
        return new Extremes.Range(new BigDecimal(least), new BigDecimal(most));
    }

    @Test
    void singleReadingsAreForgottenAfterSevenDaysAndTheirStretchIsNot() {
        for (int i = 0; i < 12; i++) {
            saw(PAPER, i, Said.DOES_NOT, Map.of("metres", i));
            saw(OTHER, i, Said.DOES_NOT, Map.of("metres", i));
        }
        watches.forget(at(10).plus(Watches.READINGS_KEPT));
        assertThat(single(Instant.EPOCH, at(100), 100)).containsExactly(at(11), at(10));
        assertThat(watches.readings(OTHER, Instant.EPOCH, at(100), 100)).hasSize(2);
        assertThat(watches.stretches(PAPER, 10)).hasSize(1).allMatch(s -> s.count() == 12);
        watches.forget(at(12).plus(Watches.KEPT));
        assertThat(watches.stretches(PAPER, 10)).isEmpty();
    }

    /** More than are forgotten in one change. */
    @Test
    void manyAreForgottenAPartAtATime() {
        database.run(session -> session.doWork(c -> {
            for (int second = 0; second < 12_001; second++) {
                Jdbc.update(
                        c,
                        "insert into watch_reading (watch, at, said, read_values) values (?, ?, 'holds', '{}')",
                        PAPER.value(),
                        BEGIN.plusSeconds(second));
            }
        }));
        assertThat(single(Instant.EPOCH, at(1_000), 20_000)).hasSize(12_001);
        Instant then = at(1_000).plus(Watches.READINGS_KEPT);
        assertThat(watches.forget(then)).isFalse();
        assertThat(single(Instant.EPOCH, at(1_000), 20_000))
                .as("the oldest first")
                .hasSize(7_001)
                .doesNotContain(BEGIN);
        assertThat(watches.forget(then)).isFalse();
        assertThat(watches.forget(then)).isTrue();
        assertThat(single(Instant.EPOCH, at(1_000), 20_000)).isEmpty();
    }
}
