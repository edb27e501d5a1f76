package dastur.core.signal;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import dastur.core.json.Json;
import dastur.core.signal.Mapping.Row;
import dastur.core.signal.Mapping.To;
import java.util.List;
import java.util.Map;
import org.jspecify.annotations.Nullable;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;
import org.junit.jupiter.params.provider.ValueSource;

/** Parts of what came that fit an expression (I3), and of whom mail is taken (I2). */
class FittingTest {
    private static final Source BY_SUBJECT = Sent.source(
            Row.at(To.SORT, "/subject")
                    .part("^\\[(\\w+)\\]")
                    .table(Map.of("FAILED", "fault", "DONE", "recovered"), null),
            Row.at(To.CI, "/subject").part("\\d+\\.\\d+\\.\\d+\\.\\d+").by("address"),
            Row.text(To.WHAT, "copied"));

    private static Reading read(Source source, String subject) {
        return Sent.read(source, Json.write(Map.of("subject", subject)), Map.of());
    }

    @Test
    void onlyThePartThatFitsIsTaken() {
        Reading reading = read(BY_SUBJECT, "[DONE] copy of 10.30.0.27 tonight");
        assertThat(reading.signal()).isNotNull();
        assertThat(reading.signal().sort()).isEqualTo(Sort.RECOVERED);
        assertThat(reading.signal().ci()).isEqualTo(Sent.BOARD.id());
        // What came is shown as it came.
        assertThat(reading.cells().getFirst().came()).isEqualTo("[DONE] copy of 10.30.0.27 tonight");
    }

    @ParameterizedTest
    @ValueSource(strings = {"DONE", "copy [DONE]", "[ ] copy", "[]"})
    void whatDecidesAndDoesNotFitIsNotGuessed(String subject) {
        Reading reading = read(BY_SUBJECT, subject);
        assertThat(reading.signal()).isNull();
        assertThat(reading.problem()).isEqualTo("Nothing in it fits the expression.");
    }

    @Test
    void whatDoesNotFitIsOtherwiseWhereThatIsSaid() {
        Source source = Sent.source(
                Row.at(To.SORT, "/subject").part("^\\[(\\w+)\\]").table(Map.of("FAILED", "fault"), "news"),
                Row.at(To.WHAT, "/subject"));
        assertThat(read(source, "nothing of note").signal().sort()).isEqualTo(Sort.NEWS);
        assertThat(read(source, "[OTHER] thing").signal().sort()).isEqualTo(Sort.NEWS);
        assertThat(read(source, "[FAILED] thing").signal().sort()).isEqualTo(Sort.FAULT);
    }

    @Test
    void aCiThatDoesNotFitIsAbsentAndDoesNoHarm() {
        Reading reading = read(BY_SUBJECT, "[FAILED] copy of nothing");
        assertThat(reading.signal()).isNotNull();
        assertThat(reading.signal().ci()).isNull();
    }

    @ParameterizedTest
    @CsvSource(delimiter = '|', textBlock = """
            (                | no regular expression
            (a)(b)           | more than one group
            (?=a)b           | no regular expression
            a\\1             | no regular expression
            """)
    void anExpressionThatIsNoneOrLeavesOpenWhatIsTakenIsRefused(String expression, String why) {
        Row row = Row.at(To.WHAT, "/subject");
        assertThatThrownBy(() -> row.part(expression))
                .isInstanceOf(IllegalArgumentException.class)
                .hasMessageContaining(why);
        assertThatThrownBy(() -> row.part("x".repeat(201))).hasMessageContaining("200");
        assertThat(row.part("(?:a|b)(c)").part()).isEqualTo("(?:a|b)(c)");
        assertThat(row.part(" ").part()).isNull();
    }

    /** By trying all ways it would take longer than the sun shines. */
    @Test
    void noTextMakesItRunAway() {
        assertThat(Fitting.part("^(?:(?:a+)+)+$", "a".repeat(200_000) + "b")).isNull();
    }

    @ParameterizedTest
    @CsvSource(delimiter = '|', textBlock = """
            vault@copies.example      | vault@copies.example | true
            vault@copies.example      | VAULT@Copies.Example | true
            vault@copies.example      | other@copies.example | false
            @copies.example           | other@copies.example | true
            @copies.example           | a@notcopies.example  | false
            @copies.example           | a@copies.example.evil | false
                                      | vault@copies.example | false
            """)
    void mailIsTakenOfThoseWhoAreNamed(@Nullable String named, String from, boolean taken) {
        Source.Post post = new Source.Post("Alarms@Kestrel.example ", named == null ? List.of() : List.of(named));
        assertThat(post.to()).isEqualTo("alarms@kestrel.example");
        assertThat(post.takes(from)).isEqualTo(taken);
    }

    @ParameterizedTest
    @ValueSource(strings = {"", "alarms", "a b@c.example", "@c.example", "<a@c.example>", "a@b@c.example"})
    void whatIsNoAddressIsRefused(String to) {
        assertThatThrownBy(() -> new Source.Post(to, List.of())).isInstanceOf(IllegalArgumentException.class);
    }

    @Test
    void whatComesByMailOrSyslogProvesNothing() {
        assertThat(List.of(Source.Proof.values()).stream()
                        .filter(Source.Proof::proves)
                        .toList())
                .containsExactly(Source.Proof.TOKEN, Source.Proof.SIGNATURE);
    }
}
