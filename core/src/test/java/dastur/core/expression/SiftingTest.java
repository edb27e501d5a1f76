package dastur.core.expression;

import static org.assertj.core.api.Assertions.assertThat;

import dastur.core.ticket.Field;
import dastur.core.ticket.FieldCatalogue;
import dastur.core.ticket.FieldType;
import java.time.Instant;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Random;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;

/** Conditions that are passed over without being evaluated are never true (I26). */
class SiftingTest {
    private static final Expressions EXPRESSIONS = new Expressions(Vocabulary.ofSignal(
            FieldCatalogue.PLAIN,
            List.of(
                    Field.of("stage", "Stage", FieldType.WHOLE),
                    Field.of("level", "Level", FieldType.NUMBER),
                    Field.of("wet", "Wet", FieldType.YES_NO),
                    Field.of("where", "Where", FieldType.TEXT),
                    Field.of("since", "Since", FieldType.TIME))));

    private static Scope scope(Map<String, Object> signal) {
        return Scope.of(Map.of("signal", signal), Instant.parse("2026-03-02T10:00:00Z"));
    }

    @ParameterizedTest
    @CsvSource(
            delimiter = ';',
            value = {
                "signal.where == 'pier';true",
                "'pier' == signal.where;true",
                "signal.where in ['pier', 'quay'];true",
                "signal.stage == 3;true",
                "signal.level == 2.5;true",
                "signal.wet;true",
                "!signal.wet;true",
                "signal.stage >= 1 && signal.where == 'pier';true",
                "signal.where == 'pier' || signal.wet;false",
                "signal.where != 'pier';false",
                "signal.stage > 3;false",
                "has(signal.wet);false",
                "!(signal.where == 'pier');false",
                "signal.where == signal.title;false",
                "signal.where.startsWith('p');false",
                "signal.since == timestamp('2026-03-02T10:00:00Z');false"
            })
    void whatComparesWithAFixedValueIsSifted(String condition, boolean sifted) {
        assertThat(EXPRESSIONS.problemWithCondition(condition)).isEmpty();
        assertThat(EXPRESSIONS.isSifted(condition)).isEqualTo(sifted);
    }

    @ParameterizedTest
    @CsvSource(
            delimiter = '|',
            value = {
                "signal.where == 'pier'|quay|3|true",
                "signal.where == 'pier'|pier|3|false",
                "signal.where == 'pier'||3|true",
                "signal.stage == 3|pier|3|false",
                "signal.stage == 3|pier|3.7|false",
                "signal.stage == 3|pier|4|true",
                "signal.where == 'pier' && signal.stage == 4|pier|3|true"
            })
    void whatHasAnotherValueIsRuledOut(String condition, String where, double stage, boolean ruledOut) {
        Map<String, Object> signal = new HashMap<>(Map.of("stage", stage));
        if (where != null) {
            signal.put("where", where);
        }
        assertThat(EXPRESSIONS.rulesOut(condition, scope(signal))).isEqualTo(ruledOut);
    }

    /** The law: what is ruled out does not hold. Conditions and values are put together at random. */
    @Test
    void whatIsRuledOutIsNeverTrue() {
        Random random = new Random(7);
        int ruledOut = 0;
        int holds = 0;
        for (int i = 0; i < 3_000; i++) {
            String condition = condition(random, 3);
            Scope scope = scope(values(random));
            boolean out = EXPRESSIONS.rulesOut(condition, scope);
            Verdict verdict = EXPRESSIONS.explain(condition, scope).verdict();
            assertThat(out && verdict == Verdict.TRUE)
                    .as(condition + " over " + scope.root("signal"))
                    .isFalse();
            ruledOut += out ? 1 : 0;
            holds += verdict == Verdict.TRUE ? 1 : 0;
        }
        assertThat(ruledOut).isGreaterThan(500);
        assertThat(holds).isGreaterThan(300);
    }

    private static String condition(Random random, int deep) {
        if (deep == 0 || random.nextInt(3) == 0) {
            List<String> leaves = List.of(
                    "signal.where == 'pier'",
                    "signal.where in ['pier', 'quay']",
                    "signal.where != 'quay'",
                    "signal.stage == 1",
                    "signal.stage in [1, 2]",
                    "signal.stage >= 1",
                    "signal.level == 1.0",
                    "signal.wet",
                    "signal.wet == false",
                    "has(signal.wet)",
                    "has(signal.where)",
                    "1 == signal.stage");
            return leaves.get(random.nextInt(leaves.size()));
        }
        String a = condition(random, deep - 1);
        String b = condition(random, deep - 1);
        return switch (random.nextInt(3)) {
            case 0 -> "(" + a + " && " + b + ")";
            case 1 -> "(" + a + " || " + b + ")";
            default -> "!(" + a + ")";
        };
    }

    private static Map<String, Object> values(Random random) {
        Map<String, Object> values = new HashMap<>();
        List<Object> where = new ArrayList<>(List.of("pier", "quay", "slip"));
        values.put("where", where.get(random.nextInt(3)));
        values.put("stage", List.<Object>of(1, 1L, 1.0, 2, 2.9).get(random.nextInt(5)));
        values.put("level", List.<Object>of(1, 1.0, 1.5).get(random.nextInt(3)));
        values.put("wet", random.nextBoolean());
        values.keySet().removeIf(k -> random.nextInt(5) == 0);
        return values;
    }
}
