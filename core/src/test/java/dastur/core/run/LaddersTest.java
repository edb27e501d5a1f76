package dastur.core.run;

import static org.assertj.core.api.Assertions.assertThat;

import dastur.core.notation.Names;
import dastur.core.notation.Notation;
import dastur.core.people.Actor;
import dastur.core.people.Party;
import dastur.core.ticket.TicketKind;
import dastur.core.time.Span;
import dastur.core.workflow.Ladder;
import dastur.core.workflow.LadderKey;
import dastur.core.workflow.Rung;
import dastur.core.workflow.Trigger;
import dastur.core.workflow.TriggerId;
import java.time.Duration;
import java.util.List;
import org.junit.jupiter.api.Test;

/** Ladders that climb again, that stand still while somebody has the task, and what people are called in as. */
class LaddersTest {
    private static final Actor RUNA = Actor.of(World.RUNA);

    private final World world = new World();

    private void begin(Ladder ladder, String steps) {
        world.put(new LookupKey.OfLadder(ladder.key()), ladder);
        Notation.Read read = Notation.read("workflow gate \"W\" for incident\n  owner teo\n" + steps, 1, Names.NONE);
        assertThat(read.problems()).isEmpty();
        world.publish(
                read.version(),
                new Trigger(new TriggerId("t"), true, new Trigger.Created(TicketKind.INCIDENT), List.of(), null));
        world.raise();
    }

    private static final String TASK = """
            look: ask group technicians "Look": "Done"
              ladder l
            end: done "done"
            """;

    private static Ladder ladder(Ladder.Again again, Boolean stops, Rung... rungs) {
        return new Ladder(new LadderKey("l"), "L", List.of(rungs), again, stops);
    }

    private static Rung remind(String after) {
        return new Rung(Span.parse(after), new Rung.Remind());
    }

    private static Rung handOver(String after) {
        return new Rung(Span.parse(after), new Rung.HandOver(new Party.OfGroup(World.MANAGERS)));
    }

    private List<Integer> fired() {
        return world.record.stream()
                .filter(r -> r.event() instanceof Event.RungFired)
                .map(r -> ((Event.RungFired) r.event()).rung())
                .toList();
    }

    @Test
    void whatOnlyTellsIsToldAgainAndWhatTakesAwayIsNot() {
        begin(ladder(new Ladder.Again(Span.parse("30 min"), 2), null, remind("10 min"), handOver("20 min")), TASK);
        world.pass(Duration.ofMinutes(25));
        assertThat(fired()).containsExactly(1, 2);
        world.pass(Duration.ofMinutes(20));
        assertThat(fired()).containsExactly(1, 2, 3);
        world.pass(Duration.ofHours(5));
        assertThat(fired()).containsExactly(1, 2, 3, 4);
    }

    @Test
    void itStandsStillWhileSomebodyHasTheTaskAndBeginsAnewWhenItIsHandedBack() {
        begin(ladder(null, true, remind("10 min"), handOver("20 min")), TASK);
        VisitId look = world.open().id();
        world.accepted(RUNA, new Command.ClaimTask(look));
        world.pass(Duration.ofHours(1));
        assertThat(fired()).isEmpty();
        world.accepted(RUNA, new Command.HandBackTask(look));
        world.pass(Duration.ofMinutes(15));
        assertThat(fired()).containsExactly(1);
        world.pass(Duration.ofMinutes(6));
        assertThat(((Waiting.Task) world.open().waiting()).to().groups()).containsExactly(World.MANAGERS);
        assertThat(Engine.fold(World.TICKET, world.record)).isEqualTo(world.ticket);
    }

    @Test
    void anOrdinaryOneClimbsThoughSomebodyHasTheTask() {
        begin(ladder(null, null, remind("10 min")), TASK);
        world.accepted(RUNA, new Command.ClaimTask(world.open().id()));
        world.pass(Duration.ofHours(1));
        assertThat(fired()).containsExactly(1);
    }

    @Test
    void whoeverComesTakesPartAsWhatTheyWereCalledInAs() {
        begin(
                ladder(
                        null,
                        null,
                        new Rung(Span.parse("0 min"), new Rung.Tell(List.of(new Party.OfGroup(World.MANAGERS)), null))),
                """
                come: call in by l as "incident commander" "Come to the pier" within 1 h
                  exhausted -> end
                tell: tell whoever is "incident commander" "You lead" as "Tell"
                  say "It is yours."
                end: done "done"
                """);
        VisitId come = world.open().id();
        world.accepted(Actor.of(World.TEO), new Command.AnswerCallIn(come, false));
        assertThat(world.ticket.parts()).isEmpty();
        world.accepted(Actor.of(World.PRIYA), new Command.AnswerCallIn(come, true));
        assertThat(world.ticket.parts()).containsEntry("incident commander", List.of(World.PRIYA));
        assertThat(world.record.stream()
                        .filter(r -> r.event() instanceof Event.MessageQueued m && "You lead".equals(m.subject()))
                        .map(r -> ((Event.MessageQueued) r.event()).people()))
                .containsExactly(List.of(World.PRIYA));
    }
}
