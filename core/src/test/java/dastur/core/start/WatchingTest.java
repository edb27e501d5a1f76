package dastur.core.start;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import dastur.core.expression.Expressions;
import dastur.core.expression.Vocabulary;
import dastur.core.signal.Severity;
import dastur.core.signal.Source;
import dastur.core.signal.SourceKey;
import dastur.core.start.Watching.Reading;
import dastur.core.start.Watching.Said;
import dastur.core.start.Watching.Seen;
import dastur.core.start.Watching.Stand;
import dastur.core.start.Watching.Step;
import dastur.core.ticket.CiId;
import dastur.core.ticket.Field;
import dastur.core.ticket.FieldType;
import dastur.core.time.Span;
import dastur.core.workflow.Action;
import dastur.core.workflow.ActionKey;
import java.time.Instant;
import java.util.List;
import java.util.Map;
import org.jspecify.annotations.Nullable;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;

/** What a watch makes of its readings: for at least, calm, what could not be read, and gaps (I11). */
class WatchingTest {
    private static final Instant BEGIN = Instant.parse("2026-11-29T04:00:00Z");
    private static final Action AGE = new Action(
            new ActionKey("kiosk.age"),
            "Read",
            "Reads.",
            "kiosks",
            new Action.HttpCall("GET", "/age", Map.of(), null, null),
            List.of(),
            List.of(
                    new Action.Output(Field.of("age", "Age", FieldType.WHOLE), "/age"),
                    new Action.Output(Field.of("title", "Title", FieldType.TEXT), "/title"),
                    new Action.Output(Field.of("all", "All", FieldType.LIST), "/all")),
            List.of(),
            Action.Repeat.FREE,
            false,
            Span.parse("5 s"),
            1,
            Span.parse("1 s"));

    private static Watch watch(@Nullable String atLeast, @Nullable String calm, @Nullable String unreadAfter) {
        return new Watch(
                new SourceKey("kiosks-age"),
                "Kiosks are old",
                true,
                AGE.key(),
                Map.of(),
                Span.parse("1 min"),
                "read.age > 20",
                atLeast == null ? null : Span.parse(atLeast),
                calm,
                Severity.MINOR,
                new CiId("kiosk-04"),
                unreadAfter == null ? null : Span.parse(unreadAfter));
    }

    /** One letter a minute: + holds, - does not, c does not and is calm, ? could not be read, . no reading. What is said stands at its minute. */
    private static String played(Watch watch, String readings) {
        Stand stand = Stand.NEW;
        StringBuilder said = new StringBuilder();
        for (int i = 0; i < readings.length(); i++) {
            char c = readings.charAt(i);
            if (c == '.') {
                continue;
            }
            Said verdict = c == '+' ? Said.HOLDS : c == '?' ? Said.COULD_NOT_BE_READ : Said.DOES_NOT;
            Reading reading = new Reading(BEGIN.plusSeconds(60L * i), verdict, c == 'c', Map.of(), null);
            Step step = Watching.step(watch, stand, new Seen(reading, Map.of()));
            int minute = i;
            step.turns().forEach(t -> said.append(minute).append(t.turn()).append(' '));
            stand = step.stand();
        }
        return said.toString().strip();
    }

    @ParameterizedTest
    @CsvSource(delimiter = '|', textBlock = """
                     -         |           | --++++cc      | 2FAULT 6WELL
                     -         |           | +++           | 0FAULT
                     2 min     |           | ++-+++c       | 5FAULT 6WELL
                     2 min     |           | +?+c          | 2FAULT 3WELL
                     2 min     |           | +??c          |
                     2 min     |           | +++---c       | 2FAULT 6WELL
                     3 min     |           | +...+++       |
                     3 min     |           | +...++++      | 7FAULT
                     -         | 2 min     | c??c          |
                     -         | 2 min     | c???c         | 3CANNOT_BE_READ 4READ_AGAIN
                     -         | 2 min     | +???+c        | 0FAULT 3CANNOT_BE_READ 4READ_AGAIN 5WELL
                     -         | 2 min     | c?...?.?c     | 7CANNOT_BE_READ 8READ_AGAIN
                     -         |           | c????c        |
                    """)
    void whatIsSaidFollowsFromTheReadings(
            String atLeast, @Nullable String unreadAfter, String readings, @Nullable String said) {
        Watch watch = watch(atLeast.equals("-") ? null : atLeast, null, unreadAfter);
        assertThat(played(watch, readings)).isEqualTo(said == null ? "" : said);
    }

    @Test
    void theRulesJudgeWhatWasRead() {
        Expressions over = new Expressions(Vocabulary.ofReading(AGE, false));
        Watch plain = watch(null, null, null);
        assertThat(Watching.judged(plain, over, Map.of("age", 21L), BEGIN)
                        .whole()
                        .said())
                .isEqualTo(Said.HOLDS);
        assertThat(Watching.judged(plain, over, Map.of("age", 20L), BEGIN)
                        .whole()
                        .calm())
                .isTrue();
        assertThat(Watching.judged(plain, over, Map.of(), BEGIN).whole().said())
                .as("an absent value is no value")
                .isEqualTo(Said.COULD_NOT_BE_READ);
        Watch apart = watch(null, "read.age < 5", null);
        assertThat(Watching.judged(apart, over, Map.of("age", 10L), BEGIN)
                        .whole()
                        .calm())
                .isFalse();
        assertThat(Watching.judged(apart, over, Map.of("age", 4L), BEGIN)
                        .whole()
                        .calm())
                .isTrue();
    }

    @Test
    void itsSourceTakesWhatCanBeAValue() {
        Source source = watch(null, null, null).source(AGE, Source.Otherwise.KEPT, null);
        assertThat(source.mapping().own())
                .as("a list is no value, and 'title' is said of every signal")
                .extracting(Field::name)
                .containsExactly("age");
    }

    @Test
    void howOftenHasBounds() {
        assertThatThrownBy(() -> new Watch(
                        new SourceKey("w"),
                        "W",
                        true,
                        AGE.key(),
                        Map.of(),
                        Span.parse("5 s"),
                        "true",
                        null,
                        null,
                        Severity.MINOR,
                        null,
                        null))
                .hasMessageContaining("10 seconds");
    }
}
