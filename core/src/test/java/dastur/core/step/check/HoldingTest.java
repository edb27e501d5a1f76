package dastur.core.step.check;

import static org.assertj.core.api.Assertions.assertThat;

import dastur.core.workflow.StepId;
import java.util.List;
import java.util.Map;
import org.jspecify.annotations.Nullable;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;

/** What a rehearsal takes a check to measure: what its rules want, as far as they say so. */
class HoldingTest {
    @ParameterizedTest
    @CsvSource(
            quoteCharacter = '`',
            value = {
                "measured.picture, EQUAL, 'moves', {picture=moves}",
                "measured.picture, CONTAINS, \"move\", {picture=move}",
                "measured.count, AT_LEAST, 12, {count=12}",
                "measured.count, ABOVE, 12, {count=13}",
                "measured.count, BELOW, -2, {count=-3}",
                "measured.share, AT_MOST, 0.5, {share=0.5}",
                "measured.fine, HOLDS, , {fine=true}",
                "measured.fine, EQUAL, false, {fine=false}",
                "measured.picture, DIFFERENT, 'moves', {}",
                "measured.count, EQUAL, before.count, {}",
                "size(measured.rows), EQUAL, 3, {}",
                "measured.count + 1, EQUAL, 3, {}",
            })
    void itIsWhatTheRulesWant(String value, Check.Compare compare, @Nullable String against, String measured) {
        Check.Rule rule = new Check.Rule("R", value, compare, against, null, null, null, null, null);
        Check check = new Check(new StepId("c"), "C", List.of(rule), null, Map.of(), null, null, null, Map.of(), null);
        assertThat(Holding.of(check)).hasToString(measured);
    }
}
