package dastur.core.run;

import static org.assertj.core.api.Assertions.assertThat;

import dastur.core.notation.Names;
import dastur.core.notation.Notation;
import dastur.core.people.Actor;
import dastur.core.people.Group;
import dastur.core.people.Party;
import dastur.core.step.callin.AnswerCallIn;
import dastur.core.step.callin.OpenCallIn;
import dastur.core.step.task.OpenTask;
import dastur.core.step.task.TaskCommands.ClaimTask;
import dastur.core.step.task.TaskCommands.CompleteTask;
import dastur.core.step.task.TaskCommands.HandBackTask;
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
        world.accepted(RUNA, new ClaimTask(look));
        world.pass(Duration.ofHours(1));
        assertThat(fired()).isEmpty();
        world.accepted(RUNA, new HandBackTask(look));
        world.pass(Duration.ofMinutes(15));
        assertThat(fired()).containsExactly(1);
        world.pass(Duration.ofMinutes(6));
        assertThat(((OpenTask) world.open().waiting()).to().groups()).containsExactly(World.MANAGERS);
        assertThat(Engine.fold(World.TICKET, world.record)).isEqualTo(world.ticket);
    }

    @Test
    void anOrdinaryOneClimbsThoughSomebodyHasTheTask() {
        begin(ladder(null, null, remind("10 min")), TASK);
        world.accepted(RUNA, new ClaimTask(world.open().id()));
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
        world.accepted(Actor.of(World.TEO), new AnswerCallIn(come, false));
        assertThat(world.ticket.parts()).isEmpty();
        world.accepted(Actor.of(World.PRIYA), new AnswerCallIn(come, true));
        assertThat(world.ticket.parts()).containsEntry("incident commander", List.of(World.PRIYA));
        assertThat(world.record.stream()
                        .filter(r -> r.event() instanceof Event.MessageQueued m && "You lead".equals(m.subject()))
                        .map(r -> ((Event.MessageQueued) r.event()).people()))
                .containsExactly(List.of(World.PRIYA));
    }

    private static Rung add(String after, Party... to) {
        return new Rung(Span.parse(after), new Rung.Add(List.of(to)));
    }

    private List<Event.MessageQueued> told(dastur.core.people.PersonId person) {
        return world.record.stream()
                .filter(r ->
                        r.event() instanceof Event.MessageQueued m && m.people().contains(person))
                .map(r -> (Event.MessageQueued) r.event())
                .toList();
    }

    @Test
    void othersAreAskedAsWellAndWhoHasTheTaskKeepsIt() {
        begin(
                ladder(null, null, add("10 min", new Party.OfGroup(World.MANAGERS), new Party.OfPerson(World.SEM))),
                TASK);
        VisitId look = world.open().id();
        world.accepted(RUNA, new ClaimTask(look));
        world.pass(Duration.ofMinutes(11));
        OpenTask task = (OpenTask) world.open().waiting();
        assertThat(task.claimedBy()).isEqualTo(World.RUNA);
        assertThat(task.to().groups()).containsExactly(World.TECHNICIANS);
        assertThat(task.to().people()).containsExactly(World.PRIYA, World.TEO);
        // Sem is one of the technicians already.
        assertThat(told(World.SEM)).isEmpty();
        assertThat(told(World.TEO)).hasSize(1);
        world.accepted(RUNA, new HandBackTask(look));
        world.accepted(Actor.of(World.TEO), new CompleteTask(look, "Done", java.util.Map.of(), null));
        assertThat(Engine.fold(World.TICKET, world.record)).isEqualTo(world.ticket);
    }

    @Test
    void addingAgainTellsNobodyTwice() {
        begin(
                ladder(
                        new Ladder.Again(Span.parse("30 min"), 2),
                        null,
                        add("10 min", new Party.OfGroup(World.MANAGERS))),
                TASK);
        world.pass(Duration.ofHours(3));
        assertThat(fired()).containsExactly(1, 2, 3);
        assertThat(told(World.TEO)).hasSize(1);
    }

    private static String decidedBy(String person) {
        return """
                ask: approve "Go?" by everyone of person %s within 2 h
                  not the requester
                  ladder l
                  declined -> end
                  lapsed -> end
                end: done "done"
                """.formatted(person);
    }

    @Test
    void whoIsAddedToADecisionHasAVoteUnlessTheyMayNot() {
        begin(
                ladder(
                        null,
                        null,
                        add("10 min", new Party.OfGroup(World.TECHNICIANS), new Party.OfPerson(World.JONAS))),
                decidedBy("teo"));
        world.pass(Duration.ofMinutes(11));
        assertThat(world.votes().electorate())
                .contains(World.TEO, World.RUNA, World.SEM)
                .doesNotContain(World.JONAS);
        assertThat(told(World.RUNA)).singleElement().satisfies(m -> {
            assertThat(m.purpose()).isEqualTo("decision");
            assertThat(m.text()).as("what is to be decided").contains("Gate 1 stuck open");
        });
        assertThat(told(World.JONAS)).isEmpty();
    }

    @Test
    void aDecisionIsHandedToThoseWhoMayDecideWithWhatIsToBeDecided() {
        world.put(
                new LookupKey.OfGroup(World.MANAGERS),
                new Group(World.MANAGERS, "Duty managers", List.of(World.TEO, World.JONAS)));
        begin(ladder(null, null, handOver("10 min")), decidedBy("runa"));
        world.pass(Duration.ofMinutes(11));
        assertThat(world.votes().electorate()).contains(World.RUNA, World.TEO).doesNotContain(World.JONAS);
        assertThat(told(World.TEO)).singleElement().satisfies(m -> {
            assertThat(m.purpose()).isEqualTo("decision");
            assertThat(m.text()).contains("Gate 1 stuck open");
        });
        assertThat(told(World.JONAS))
                .as("who is left out is not told to decide")
                .isEmpty();
    }

    @Test
    void whatIsAddedToACallInIsAskedToCome() {
        begin(ladder(null, null, add("0 min", new Party.OfGroup(World.MANAGERS))), """
                come: call in by l as "scribe" "Come" within 1 h
                  exhausted -> end
                end: done "done"
                """);
        world.pass(Duration.ofSeconds(1));
        assertThat(((OpenCallIn) world.open().waiting()).asked()).containsExactly(World.PRIYA, World.TEO);
    }
}
