package dastur.core.run;

import static org.assertj.core.api.Assertions.assertThat;

import dastur.core.people.Actor;
import dastur.core.step.call.CallEvents.CalledEnded;
import java.util.Map;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;

/** What a called workflow is given, how deep calls go, and what becomes of a result that leads nowhere (N21). */
class CalledTest extends WrittenWorkflows {
    private static final String CHILD = """
              asks lane: text "Lane" required
              asks days: whole number "Days"
            look: ask group technicians "Look at lane {{ input.lane }}": "Done", "Odd"
              "Odd" -> odd
            end: done "child done"
            odd: done "odd"
            """;

    private Visit caller() {
        return open("sub").getFirst();
    }

    private String ended() {
        return all(Event.RunEnded.class).isEmpty()
                ? "not yet"
                : all(Event.RunEnded.class).getLast().result();
    }

    private void calls(String more) {
        publish("child", CHILD);
        publish("sub: call child \"Child\"\n" + more + "  \"child done\" -> end\nend: done \"parent done\"\n");
    }

    @Test
    void itIsGivenWhatIsKnownThen() {
        calls("  with lane = \"A\"\n  with days = ticket.impact\n");
        Run child = world.ticket.open().get(open("look").getFirst().id().run());
        assertThat(child.inputs()).isEqualTo(Map.of("lane", "A", "days", 2L));
        done(open("look").getFirst(), "Done");
        assertThat(last(CalledEnded.class).orElseThrow().exit()).isEqualTo("child done");
        assertThat(ended()).isEqualTo("parent done");
    }

    @Test
    void whatIsAbsentIsLeftOutWhereItIsNotNeeded() {
        calls("  with lane = \"A\"\n  with days = ticket.reopened\n".replace("ticket.reopened", "vars.count"));
        Run child = world.ticket.open().get(open("look").getFirst().id().run());
        assertThat(child.inputs()).isEqualTo(Map.of("lane", "A"));
    }

    @ParameterizedTest
    @CsvSource(delimiter = '|', quoteCharacter = '`', textBlock = """
            with days = 2                          | input missing  | Lane
            with lane = ticket.category            | input missing  | Lane
            with lane = string(1 / 0)              | cannot compute | Lane
            """)
    void withoutWhatItNeedsItDoesNotBeginAndSaysWhat(String given, String code, String says) {
        calls("  " + given.strip() + "\n");
        assertThat(open("look")).isEmpty();
        assertThat(caller().stall().code()).isEqualTo(code);
        assertThat(caller().stall().why()).contains(says);
    }

    @Test
    void oneThatIsNotPublishedIsSaidToBeThat() {
        publish("sub: call child \"Child\"\n  \"child done\" -> end\nend: done \"parent done\"\n");
        assertThat(caller().stall().code()).isEqualTo("no workflow");
    }

    @Test
    void aResultThatLeadsNowhereStallsItsCaller() {
        calls("  with lane = \"A\"\n");
        done(open("look").getFirst(), "Odd");
        assertThat(caller().stall().code()).isEqualTo("no way");
        assertThat(caller().stall().why()).contains("'odd'");
        assertThat(ended()).as("of the called one").isEqualTo("odd");
        assertThat(world.ticket.open()).hasSize(1);
    }

    /** Eight deep is deep enough for anybody; a circle is not endless. */
    @ParameterizedTest
    @CsvSource({"2,true", "8,true", "9,false"})
    void callsGoSoDeepAndNoDeeper(int deep, boolean goes) {
        publish("w1", "look: ask group technicians \"Leaf\": \"Done\"\nend: done \"x\"\n");
        for (int i = 2; i < deep; i++) {
            publish("w" + i, "sub: call w" + (i - 1) + " \"Next\"\n  x -> end\nend: done \"x\"\n");
        }
        publish("sub: call w" + (deep - 1) + " \"First\"\n  x -> end\nend: done \"all the way\"\n");
        if (!goes) {
            assertThat(open("sub"))
                    .anyMatch(v -> v.stall() != null && v.stall().code().equals("too deep"));
            assertThat(open("look")).isEmpty();
            return;
        }
        assertThat(world.ticket.open()).hasSize(deep);
        done(open("look").getFirst(), "Done");
        assertThat(ended()).isEqualTo("all the way");
        assertThat(world.ticket.open()).isEmpty();
    }

    /** In a for each a stopped called run ends its item as failed, and the others go on. */
    @Test
    void aStoppedOneEndsItsItemAndNotTheOthers() {
        publish("child", "look: ask group technicians \"Look\": \"Done\"\nend: done \"child done\"\n");
        publish("""
                each: for each n in ["A", "B"], 2 at a time as "Each"
                  some failed -> some
                  sub: call child "Child"
                    "child done" -> good
                  good: done "good"
                end: done "all"
                some: done "some"
                """);
        assertThat(open("look")).hasSize(2);
        world.accepted(
                Actor.of(World.TEO),
                new Command.Intervene(
                        open("look").getFirst().id().run(), null, Intervention.STOP_RUN, null, "not this one"));
        assertThat(open("look")).hasSize(1);
        done(open("look").getFirst(), "Done");
        assertThat(ended()).isEqualTo("some");
    }
}
