package dastur.core.notation;

import static org.assertj.core.api.Assertions.assertThat;

import dastur.core.bpmn.Bpmn;
import dastur.core.people.PersonId;
import dastur.core.workflow.Kinds;
import dastur.core.workflow.Step;
import dastur.core.workflow.StepKind;
import dastur.core.workflow.WorkflowVersion;
import java.util.Set;
import java.util.stream.Collectors;
import org.junit.jupiter.api.Test;

/** One workflow with a sentence and a setting of every kind of step: as text, as a diagram, and back. */
class EverySentenceTest {
    private static final String TEXT = """
            workflow every "Every sentence" for incident
              owner teo

            look: ask group technicians "Look at it" within 30 min: "Done"
              overseen by group managers
              may be left out

            come: call in by night as "incident commander" "Come to the pier" within 1 h
              say "Gate {{ ci.id }} stands open."
              exhausted -> nobody

            plain: call in by night "Come" within 30 min
              exhausted -> nobody

            tell: tell the requester, group managers "Somebody comes" as "Tell them"
              say "Within the hour."
              in the room "Gate {{ ticket.number }}" keeping all that is said

            word: tell the requester "A word" as "Tell: A word"

            measure: measure close-lane "How the lane is"
              with gate = ticket.ci

            pause: wait 10 min as "Wait 10 min"

            moment: wait until ticket.createdAt as "Until the moment"

            until: wait for ticket.impact == 1 as "Until it is grave"

            least: wait for ticket.impact == 2 within 2 h as "Until it is less"
              timed out -> nobody

            came: wait for signal "board.up" with key ticket.ci within 1 h as "The board is up"
              timed out -> nobody

            sign: wait for signal "board.down" as "The board is down"

            reply: wait for a reply of the requester within 26 h as "Their answer"
              timed out -> nobody

            here: call other "Do the other"
              with lane = "A"
              done -> new

            new: call other on a new change "Order it"
              set ticket.title = "About " + ticket.title
              with lane = "A"

            known: call other on ticket steps.new.ticket as "Go on there"

            closed: done "it is done"

            nobody: done "nobody came"
            """;

    private static WorkflowVersion read() {
        Notation.Read read = Notation.read(TEXT, 1, Names.NONE);
        assertThat(read.problems()).isEmpty();
        return read.version();
    }

    @Test
    void isWrittenAsItWasRead() {
        assertThat(Notation.write(read())).isEqualTo(TEXT);
    }

    @Test
    void goesThroughADiagramAndComesBack() {
        String xml = Bpmn.write(read());
        assertThat(Bpmn.read(xml, 1, new PersonId("teo"), Names.NONE).version()).isEqualTo(read());
        assertThat(xml)
                .contains("calledElement=\"process.other\"")
                .contains(">PT10M</timeDuration>", ">ticket.createdAt</timeDate>", ">ticket.impact == 1</condition>")
                .contains("<signalEventDefinition")
                .contains("name=\"board.down\"")
                .contains("<sendTask id=\"tell\"", "<receiveTask id=\"least\"", "<userTask id=\"come\"")
                .contains("Gate {{ ci.id }} stands open.", "Within the hour.");
    }

    /** A diagram without our own words still leads where it led: limits are events at the border, the usual exit is the flow. */
    @Test
    void aDiagramWithoutOurWordsKeepsItsWays() {
        String bare = Bpmn.write(read())
                .replaceAll("(?s)<extensionElements>.*?</extensionElements>", "")
                .replaceAll(" dastur:[a-z]+=\"[^\"]*\"", "");
        WorkflowVersion version =
                Bpmn.read(bare, 1, new PersonId("teo"), Names.NONE).version();
        assertThat(step(version, "Until it is less").ways())
                .containsEntry("done", step(version, "The board is up").id())
                .containsEntry("timed out", step(version, "nobody came").id());
        assertThat(step(version, "Do the other").ways())
                .containsEntry("done", step(version, "Order it").id());
        assertThat(step(version, "How the lane is").ways().values())
                .contains(step(version, "Wait 10 min").id());
        assertThat(step(version, "Tell them").ways().values())
                .contains(step(version, "Tell: A word").id());
    }

    private static Step step(WorkflowVersion version, String name) {
        return version.body()
                .all()
                .filter(s -> s.name().equals(name))
                .findFirst()
                .orElseThrow();
    }

    /** Each kind says of itself which steps are its own. */
    @Test
    void everyStepIsOfAKindThatKnowsIt() {
        Set<String> words = read().body()
                .all()
                .map(s -> {
                    StepKind<?> kind = Kinds.of(s, StepKind.class);
                    assertThat(kind.model()).isEqualTo(s.getClass());
                    return kind.word();
                })
                .collect(Collectors.toSet());
        assertThat(words).contains("task", "escalate", "notify", "capture", "wait", "call", "end");
    }
}
