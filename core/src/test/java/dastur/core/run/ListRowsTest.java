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

    private ListRows rows() {
        VisitId visit = world.record.stream()
                .filter(r -> r.event() instanceof Event.BracketOpened)
                .map(Recorded::visit)
                .findFirst()
                .orElseThrow();
        return ListRows.of(world.ticket, world.record, visit).orElseThrow();
    }

    private List<String> said() {
        return rows().rows().stream()
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
        assertThat(rows().left()).isNull();
        assertThat(ListRows.underWay(world.ticket)).containsExactly(rows());

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
        assertThat(rows().left()).isEqualTo("some failed");
        assertThat(ListRows.underWay(world.ticket)).isEmpty();
        assertThat(rows().count(ListRows.State.DONE)).isEqualTo(2);
    }

    @Test
    void whatWasNeverBegunIsNotDone() {
        publish(EACH.formatted("in order, stop at the first failure"));
        answer(open("close").getFirst(), new CallOutcome.Failed("no power"));

        assertThat(said()).containsExactly("A failed, failed: no power", "B not done", "C not done");
    }

    /** A run that is ended from inside takes its lists with it; how far they had come is still known. */
    @Test
    void whatEndsWithItsRunIsToldAsItWasThen() {
        publish("""
                each: for each c in ["A", "B"], 2 at a time as "Each"
                  some failed -> all
                  none -> all
                  look: ask group technicians "Look at": "Done", "Stop all"
                    "Stop all" -> stop
                  good: done "closed"
                  stop: stop "stopped"
                all: done "all"
                """);
        done(open("look").getFirst(), "Done");
        done(open("look").getFirst(), "Stop all");
        assertThat(world.ticket.open()).isEmpty();

        assertThat(said()).first().isEqualTo("A done, closed");
        assertThat(said()).last().asString().startsWith("B ");
    }

    @Test
    void whatIsNoListTellsOfNone() {
        publish("""
                both: side by side "Both"
                  lane "One"
                    one: ask group technicians "One": "Done"
                    oneDone: done "one"
                  short -> joined
                joined: done "joined"
                """);
        VisitId fork = open("both").getFirst().id();

        assertThat(ListRows.underWay(world.ticket)).isEmpty();
        assertThat(ListRows.of(world.ticket, world.record, fork)).isEmpty();
    }
}
