package dastur.core.time;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import net.jqwik.api.ForAll;
import net.jqwik.api.Property;
import net.jqwik.api.constraints.LongRange;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;
import org.junit.jupiter.params.provider.ValueSource;

/** Lengths of time as people write them. */
class SpanTest {
    @ParameterizedTest
    @CsvSource({
        "30 min, 30 min, 1800",
        "30min, 30 min, 1800",
        "1 minute, 1 min, 60",
        "45 s, 45 s, 45",
        "2 seconds, 2 s, 2",
        "4 working h, 4 working h, 14400",
        "4 Working Hours, 4 working h, 14400",
        "1 day, 1 day, 86400",
        "2 working days, 2 working days, 172800",
        "0 min, 0 min, 0"
    })
    void manyWordsAreUnderstoodAndOneIsWritten(String text, String written, long seconds) {
        Span span = Span.parse(text);
        assertThat(span).hasToString(written);
        assertThat(span.roughSeconds()).isEqualTo(seconds);
    }

    @ParameterizedTest
    @ValueSource(strings = {"", "min", "-1 min", "1.5 h", "4 workingh", "3 weeks", "1 min 30 s", "12345678 min"})
    void whatIsNoLengthOfTimeIsRefusedWithAnExample(String text) {
        assertThatThrownBy(() -> Span.parse(text))
                .isInstanceOf(IllegalArgumentException.class)
                .hasMessageContaining("30 min, 4 working h");
    }

    @Property(tries = 200)
    void whatIsWrittenIsReadBack(
            @ForAll @LongRange(max = 999_999) long amount, @ForAll Span.Unit unit, @ForAll boolean working) {
        Span span = new Span(amount, unit, working);
        assertThat(Span.parse(span.toString())).isEqualTo(span);
    }
}
