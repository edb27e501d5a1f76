package dastur.core.signal;

import static dastur.core.signal.Sent.BOARDS;
import static dastur.core.signal.Sent.NOW;
import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import dastur.core.signal.Mapping.Row;
import dastur.core.signal.Mapping.To;
import java.time.Duration;
import java.time.Instant;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.stream.Stream;
import org.jspecify.annotations.Nullable;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;

/** When it is told that nothing comes any more, and when that is over (I2). */
class SilenceTest {
    private static final Source SOURCE =
            Sent.source(Row.at(To.SORT, "/state"), Row.at(To.MATTER, "/unit")).silentAfter(120);

    /** How the matter stands after this was said of it. */
    private static Matter after(Silence.Said said, Instant at) {
        Signal signal = Mapper.read(SOURCE, "1", at, raw(said), Sent.CIS, Sent.expressions(SOURCE))
                .signal();
        assertThat(signal).isNotNull();
        return Matter.first(signal, signal.matter()).after(signal).matter();
    }

    private static Raw raw(Silence.Said said) {
        return new Raw(Map.of("dastur", "silence"), Sent.json(said.body()));
    }

    private static Optional<Silence.Said> said(
            Source source, @Nullable Instant last, Instant listening, @Nullable Matter matter) {
        return Silence.said(source, last, listening, matter, NOW);
    }

    private static Instant ago(int minutes) {
        return NOW.minus(Duration.ofMinutes(minutes));
    }

    @ParameterizedTest(name = "last {0} min ago, listening for {1}: {2}")
    @CsvSource({
        "119, 500, false",
        "120, 500, true",
        "121, 500, true",
        // Nobody was there to take anything: what is not heard yet is not silence.
        "500, 119, false",
        "500, 120, true",
        "-1, 119, false",
        "-1, 120, true",
        // A sender's node may be a moment ahead.
        "0, 0, false"
    })
    void isToldAfterSoLongWithoutAnything(int last, int listening, boolean told) {
        assertThat(said(SOURCE, last < 0 ? null : ago(last), ago(listening), null)
                        .isPresent())
                .isEqualTo(told);
    }

    @Test
    void isAFaultOfItsOwnWhateverTheSourceReads() {
        Silence.Said said = said(SOURCE, ago(130), ago(500), null).orElseThrow();
        Signal signal = Mapper.read(SOURCE, "1", NOW, raw(said), Sent.CIS, Sent.expressions(SOURCE))
                .signal();
        assertThat(signal).isNotNull();
        assertThat(signal.sort()).isEqualTo(Sort.FAULT);
        assertThat(signal.severity()).isEqualTo(Severity.WARNING);
        assertThat(signal.matter()).isEqualTo("silence of board-monitor");
        assertThat(signal.title()).isEqualTo("Nothing comes from Board monitor");
        assertThat(signal.text()).contains("2026-03-02T07:50:00Z", "after 2 h");
    }

    @Test
    void whatASenderPostsIsNeverTakenForIt() {
        Silence.Said said = said(SOURCE, ago(130), ago(500), null).orElseThrow();
        Reading posted = Mapper.read(
                SOURCE,
                "1",
                NOW,
                new Raw(Map.of("user-agent", "dastur"), Sent.json(said.body())),
                Sent.CIS,
                Sent.expressions(SOURCE));
        assertThat(posted.signal() == null ? null : posted.signal().matter()).isNull();
    }

    @Test
    void isToldOnceAndOverWhenSomethingComes() {
        Silence.Said said = said(SOURCE, ago(130), ago(500), null).orElseThrow();
        Matter told = after(said, ago(10));
        assertThat(said(SOURCE, ago(130), ago(500), told)).isEmpty();
        Silence.Said over = said(SOURCE, ago(9), ago(500), told).orElseThrow();
        assertThat(over.body()).contains("recovered");
        Signal signal = Mapper.read(SOURCE, "2", NOW, raw(over), Sent.CIS, Sent.expressions(SOURCE))
                .signal();
        assertThat(signal).isNotNull();
        Matter clear = told.after(signal).matter();
        assertThat(clear.isClear()).isTrue();
        assertThat(said(SOURCE, ago(9), ago(500), clear)).isEmpty();
        assertThat(said(SOURCE, ago(120), ago(500), clear)).isPresent();
    }

    @Test
    void isKnownAgainWhateverTheLettersOfTheSourcesName() {
        Source other = new Source(
                new SourceKey("Gates-N"),
                "Gates",
                true,
                SOURCE.proof(),
                SOURCE.mapping(),
                SOURCE.otherwise(),
                false,
                null,
                List.of(),
                120,
                null);
        Silence.Said said = said(other, ago(130), ago(500), null).orElseThrow();
        Signal signal = Mapper.read(other, "1", NOW, raw(said), Sent.CIS, Sent.expressions(other))
                .signal();
        assertThat(signal).isNotNull();
        assertThat(signal.matter()).isEqualTo(Silence.matter(other.key()));
    }

    @Test
    void saidTwiceItIsTheSame() {
        // Cut off before anybody read it: it is said again in the same words, and known by them.
        assertThat(said(SOURCE, ago(130), ago(500), null)).isEqualTo(said(SOURCE, ago(130), ago(500), null));
        assertThat(Silence.said(SOURCE, ago(130), ago(500), null, NOW.plusSeconds(15)))
                .isEqualTo(said(SOURCE, ago(130), ago(500), null));
    }

    @Test
    void isOverWhenNobodyAsksForItAnyMore() {
        Matter told = after(said(SOURCE, ago(130), ago(500), null).orElseThrow(), ago(10));
        Source shut = new Source(
                BOARDS,
                "Board monitor",
                false,
                SOURCE.proof(),
                SOURCE.mapping(),
                SOURCE.otherwise(),
                false,
                null,
                List.of(),
                120,
                null);
        assertThat(said(SOURCE.silentAfter(null), ago(130), ago(500), told)
                        .orElseThrow()
                        .body())
                .contains("recovered");
        assertThat(said(shut, ago(130), ago(500), told).orElseThrow().body()).contains("recovered");
        assertThat(said(shut, ago(130), ago(500), null)).isEmpty();
        assertThat(said(SOURCE.silentAfter(null), ago(9_000), ago(9_000), null)).isEmpty();
    }

    @ParameterizedTest
    @CsvSource({"4, false", "5, true", "20160, true", "20161, false", "-120, false"})
    void hasABound(int minutes, boolean is) {
        if (is) {
            assertThat(SOURCE.silentAfter(minutes).silentAfterMinutes()).isEqualTo(minutes);
        } else {
            assertThatThrownBy(() -> SOURCE.silentAfter(minutes)).isInstanceOf(IllegalArgumentException.class);
        }
    }

    @Test
    void whatIsUsualIsTheMiddleOfThePauses() {
        List<Instant> came =
                Stream.of(0, 5, 10, 300, 305, 310).map(SilenceTest::ago).toList();
        assertThat(Silence.usually(came)).contains(Duration.ofMinutes(5));
        assertThat(Silence.usually(came.subList(0, 4))).isEmpty();
    }
}
