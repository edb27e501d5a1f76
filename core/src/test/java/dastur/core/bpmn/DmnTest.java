package dastur.core.bpmn;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import dastur.core.workflow.DecisionTable;
import java.util.List;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.EnumSource;

class DmnTest {
    @ParameterizedTest
    @EnumSource(DecisionTable.Hit.class)
    void whatWasWrittenIsReadBackWithoutLoss(DecisionTable.Hit hit) {
        DecisionTable table = new DecisionTable(
                List.of(new DecisionTable.Input("Impact", "ticket.impact"), new DecisionTable.Input("Pier", "ci.site")),
                hit,
                List.of(
                        new DecisionTable.Row(List.of("[1..2]", "\"ALD\", \"GNQ\""), "call \"in\""),
                        new DecisionTable.Row(List.of(">= 3", "-"), "usual")));
        Dmn.Read read = Dmn.read(Dmn.write("How urgent", table));
        assertThat(read.table()).isEqualTo(table);
        assertThat(read.name()).isEqualTo("How urgent");
        assertThat(read.adapted()).isEmpty();
        assertThat(read.leftOut()).isEmpty();
    }

    @Test
    void anotherProgramsTableSaysWhatIsLeftToDo() {
        Dmn.Read read = Dmn.read("""
                <definitions xmlns="https://www.omg.org/spec/DMN/20191111/MODEL/" name="d" namespace="urn:x">
                  <inputData id="i" name="Size"/>
                  <decision id="d1" name="Fee">
                    <decisionTable hitPolicy="COLLECT">
                      <input id="i1" label="Size"><inputExpression typeRef="number"><text>size</text></inputExpression></input>
                      <output name="fee"/><output name="note"/>
                      <rule><inputEntry><text>&lt; 5</text></inputEntry><outputEntry><text>"low"</text></outputEntry><outputEntry><text>"x"</text></outputEntry></rule>
                      <rule><inputEntry><text>not(3)lt; many</text></inputEntry><outputEntry><text>12</text></outputEntry></rule>
                    </decisionTable>
                  </decision>
                </definitions>""");
        assertThat(read.table().rows()).extracting(DecisionTable.Row::result).containsExactly("low", "12");
        assertThat(read.table().rows().getFirst().cells()).containsExactly("< 5");
        assertThat(read.adapted())
                .anySatisfy(a -> assertThat(a).contains("hit policy collect"))
                .anySatisfy(a -> assertThat(a).contains("the input 'Size'"))
                .anySatisfy(a -> assertThat(a).startsWith("row 2:"));
        assertThat(read.leftOut()).contains("input data 'Size'", "every output but the first");
    }

    @Test
    void aFileWithoutATableIsRefusedInASentence() {
        assertThatThrownBy(() -> Dmn.read("<definitions xmlns='https://www.omg.org/spec/DMN/20191111/MODEL/'/>"))
                .hasMessage("The file has no decision table.");
        assertThatThrownBy(() -> Dmn.read("<a/>")).hasMessageContaining("no DMN");
    }
}
