package dastur.core.step.task;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

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
        return Procedure.read(text, Set.of()).steps().stream().map(Step::name).toList();
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

    @Test
    void tasksFollowEachOtherAndKeepTheirWords() {
        Procedure.Steps read = Procedure.read("""
                How to move the boards

                1. Take the board down
                   Mind the cable.

                2. Carry it over
                   - by two people
                """, Set.of(new StepId("takeTheBoard")));
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
        assertThatThrownBy(() -> Procedure.read(text, Set.of()))
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
