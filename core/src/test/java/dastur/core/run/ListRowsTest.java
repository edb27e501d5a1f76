package dastur.core.run;

import static org.assertj.core.api.Assertions.assertThat;

import dastur.core.step.calling.CallingCommands.CallOutcome;
import dastur.core.workflow.StepId;
import java.util.List;
import org.junit.jupiter.api.Test;

/** How far each item of a list has come (M11). */
class ListRowsTest extends WrittenWorkflows {
    private static final String EACH = """
            each: for each c in ["A", "B", "C"], %s as "Each"
              some failed -> some
              none -> some
              close: run close-lane "Close" at most 1 tries
                with gate = c
              look: ask group technicians "Look at": "Done"
              good: done "closed"
            all: done "all"
            some: done "some"
            """;

    private List<ListRows> rows() {
        return ListRows.of(World.TICKET, world.record);
    }

    private List<String> said() {
        return rows().getFirst().rows().stream()
                .map(r -> r.item() + " " + r.state().word()
                        + (r.at().isEmpty()
                                ? ""
                                : " at "
                                        + String.join(
                                                ", ",
                                                r.at().stream()
                                                        .map(StepId::value)
                                                        .toList()))
                        + (r.result() == null ? "" : ", " + r.result())
                        + (r.why() == null ? "" : ": " + r.why()))
                .toList();
    }

    @Test
    void eachItemIsToldWhileTheListGoesOnAndAfterwards() {
        publish(EACH.formatted("2 at a time"));
        assertThat(said()).containsExactly("A under way at close", "B under way at close", "C waits");
        assertThat(rows().getFirst().left()).isNull();

        answer(open("close").get(0), new CallOutcome.Failed("no power"));
        assertThat(said())
                .containsExactly("A failed, failed: no power", "B under way at close", "C under way at close");

        answer(open("close").get(0), ok("L-1"));
        answer(open("close").get(0), ok("L-2"));
        done(open("look").getFirst(), "Done");
        assertThat(said()).containsExactly("A failed, failed: no power", "B done, closed", "C under way at look");

        done(open("look").getFirst(), "Done");
        assertThat(last(Event.RunEnded.class).orElseThrow().result()).isEqualTo("some");
        assertThat(said()).containsExactly("A failed, failed: no power", "B done, closed", "C done, closed");
        assertThat(rows().getFirst().left()).isEqualTo("some failed");
        assertThat(rows().getFirst().count(ListRows.State.DONE)).isEqualTo(2);
    }

    @Test
    void whatWasNeverBegunIsNotDone() {
        publish(EACH.formatted("in order, stop at the first failure"));
        answer(open("close").getFirst(), new CallOutcome.Failed("no power"));

        assertThat(said()).containsExactly("A failed, failed: no power", "B not done", "C not done");
    }

    @Test
    void aRecordWithoutListsTellsOfNone() {
        publish("look: ask group technicians \"Look at\": \"Done\"\ndone: done \"done\"\n");

        assertThat(rows()).isEmpty();
    }
}
