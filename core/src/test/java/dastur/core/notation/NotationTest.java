package dastur.core.notation;

import static org.assertj.core.api.Assertions.assertThat;

import dastur.core.json.Json;
import dastur.core.run.World;
import dastur.core.workflow.ApprovalRule;
import dastur.core.workflow.Bracket;
import dastur.core.workflow.Step;
import dastur.core.workflow.StepId;
import dastur.core.workflow.WorkflowVersion;
import java.util.List;
import java.util.Map;
import java.util.Random;
import java.util.Set;
import net.jqwik.api.ForAll;
import net.jqwik.api.Property;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;

class NotationTest {
    private static final Names NAMES = new Names(
            Map.of("pier-technicians", "Pier technicians", "duty-managers", "Duty managers", "network", "Network"),
            Map.of("ines", "Ines Okafor-Lind"),
            Map.of("board.restart", "Restart a board"),
            Map.of("pier", "Pier ladder"),
            Map.of(),
            Map.of());

    @Property(tries = 300)
    void readingWhatWasWrittenGivesTheSameWorkflow(@ForAll long seed) {
        WorkflowVersion version = Generated.workflow(new Random(seed), seed % 2 == 0);
        String text = Notation.write(version);
        Notation.Read read = Notation.read(text, 1, Names.NONE);
        assertThat(read.problems()).as(text).isEmpty();
        assertThat(read.version()).as(text).isEqualTo(version);
        assertThat(Notation.write(read.version())).isEqualTo(text);
    }

    @Property(tries = 100)
    void jsonKeepsEveryWorkflowToo(@ForAll long seed) {
        WorkflowVersion version = Generated.workflow(new Random(seed), false);
        assertThat(Json.read(Json.write(version), WorkflowVersion.class)).isEqualTo(version);
    }

    @Test
    void aWholeWorkflowReadsLikeAPage() {
        WorkflowVersion gate = World.gateWorkflow(new ApprovalRule.AnyOne());
        String text = Notation.write(gate);
        assertThat(text)
                .contains("look: ask group technicians \"Look at the gate\" within 30 min: \"Close the lane\"")
                .contains("  \"Cleared on the spot\" -> cleared")
                .contains("approve: approve \"Close the lane?\" by any one of group managers within 1 h")
                .doesNotContain("\"Close the lane\" -> approve");
        assertThat(Notation.read(text, 1, Names.NONE).version()).isEqualTo(gate);
    }

    @Test
    void commentsAndTheWordingOfADocumentAreKept() {
        String text = """
                # Why this exists: see the pier handbook.
                workflow w "W"
                  owner ines

                # Look first.
                # Then think.
                look: ask group pier-technicians "Look": "Done"
                  from the document "1. Look at it."

                end: done "done"

                # That is all.
                """;
        WorkflowVersion version = Notation.read(text, 1, NAMES).version();
        assertThat(version.notes().get("look").comment()).isEqualTo("Look first.\nThen think.");
        assertThat(version.notes().get("look").wording()).isEqualTo("1. Look at it.");
        assertThat(Notation.write(version)).isEqualTo(text);
    }

    @ParameterizedTest
    @CsvSource(
            delimiter = '|',
            quoteCharacter = '`',
            value = {
                "ask Pier technicians \"Look at the board\" within 30 min: fixed, needs a part | ask group pier-technicians \"Look at the board\" within 30 min: \"fixed\", \"needs a part\"",
                "approve by one of Duty managers and one of Network within 4 working h | approve \"Approve?\" by any one of group duty-managers, group network within 4 working h",
                "approve \"Go?\" by at least 2 of Duty managers | approve \"Go?\" by at least 2 of group duty-managers",
                "run board.restart board=ticket.ci | run board.restart \"Restart a board\"",
                "run Restart a board board=ticket.ci | run board.restart \"Restart a board\"",
                "tell requester by mail \"All is well\" | tell the requester \"All is well\" as \"Tell: All is well\"",
                "tell Ines Okafor-Lind \"Look\" | tell person ines \"Look\" as \"Tell: Look\"",
                "if ticket.impact = 1 and service.passengers | decide \"Is ticket.impact == 1 && service.passengers?\"",
                "wait 10 min | wait 10 min as \"Wait 10 min\"",
                "wait until ticket.plannedStart | wait until ticket.plannedStart as \"Wait until ticket.plannedStart\"",
                "wait for ticket.state = \"restored\" within 2 h | wait for ticket.state == \"restored\" within 2 h as \"Wait for ticket.state == \\\"restored\\\"\"",
                "for each c in steps.list.certificates: | for each c in steps.list.certificates, in order as \"Each c\"",
                "for each c in steps.list.certificates, 3 at a time, stop at the first failure | for each c in steps.list.certificates, 3 at a time, stop at the first failure as \"Each c\"",
                "repeat until vars.count > 3, every 10 min, at most 5 rounds | repeat until vars.count > 3, every 10 min, at most 5 rounds as \"Until vars.count > 3\"",
                "set ticket.group = \"x\" | update \"Set ticket.group\"",
                "stop \"lane closed\" | stop \"lane closed\"",
            })
    void aSentenceMakesAStep(String written, String canonical) {
        Notation.Sentence made = Notation.sentence(written, Set.of(), NAMES);
        assertThat(made.problem()).isNull();
        assertThat(Notation.write(made.step())).isEqualTo(canonical);
    }

    @ParameterizedTest
    @CsvSource(
            delimiter = '|',
            quoteCharacter = '`',
            value = {
                "aks Pier technicians \"Look\" | 1 | ask",
                "ask Pier technicans \"Look\" | 5 | Pier technicians",
                "run board.restrat now please | 5 | board.restart",
                "ask Pier technicians \"Look | 22 | `\"`",
            })
    void aMistypedSentenceSaysWhereAndProposes(String written, int column, String proposal) {
        NotationProblem problem = Notation.sentence(written, Set.of(), NAMES).problem();
        assertThat(problem.column()).isEqualTo(column);
        assertThat(problem.proposal()).isEqualTo(proposal);
    }

    @Test
    void everyFaultOfATextIsToldAtOnceWithItsPlace() {
        String text = """
                workflow w "W" for incident
                  onwer ines

                look: ask group t "Look": "Done"
                  "Done" -> ned
                  lader pier
                look: wait ten minutes
                end: done "x"
                """;
        List<NotationProblem> problems = Notation.read(text, 1, Names.NONE).problems();
        assertThat(problems)
                .extracting(NotationProblem::line, NotationProblem::column, NotationProblem::proposal)
                .containsExactlyInAnyOrder(
                        org.assertj.core.groups.Tuple.tuple(2, 3, "owner"),
                        org.assertj.core.groups.Tuple.tuple(5, 13, "end"),
                        org.assertj.core.groups.Tuple.tuple(6, 3, "ladder"),
                        org.assertj.core.groups.Tuple.tuple(7, 1, null),
                        org.assertj.core.groups.Tuple.tuple(7, 12, null));
    }

    @ParameterizedTest
    @CsvSource({
        "fro each c in x, for each",
        "aks group t, ask",
        "side bi side, side by side",
        "cal in by pier, call in",
        "tlel, tell",
        "xyzzy, "
    })
    void aSentenceThatBeginsWronglyIsToldWhatMayBeMeant(String typed, String meant) {
        assertThat(Notation.sentence(typed, java.util.Set.of(), Names.NONE)
                        .problem()
                        .proposal())
                .isEqualTo(meant);
    }

    @Test
    void aLineOfAnotherKindOfStepIsAFaultAndNotPassedOver() {
        String text = """
                workflow w "W" for incident
                  owner ines

                rest: wait 5 min
                  ladder pier
                end: done "x"
                """;
        assertThat(Notation.read(text, 1, Names.NONE).problems())
                .singleElement()
                .satisfies(p -> {
                    assertThat(p.line()).isEqualTo(5);
                    assertThat(p.message()).contains("no 'ladder' below it");
                });
    }

    @Test
    void aTextThatIsTooLongOrStandsInByTabsIsRefused() {
        assertThat(Notation.read("x".repeat(1_000_001), 1, Names.NONE).problems())
                .hasSize(1);
        assertThat(Notation.read("workflow w \"W\"\n\towner x\n", 1, Names.NONE)
                        .problems()
                        .getFirst()
                        .message())
                .contains("spaces");
    }

    @Test
    void waysJoinStepsOfOneLevelOnly() {
        String text = """
                workflow w "W"
                  owner ines
                each: for each c in ticket.list, in order as "Each"
                  all ok -> inner
                  some failed -> end
                  none -> end
                  inner: done "x"
                end: done "x"
                """;
        NotationProblem problem = Notation.read(text, 1, Names.NONE).problems().getFirst();
        assertThat(problem.message()).contains("same level");
        assertThat(problem.line()).isEqualTo(4);
    }

    @Test
    void idsOfNewStepsSpeakAndNeverCollide() {
        assertThat(Notation.freeId("Look at the board!", Set.of())).isEqualTo(new StepId("lookAtTheBoard"));
        assertThat(Notation.freeId("Look at the board!", Set.of(new StepId("lookAtTheBoard"))))
                .isEqualTo(new StepId("lookAtTheBoard2"));
        assertThat(Notation.freeId("??", Set.of())).isEqualTo(new StepId("step"));
    }

    @Test
    void aForkKeepsItsLanesApart() {
        String text = """
                workflow w "W"
                  owner ines

                both: side by side "Both"
                  lane "Left"
                    a: done "a"
                  lane "Right" if ticket.impact == 1
                    b: done "b"

                end: done "x"
                """;
        WorkflowVersion version = Notation.read(text, 1, Names.NONE).version();
        Step both = version.step(new StepId("both"));
        assertThat(((Bracket.Fork) both).lanes()).extracting(Bracket.Lane::name).containsExactly("Left", "Right");
        assertThat(both.ways()).containsEntry("joined", new StepId("end"));
        assertThat(Notation.write(version)).isEqualTo(text);
    }
}
