package dastur.core.step.check;

import static org.assertj.core.api.Assertions.assertThat;

import dastur.core.step.check.Check.Compare;
import java.util.List;
import java.util.stream.Stream;
import org.jspecify.annotations.Nullable;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.Arguments;
import org.junit.jupiter.params.provider.MethodSource;

/** How rules judge, and what they say with the numbers (N22). */
class ComparisonTest {
    private static Check.Rule rule(Compare compare, @Nullable Double share) {
        return new Check.Rule("R", "measured.x", compare, "5", share, null, null, null, null);
    }

    static Stream<Arguments> judgements() {
        return Stream.of(
                Arguments.of(Compare.HOLDS, true, null, true, "measured.x is true."),
                Arguments.of(Compare.HOLDS, false, null, false, "measured.x is false."),
                Arguments.of(Compare.HOLDS, "true", null, false, "measured.x is true."),
                Arguments.of(Compare.EQUAL, 5L, 5L, true, "5, needs 5."),
                Arguments.of(Compare.EQUAL, 5L, 5.0, true, "5, needs 5."),
                Arguments.of(Compare.EQUAL, "5", 5L, false, "5, needs 5."),
                Arguments.of(Compare.EQUAL, "a", "b", false, "a, needs b."),
                Arguments.of(Compare.DIFFERENT, "a", "b", true, "a, needs to differ from b."),
                Arguments.of(Compare.DIFFERENT, 1L, 1.0, false, "1, needs to differ from 1."),
                Arguments.of(Compare.ABOVE, 6L, 5L, true, "6, needs above 5."),
                Arguments.of(Compare.ABOVE, 5L, 5L, false, "5, needs above 5."),
                Arguments.of(Compare.AT_LEAST, 5L, 5L, true, "5, needs at least 5."),
                Arguments.of(Compare.BELOW, 4.9, 5L, true, "4.9, needs below 5."),
                Arguments.of(Compare.AT_MOST, 5.1, 5L, false, "5.1, needs at most 5."),
                // What cannot be compared is neither above nor below.
                Arguments.of(Compare.ABOVE, "six", 5L, false, "six, needs above 5."),
                Arguments.of(Compare.BELOW, "four", 5L, false, "four, needs below 5."),
                Arguments.of(Compare.AT_MOST, true, 5L, false, "true, needs at most 5."),
                // Times are texts in their order.
                Arguments.of(Compare.BELOW, "2026-03-01", "2026-03-02", true, "2026-03-01, needs below 2026-03-02."),
                Arguments.of(Compare.CONTAINS, "no picture", "picture", true, "no picture, needs contains picture."),
                Arguments.of(Compare.CONTAINS, List.of("a", 2L), 2.0, true, "[a, 2], needs contains 2."),
                Arguments.of(Compare.CONTAINS, List.of("ab"), "a", false, "[ab], needs contains a."));
    }

    @ParameterizedTest
    @MethodSource("judgements")
    void aRuleJudgesAndSaysWithWhat(
            Compare compare, Object value, @Nullable Object against, boolean holds, String sentence) {
        Check.Rule rule = rule(compare, null);
        assertThat(Comparison.holds(rule, value, against)).isEqualTo(holds);
        assertThat(Comparison.sentence(rule, value, against)).isEqualTo(sentence);
    }

    static Stream<Arguments> shares() {
        return Stream.of(
                Arguments.of(10.0, 110L, 100L, true),
                Arguments.of(10.0, 90L, 100L, true),
                Arguments.of(10.0, 111L, 100L, false),
                Arguments.of(10.0, -110L, -100L, true),
                Arguments.of(0.0, 100L, 100L, true),
                Arguments.of(null, 101L, 100L, false),
                Arguments.of(10.0, "110", 100L, false));
    }

    @ParameterizedTest
    @MethodSource("shares")
    void withinIsAShareOfWhatItWas(@Nullable Double share, Object value, Object against, boolean holds) {
        Check.Rule rule = rule(Compare.WITHIN, share);
        assertThat(Comparison.holds(rule, value, against)).isEqualTo(holds);
        assertThat(Comparison.sentence(rule, value, against))
                .contains("needs within " + (share == null || share == 0 ? "0" : "10") + " % of " + against);
    }

    /** R4: nobody reads fifteen digits, and a share is read in percent. */
    @Test
    void numbersAreSaidAsPeopleReadThem() {
        Check.Rule rule = rule(Compare.AT_LEAST, null);
        assertThat(Comparison.sentence(rule, 0.940677966101695, 1234.5678912))
                .isEqualTo("0.940678, needs at least 1234.57.");
        Check.Rule share = new Check.Rule("R", "share(a, b)", Compare.AT_LEAST, "0.95", null, null, null, null, null);
        assertThat(Comparison.sentence(share, 0.940677966101695, 0.95)).isEqualTo("94.1 %, needs at least 95 %.");
    }
}
