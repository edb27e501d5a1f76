package dastur.core.expression;

import static org.assertj.core.api.Assertions.assertThat;

import dastur.core.json.Json;
import dastur.core.ticket.Field;
import dastur.core.ticket.FieldCatalogue;
import dastur.core.ticket.FieldType;
import java.time.Instant;
import java.util.List;
import java.util.Map;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;
import org.junit.jupiter.params.provider.ValueSource;

class ExpressionsTest {
    private static final Expressions EXPRESSIONS = new Expressions(Vocabulary.ofTicket(new FieldCatalogue(
            List.of(Field.of("lock", "Lock number", FieldType.TEXT), Field.of("reading", "Reading", FieldType.NUMBER)),
            List.of(Field.of("lane", "Lane", FieldType.TEXT)))));
    private static final Instant NOW = Instant.parse("2026-03-02T10:00:00Z");
    private static final Scope SCOPE = Scope.of(
            Map.of(
                    "ticket",
                    Map.of(
                            "title",
                            "Gate stuck",
                            "impact",
                            2L,
                            "plannedStart",
                            "2026-03-02T12:00:00.000Z",
                            "reading",
                            4L),
                    "ci",
                    Map.of("id", "ALD-G1", "kind", "gate")),
            NOW);

    @ParameterizedTest
    @CsvSource(
            delimiter = '¦',
            value = {
                "ticket.impact == 2 ¦ TRUE",
                "ticket.impact > 2 ¦ FALSE",
                "ticket.reading > 3 ¦ TRUE",
                "ticket.lock == 'x' ¦ CANNOT_SAY",
                "has(ticket.lock) ¦ FALSE",
                "has(ticket.lock) && ticket.lock == 'x' ¦ FALSE",
                "ticket.impact == 2 || ticket.lock == 'x' ¦ TRUE",
                "ticket.plannedStart > now ¦ TRUE",
                "ci.kind in ['gate', 'board'] && ticket.title.startsWith('Gate') ¦ TRUE",
            })
    void conditionsSayTrueFalseOrCannotSay(String condition, Verdict expected) {
        assertThat(EXPRESSIONS.explain(condition, SCOPE).verdict()).isEqualTo(expected);
    }

    @Test
    void clausesShowTheValuesTheySaw() {
        Clause.Explained explained =
                EXPRESSIONS.explain("ticket.impact == 1 && (ci.kind == 'gate' || ticket.lock != '')", SCOPE);
        assertThat(explained.verdict()).isEqualTo(Verdict.FALSE);
        assertThat(explained.clauses())
                .containsExactly(
                        new Clause("ticket.impact == 1", Verdict.FALSE, Map.of("ticket.impact", 2L), List.of()),
                        new Clause("ci.kind == \"gate\"", Verdict.TRUE, Map.of("ci.kind", "gate"), List.of()),
                        new Clause("ticket.lock != \"\"", Verdict.CANNOT_SAY, Map.of(), List.of("ticket.lock")));
    }

    @ParameterizedTest
    @CsvSource(
            delimiter = '¦',
            value = {
                "ticket.titel == 'x' ¦ There is no field 'titel'. Did you mean ticket.title?",
                "tickett.title == 'x' ¦ 'tickett' is not known here.",
                "ticket.impact == 'a' ¦ '==' does not work on a whole number and a text.",
                "ticket.impact ¦ This gives a whole number, but a condition that is true or false is needed.",
                "ticket.impact == ¦ This is not a complete expression.",
            })
    void wrongConditionsAreExplained(String condition, String message) {
        assertThat(EXPRESSIONS.problemWithCondition(condition))
                .hasValueSatisfying(p -> assertThat(p.message()).isEqualTo(message));
    }

    /** D27: the library would double the text twenty times and more. */
    @ParameterizedTest
    @ValueSource(
            strings = {
                "['aaaaaaaaaa'].map(x, x+x).map(x, x+x).map(x, x+x).map(x, x+x).map(x, x+x).map(x, x+x).map(x, x+x)"
                        + ".map(x, x+x).map(x, x+x).map(x, x+x).map(x, x+x).map(x, x+x).map(x, x+x).map(x, x+x).map(x, x+x)",
                "[[1,2,3,4,5,6,7,8,9,10]].map(x, x+x).map(x, x+x).map(x, x+x).map(x, x+x).map(x, x+x).map(x, x+x)"
                        + ".map(x, x+x).map(x, x+x).map(x, x+x).map(x, x+x).map(x, x+x).map(x, x+x)",
                "[1,2,3,4,5,6,7,8,9,10].map(a, [1,2,3,4,5,6,7,8,9,10].map(b, [1,2,3,4,5,6,7,8,9,10].map(c,"
                        + " [1,2,3,4,5,6,7,8,9,10].map(d, [1,2,3,4,5,6,7,8,9,10]))))",
            })
    void growthIsBounded(String expression) {
        assertThat(EXPRESSIONS.evaluate(expression, SCOPE)).isInstanceOf(Outcome.Failed.class);
    }

    @Test
    void deepAndLongExpressionsAreRefused() {
        assertThat(EXPRESSIONS.problemWith("(".repeat(80) + "1" + ")".repeat(80)))
                .isPresent();
        assertThat(EXPRESSIONS.problemWith("'" + "a".repeat(4_100) + "'")).isPresent();
    }

    @Test
    void joinedTextsAndListsStillWork() {
        assertThat(EXPRESSIONS.evaluate("'a' + ticket.title", SCOPE)).isEqualTo(new Outcome.Value("aGate stuck"));
        assertThat(EXPRESSIONS.evaluate("[1] + [2]", SCOPE)).isEqualTo(new Outcome.Value(List.of(1L, 2L)));
        assertThat(EXPRESSIONS.evaluate("share(1, 4)", SCOPE)).isEqualTo(new Outcome.Value(0.25));
        assertThat(EXPRESSIONS.evaluate("share(1, 0)", SCOPE)).isInstanceOf(Outcome.Failed.class);
    }

    @ParameterizedTest
    @CsvSource(
            delimiter = '¦',
            value = {
                "Gate {{ ci.id }}! ¦ Gate ALD-G1!",
                "{{ ticket.lock ?? 'none' }} ¦ none",
                "[{{ ticket.lock }}] ¦ []",
                "{{ 'a}}b' }} ¦ a}}b",
                "{{ \"??\" + ci.id }} ¦ ??ALD-G1",
                "impact {{ticket.impact}} ¦ impact 2",
            })
    void textsInsertValues(String text, String expected) {
        TextTemplate template = TextTemplate.parse(text);
        assertThat(template.problem(EXPRESSIONS)).isEmpty();
        assertThat(template.render(EXPRESSIONS, SCOPE, TextTemplate.Target.PLAIN)
                        .text())
                .isEqualTo(expected);
    }

    @Test
    void textsEscapeForTheirTarget() {
        TextTemplate template = TextTemplate.parse("{{ 'a\"/ ä' }}");
        assertThat(template.render(EXPRESSIONS, SCOPE, TextTemplate.Target.JSON).text())
                .isEqualTo("a\\\"/ ä");
        assertThat(template.render(EXPRESSIONS, SCOPE, TextTemplate.Target.URL).text())
                .isEqualTo("a%22%2F%20%C3%A4");
    }

    /** M4: a list is a list in JSON, whatever stands in its texts; within quotes it is words. */
    @ParameterizedTest
    @CsvSource(
            delimiter = '¦',
            value = {
                "{\"a\":{{ ['x\"}', 'y'] }}} ¦ {\"a\":[\"x\\\"}\",\"y\"]}",
                "{\"a\":{{ [{'n': 1, 't': 'b'}] }}} ¦ {\"a\":[{\"n\":1,\"t\":\"b\"}]}",
                "{\"a\":\"{{ ['x', 'y'] }}\"} ¦ {\"a\":\"x, y\"}",
                "{\"q\":\"\\\"\",\"a\":{{ [1] }}} ¦ {\"q\":\"\\\"\",\"a\":[1]}",
                "{\"a\":\"{{ 'x\"' }}\",\"b\":{{ [2] }}} ¦ {\"a\":\"x\\\"\",\"b\":[2]}",
                "{\"a\":{{ 7 }}} ¦ {\"a\":7}",
            })
    void listsStandInJsonAsWhatTheyAre(String text, String expected) throws Exception {
        String rendered = TextTemplate.parse(text)
                .render(EXPRESSIONS, SCOPE, TextTemplate.Target.JSON)
                .text();
        assertThat(Json.parse(rendered)).isEqualTo(Json.parse(expected));
    }

    @Test
    void brokenTextsSayWhere() {
        assertThat(TextTemplate.parse("ab {{ ticket.title").problem(EXPRESSIONS))
                .hasValue(new ExpressionProblem("'{{' is not closed by '}}'.", 4));
        assertThat(TextTemplate.parse("ab {{ ticket.nope }}").problem(EXPRESSIONS))
                .isPresent();
    }
}
