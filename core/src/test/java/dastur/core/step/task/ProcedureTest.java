package dastur.core.step.task;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import dastur.core.ticket.Field;
import dastur.core.ticket.FieldType;
import dastur.core.workflow.Step;
import dastur.core.workflow.StepId;
import java.util.List;
import java.util.Set;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;
import org.junit.jupiter.params.provider.ValueSource;

/** A pasted procedure becomes tasks, each with its wording (N29). */
class ProcedureTest {
    private static List<String> names(String text) {
        return Procedure.read(text, Procedure.Under.TASKS, Set.of()).steps().stream()
                .map(Step::name)
                .toList();
    }

    @ParameterizedTest
    @CsvSource(delimiter = '|', textBlock = """
            1. Switch it off          | Switch it off
            2) Switch it off          | Switch it off
            3.1 Switch it off         | Switch it off
            - Switch it off           | Switch it off
            * Switch it off           | Switch it off
            • Switch it off           | Switch it off
            a) Switch it off          | Switch it off
            (b) Switch it off         | Switch it off
            - [ ] Switch it off       | Switch it off
            - [x] Switch it off       | Switch it off
            1. **Switch** `it` off    | Switch it off
            1. See [the plan](http://x) first | See the plan first
            """)
    void eachFormOfAListIsRead(String line, String name) {
        assertThat(names(line)).containsExactly(name);
    }

    private static Procedure.Steps read(Procedure.Under under, String text) {
        return Procedure.read(text, under, Set.of(new StepId("takeTheBoard")));
    }

    private static final String NESTED = """
            1. Take the board down
               Mind the cable.
               1.1 Loosen the screws
               1.2 Hold {{ it }}
            2. Carry it over
            2.1 by two people
            a) slowly
            3. Done
            """;

    @Test
    void whatGoesOnUnderALineIsToldToWhoeverDoesIt() {
        HumanTask first =
                (HumanTask) read(Procedure.Under.INSTRUCTIONS, NESTED).steps().getFirst();
        assertThat(first.instructions()).isEqualTo("Mind the cable.\n– Loosen the screws\n– Hold { { it }}");
        assertThat(first.form()).isNull();
    }

    @Test
    void whatStandsUnderALineIsItsCheckListInOneTask() {
        Procedure.Steps read = read(Procedure.Under.CHECK_LIST, NESTED);
        assertThat(read.steps()).extracting(Step::name).containsExactly("Take the board down", "Carry it over", "Done");
        HumanTask first = (HumanTask) read.steps().getFirst();
        assertThat(first.instructions()).isEqualTo("Mind the cable.");
        assertThat(first.form()).extracting(Field::label).containsExactly("Loosen the screws", "Hold { { it }}");
        assertThat(first.form()).allMatch(f -> f.type() == FieldType.YES_NO && f.required());
        assertThat(((HumanTask) read.steps().get(1)).form())
                .extracting(Field::label)
                .containsExactly("by two people", "slowly");
        assertThat(read.notes().get(first.id().value()).wording())
                .isEqualTo("1. Take the board down\nMind the cable.\n1.1 Loosen the screws\n1.2 Hold {{ it }}");
    }

    @Test
    void asTasksEachIsOneOfItsOwn() {
        assertThat(read(Procedure.Under.TASKS, NESTED).steps())
                .extracting(Step::name)
                .containsExactly(
                        "Take the board down",
                        "Loosen the screws",
                        "Hold { { it }}",
                        "Carry it over",
                        "by two people",
                        "slowly",
                        "Done");
    }

    @ParameterizedTest
    @ValueSource(
            strings = {"- a\n- b\n- c", "1. a\n2. b\n10. c", "3.1 a\n3.2 b\n3.3 c", "a) a\nb) b\nc) c", "* a\n1. b\n- c"
            })
    void linesOfOneLevelAreTasksHoweverTheyBegin(String text) {
        assertThat(read(Procedure.Under.CHECK_LIST, text).steps()).hasSize(3);
    }

    @Test
    void tasksFollowEachOtherAndKeepTheirWords() {
        Procedure.Steps read = read(Procedure.Under.TASKS, """
                How to move the boards

                1. Take the board down
                   Mind the cable.

                2. Carry it over
                   - by two people
                """);
        assertThat(read.steps())
                .extracting(Step::name)
                .containsExactly("Take the board down", "Carry it over", "by two people");
        List<StepId> ids = read.steps().stream().map(Step::id).toList();
        assertThat(ids).doesNotHaveDuplicates().doesNotContain(new StepId("takeTheBoard"));
        assertThat(((HumanTask) read.steps().getFirst()).ways()).containsEntry("Done", ids.get(1));
        assertThat(((HumanTask) read.steps().getLast()).ways()).isEmpty();
        assertThat(read.notes().get(ids.getFirst().value()).wording())
                .isEqualTo("1. Take the board down\nMind the cable.");
    }

    @ParameterizedTest
    @ValueSource(strings = {"", "Just words.", "1.no space", "---"})
    void withoutAListItSaysHowOneLooks(String text) {
        assertThatThrownBy(() -> names(text))
                .isInstanceOf(IllegalArgumentException.class)
                .hasMessageContaining("begins with a number or a dash");
    }

    @Test
    void itIsBounded() {
        assertThat(names("- x\n".repeat(300))).hasSize(300);
        assertThatThrownBy(() -> names("- x\n".repeat(301)))
                .isInstanceOf(IllegalArgumentException.class)
                .hasMessageContaining("301 lines");
    }
}
