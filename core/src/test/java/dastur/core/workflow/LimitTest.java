package dastur.core.workflow;

import static org.assertj.core.api.Assertions.assertThat;

import dastur.core.ticket.CiId;
import dastur.core.ticket.ConfigurationItem;
import dastur.core.ticket.Field;
import dastur.core.ticket.FieldType;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import org.jspecify.annotations.Nullable;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;

/** What an action may be given, beside the type: the edges of it, and values that only look as if they fitted. */
class LimitTest {
    private static final Limit NUMBERS = new Limit(1.0, 20.0, null, null, null);
    private static final Limit TEXTS = new Limit(null, null, "[A-Z]{3}-\\d+", null, null);
    private static final Limit GATES = new Limit(null, null, null, List.of("gate"), List.of("ALD", "GNQ"));

    private static Field field(FieldType type) {
        return Field.of("x", "X", type);
    }

    private static Optional<ConfigurationItem> ci(CiId id) {
        return switch (id.value()) {
            case "ALD-G1" -> Optional.of(item(id, "gate", "ALD"));
            case "NSL-G1" -> Optional.of(item(id, "gate", "NSL"));
            case "lost" -> Optional.of(item(id, "gate", null));
            case "kiosk-03" -> Optional.of(item(id, "kiosk", "ALD"));
            default -> Optional.empty();
        };
    }

    private static ConfigurationItem item(CiId id, String kind, @Nullable String site) {
        return new ConfigurationItem(id, id.value(), kind, null, site, null, null, "in use", Map.of());
    }

    @ParameterizedTest
    @CsvSource({"1, true", "20, true", "0, false", "21, false", "-1, false"})
    void numbersBetween(long value, boolean fits) {
        assertThat(NUMBERS.problem(field(FieldType.WHOLE), value, LimitTest::ci).isEmpty())
                .isEqualTo(fits);
        assertThat(NUMBERS.problem(field(FieldType.NUMBER), (double) value, LimitTest::ci)
                        .isEmpty())
                .isEqualTo(fits);
    }

    @ParameterizedTest
    @CsvSource(
            quoteCharacter = '`',
            value = {"ALD-12, true", "xALD-12, false", "ALD-12x, false", "`ALD-12\nrm -rf /`, false", "'', false"})
    void theWholeTextMatches(String value, boolean fits) {
        assertThat(TEXTS.problem(field(FieldType.TEXT), value, LimitTest::ci).isEmpty())
                .isEqualTo(fits);
    }

    @ParameterizedTest
    @CsvSource({
        "ALD-G1, ",
        "NSL-G1, stands at NSL",
        "lost, stands nowhere",
        "kiosk-03, is a kiosk",
        "nobody, must be a CI that is known",
        "a b/../c, must be a CI that is known"
    })
    void aCiIsOfItsKindAndAtItsSite(String value, @Nullable String problem) {
        Optional<String> found = GATES.problem(field(FieldType.CI), value, LimitTest::ci);
        assertThat(found.isPresent()).isEqualTo(problem != null);
        found.ifPresent(f -> assertThat(f).contains(problem));
    }

    /** An expression that would take for ever elsewhere is answered at once (RE2). */
    @Test
    void anEvilExpressionTakesNoTime() {
        Limit evil = new Limit(null, null, "(a+)+b", null, null);
        assertThat(evil.problem(field(FieldType.TEXT), "a".repeat(490), LimitTest::ci))
                .isPresent();
    }

    @Test
    void aLimitThatFitsNoFieldIsTold() {
        assertThat(NUMBERS.problemWith(field(FieldType.WHOLE))).isEmpty();
        assertThat(NUMBERS.problemWith(field(FieldType.TEXT)).orElseThrow()).contains("no number");
        assertThat(GATES.problemWith(field(FieldType.TEXT)).orElseThrow()).contains("no CI");
        assertThat(TEXTS.problemWith(field(FieldType.CI)).orElseThrow()).contains("no text");
        assertThat(new Limit(5.0, 4.0, null, null, null)
                        .problemWith(field(FieldType.NUMBER))
                        .orElseThrow())
                .contains("may be nothing");
        assertThat(new Limit(null, null, "(", null, null)
                        .problemWith(field(FieldType.TEXT))
                        .orElseThrow())
                .contains("cannot be used");
    }
}
