package dastur.core.run;

import static org.assertj.core.api.Assertions.assertThat;

import dastur.core.people.Actor;
import dastur.core.workflow.Trigger;
import dastur.core.workflow.WorkflowKey;
import java.time.Duration;
import java.util.List;
import java.util.Map;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;

/** What is started by hand, what by a change of the ticket, and how deep that goes (D7, I13). */
class StartingTest {
    private static final Actor RUNA = Actor.of(World.RUNA);

    private final World world = new World();

    private List<Event.RunStarted> started() {
        return world.record.stream()
                .map(Recorded::event)
                .filter(Event.RunStarted.class::isInstance)
                .map(Event.RunStarted.class::cast)
                .toList();
    }

    private List<String> reasons(String workflow) {
        return world.record.stream()
                .map(Recorded::event)
                .filter(Event.TriggersLookedAt.class::isInstance)
                .flatMap(e -> ((Event.TriggersLookedAt) e).looks().stream())
                .filter(l -> l.workflow().value().equals(workflow))
                .map(Event.Look::why)
                .toList();
    }

    @ParameterizedTest
    @CsvSource(
            delimiter = '|',
            value = {
                "nothing|{}|There is no published workflow 'nothing'.",
                "by-itself|{}|'by-itself' is not offered to be started by hand.",
                "for-changes|{}|'for-changes' is for tickets of kind change.",
                "asking|{}|'How many' is needed.",
                "asking|many|asks for no 'other'."
            })
    void whatCannotBeStartedByHandIsRefusedWithTheReason(String key, String inputs, String why) {
        world.publishAlso("by-itself", "incident", "end: done \"x\"\n", new Trigger.Created(null));
        world.publishAlso("for-changes", "change", "end: done \"x\"\n", new Trigger.ByHand(null));
        world.publishAlso(
                "asking",
                "incident",
                "  asks many: whole number \"How many\" required\nend: done \"x\"\n",
                new Trigger.ByHand(null));
        world.raise();
        int before = started().size();
        Map<String, Object> given = inputs.equals("many") ? Map.of("many", 3L, "other", 1L) : Map.of();
        assertThat(world.refused(RUNA, new Command.StartRun(new WorkflowKey(key), given))
                        .message())
                .contains(why);
        assertThat(started()).hasSize(before);
    }

    @Test
    void whatIsGivenStandsInTheRun() {
        world.publishAlso(
                "asking",
                "incident",
                "  asks many: whole number \"How many\" required\nend: done \"x\"\n",
                new Trigger.ByHand(null));
        world.raise();
        world.accepted(RUNA, new Command.StartRun(new WorkflowKey("asking"), Map.of("many", 3L)));
        assertThat(started().getLast().inputs()).isEqualTo(Map.of("many", 3L));
    }

    @Test
    void aRunDoesNotSetItselfOff() {
        world.publishAlso(
                "itself",
                "incident",
                "set: update \"Set\"\n  set ticket.title = \"again\"\nask: ask group technicians \"Look\": \"Done\"\nend: done \"x\"\n",
                new Trigger.FieldReaches(null, "title", "again"));
        world.raise();
        world.accepted(RUNA, new Command.EditTicket(Map.of("title", "again"), null));
        assertThat(started()).hasSize(1);
        world.accepted(RUNA, new Command.EditTicket(Map.of("title", "other"), null));
        assertThat(started()).hasSize(1);
    }

    /** Two that set each other off, each ended by the time the other starts: ten times, and then no more. */
    @Test
    void whatGoesRoundInACircleEndsThoughEachRunHasEnded() {
        String steps = "pause: wait 1 min\nset: update \"Set\"\n  set ticket.title = \"%s\"\nend: done \"x\"\n";
        world.publishAlso("ping", "incident", steps.formatted("pong"), new Trigger.FieldReaches(null, "title", "ping"));
        world.publishAlso("pong", "incident", steps.formatted("ping"), new Trigger.FieldReaches(null, "title", "pong"));
        world.raise();
        world.accepted(RUNA, new Command.EditTicket(Map.of("title", "ping"), null));
        for (int minute = 0; minute < 40; minute++) {
            world.pass(Duration.ofMinutes(1));
        }
        assertThat(started()).extracting(Event.RunStarted::depth).containsExactly(0, 1, 2, 3, 4, 5, 6, 7, 8, 9, 10);
        assertThat(world.ticket.open()).isEmpty();
        assertThat(reasons("pong").getLast()).isEqualTo("runs have started runs 10 times in a row");
    }

    @Test
    void whatAPersonSetsBeginsAnew() {
        String steps = "set: update \"Set\"\n  set ticket.title = \"pong\"\nend: done \"x\"\n";
        world.publishAlso("ping", "incident", steps, new Trigger.FieldReaches(null, "title", "ping"));
        world.publishAlso("pong", "incident", "end: done \"x\"\n", new Trigger.FieldReaches(null, "title", "pong"));
        world.raise();
        world.accepted(RUNA, new Command.EditTicket(Map.of("title", "ping"), null));
        world.accepted(RUNA, new Command.EditTicket(Map.of("title", "other"), null));
        world.accepted(RUNA, new Command.EditTicket(Map.of("title", "pong"), null));
        assertThat(started()).extracting(Event.RunStarted::depth).containsExactly(0, 1, 0);
    }
}
