package dastur.core.start;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import dastur.core.expression.Expressions;
import dastur.core.expression.Vocabulary;
import dastur.core.json.Json;
import dastur.core.signal.Mapping;
import dastur.core.signal.Severity;
import dastur.core.signal.Source;
import dastur.core.signal.SourceKey;
import dastur.core.start.Watching.Said;
import dastur.core.start.Watching.Seen;
import dastur.core.start.Watching.Stand;
import dastur.core.start.Watching.Step;
import dastur.core.ticket.Field;
import dastur.core.ticket.FieldType;
import dastur.core.time.Span;
import dastur.core.workflow.Action;
import dastur.core.workflow.ActionKey;
import java.time.Instant;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.List;
import java.util.Map;
import java.util.stream.IntStream;
import org.jspecify.annotations.Nullable;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;

/** A watch over a list: each row goes its own way, and none is passed over unnoticed. */
class WatchingRowsTest {
    private static final Instant BEGIN = Instant.parse("2026-11-29T04:00:00Z");
    private static final Action PAPER = new Action(
            new ActionKey("kiosk.paper"),
            "Read",
            "Reads.",
            "kiosks",
            new Action.HttpCall("GET", "/paper", Map.of(), null, null),
            List.of(),
            List.of(
                    new Action.Output(Field.of("kiosks", "Kiosks", FieldType.LIST), "/kiosks"),
                    new Action.Output(Field.of("least", "Least", FieldType.WHOLE), "/least")),
            List.of(),
            Action.Repeat.FREE,
            false,
            Span.parse("5 s"),
            1,
            Span.parse("1 s"));
    private static final Expressions RULES = new Expressions(Vocabulary.ofReading(PAPER, true));

    private static Watch watch(@Nullable String atLeast, @Nullable String calm, @Nullable String unreadAfter) {
        return new Watch(
                new SourceKey("kiosk-paper"),
                "A kiosk is nearly out of paper",
                true,
                PAPER.key(),
                Map.of(),
                Span.parse("1 min"),
                "row.metres < read.least",
                atLeast == null ? null : Span.parse(atLeast),
                calm,
                Severity.MINOR,
                null,
                unreadAfter == null ? null : Span.parse(unreadAfter),
                new Watch.Each("kiosks", "kiosk", "kiosk"));
    }

    private static Map<String, Object> row(String known, @Nullable Long metres) {
        return metres == null ? Map.of("kiosk", known) : Map.of("kiosk", known, "metres", metres);
    }

    /** What is read in a minute: "a9 b40" are rows and their metres, "a?" one that lacks them, "-" an empty list, "!" nothing. */
    private static Seen seen(Watch watch, String minute, Instant at) {
        if (minute.equals("!")) {
            return Seen.nothing(at, "It did not answer.");
        }
        List<Map<String, Object>> rows = Arrays.stream(minute.split(" "))
                .filter(r -> !r.equals("-"))
                .map(r -> row(r.substring(0, 1), r.endsWith("?") ? null : Long.valueOf(r.substring(1))))
                .toList();
        return Watching.judged(watch, RULES, Map.of("kiosks", rows, "least", 20L), at);
    }

    /** What is said, minute by minute: + a fault, - well again, ? cannot be read, ! read again. */
    private static String played(Watch watch, String minutes) {
        Stand stand = Stand.NEW;
        List<String> said = new ArrayList<>();
        String[] all = minutes.split(",");
        for (int i = 0; i < all.length; i++) {
            Step step = Watching.step(watch, stand, seen(watch, all[i].strip(), BEGIN.plusSeconds(60L * i)));
            // As it is kept between two readings.
            stand = Json.read(Json.write(step.stand()), Stand.class);
            for (Watching.Turned t : step.turns()) {
                String turn =
                        switch (t.turn()) {
                            case FAULT -> "+";
                            case WELL -> "-";
                            case CANNOT_BE_READ -> "?";
                            case READ_AGAIN -> "!";
                        };
                said.add(i + turn + (t.row() == null ? "" : t.row()));
            }
        }
        return String.join(" ", said);
    }

    @ParameterizedTest(name = "{3}: {4}")
    @CsvSource(delimiter = '|', textBlock = """
            -     | -               | -     | a9 b40, a9 b40, a30 b40           | 0+a 2-a
            -     | -               | -     | a9 b40, a9 b10, a30 b10, a30 b30  | 0+a 1+b 2-a 3-b
            -     | -               | -     | a9, -                             | 0+a 1-a
            -     | -               | -     | a9, b9, a9                        | 0+a 1+b 1-a 2+a 2-b
            -     | -               | -     | a9, !, a9, !, -                   | 0+a 4-a
            -     | -               | -     | a9 b9, a? b9, a? b30, a30         | 0+a 0+b 2-b 3-a
            -     | -               | -     | a?, a?                            |
            -     | -               | -     | a9, a?, -                         | 0+a 2-a
            2 min | -               | -     | a9, a9 b9, a9 b9, b9, b9          | 2+a 3+b 3-a
            2 min | -               | -     | a9, a30, a9, a9                   |
            2 min | -               | -     | a9, !, a9                         | 2+a
            -     | row.metres > 50 | -     | a9, a30, a51                      | 0+a 2-a
            -     | row.metres > 50 | -     | a9, a30, -                        | 0+a 2-a
            -     | -               | 1 min | a9, !, !, a9, -                   | 0+a 2? 3! 4-a
            -     | -               | 1 min | a?, a?, a30                       | 1? 2!
            """)
    void eachRowGoesItsOwnWay(String atLeast, String calm, String unreadAfter, String minutes, @Nullable String said) {
        Watch watch = watch(given(atLeast), given(calm), given(unreadAfter));
        assertThat(played(watch, minutes)).isEqualTo(said == null ? "" : said);
    }

    private static @Nullable String given(String text) {
        return text.equals("-") ? null : text;
    }

    @Test
    void whatCannotBeJudgedHidesNoOther() {
        Seen seen = seen(watch(null, null, null), "a9 b? c40", BEGIN);
        assertThat(seen.whole().said()).isEqualTo(Said.HOLDS);
        assertThat(seen.whole().why()).isEqualTo("1 of 3 rows lack a value that the rule needs: b.");
        assertThat(seen.whole().values()).containsEntry("rows", 3L).containsEntry("hold", "a");
        assertThat(seen.rows().get("a").values()).containsEntry("metres", 9L);
    }

    @Test
    void aListThatCannotBeTakenApartSaysNothingOfItsRows() {
        Watch watch = watch(null, null, null);
        Stand stand = Watching.step(watch, Stand.NEW, seen(watch, "a9", BEGIN)).stand();
        List<Object> many = new ArrayList<>(IntStream.rangeClosed(0, Watching.MOST_ROWS)
                .mapToObj(i -> row("k" + i, 30L))
                .toList());
        Map<String, Object> wrong = Map.of(
                "has no list 'kiosks'", "none",
                "501 rows", many,
                "Two rows are known by 'b'", List.of(row("b", 30L), row("b", 9L)),
                "Two rows are known by 'B x'", List.of(row("b  x", 30L), row("B x", 9L)),
                "Row 2 has no 'kiosk'", List.of(row("b", 30L), Map.of("metres", 3L)),
                "Row 1 has no 'kiosk'", List.of("b"),
                "of at most 100", List.of(row("x".repeat(101), 1L)));
        wrong.forEach((why, list) -> {
            Seen seen = Watching.judged(watch, RULES, Map.of("kiosks", list, "least", 20L), BEGIN.plusSeconds(60));
            assertThat(seen.whole().said()).as(why).isEqualTo(Said.COULD_NOT_BE_READ);
            assertThat(seen.whole().why()).contains(why);
            Step step = Watching.step(watch, stand, seen);
            assertThat(step.turns()).as(why).isEmpty();
            assertThat(step.stand().rows().get("a").inFault()).as(why).isTrue();
        });
        assertThat(Watching.judged(watch, RULES, Map.of("kiosks", many.subList(1, 501), "least", 20L), BEGIN)
                        .whole()
                        .said())
                .isEqualTo(Said.DOES_NOT);
    }

    @Test
    void whatIsWellIsNotKept() {
        Watch watch = watch(null, null, null);
        Stand stand = Watching.step(watch, Stand.NEW, seen(watch, "a9 b40 c41", BEGIN))
                .stand();
        assertThat(stand.rows()).containsOnlyKeys("a");
        assertThat(stand.inFault()).isTrue();
        assertThat(Watching.step(watch, stand, seen(watch, "b40", BEGIN.plusSeconds(60)))
                        .stand()
                        .rows())
                .isEmpty();
    }

    @Test
    void whereItStoodBeforeThereWereRowsIsStillRead() {
        Stand old = Json.read(
                "{\"inFault\":true,\"holdsSince\":\"2026-11-29T04:00:00.000Z\",\"unreadSaid\":false}", Stand.class);
        assertThat(old.inFault()).isTrue();
        assertThat(old.rows()).isEmpty();
    }

    @Test
    void aRuleOverTheWholeKnowsNoRow() {
        assertThat(new Expressions(Vocabulary.ofReading(PAPER, false)).problemWithCondition("row.metres < 20"))
                .isPresent();
        assertThat(RULES.problemWithCondition("row.metres < 20")).isEmpty();
        assertThatThrownBy(() -> new Watch.Each("kiosks", "not a word", null))
                .isInstanceOf(IllegalArgumentException.class);
    }

    @Test
    void whatMakesTwoTheSameIsSaidAndNotGuessed() {
        List<Mapping.Row> rows = watch(null, null, null)
                .source(PAPER, Source.Otherwise.KEPT, null)
                .mapping()
                .rows();
        assertThat(rows).contains(Mapping.Row.at(Mapping.To.MATTER, "/matter"));
        assertThat(rows).noneMatch(r -> r.to() == Mapping.To.VALUE);
    }
}
