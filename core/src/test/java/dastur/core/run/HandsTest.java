package dastur.core.run;

import static org.assertj.core.api.Assertions.assertThat;

import dastur.core.people.Actor;
import dastur.core.people.Group;
import dastur.core.people.Person;
import dastur.core.people.PersonId;
import dastur.core.people.Role;
import dastur.core.step.task.OpenTask;
import dastur.core.step.task.TaskCommands.AskHelp;
import dastur.core.step.task.TaskCommands.ClaimTask;
import dastur.core.step.task.TaskCommands.CompleteTask;
import dastur.core.step.task.TaskCommands.HandBackTask;
import dastur.core.step.task.TaskCommands.LeaveOut;
import dastur.core.step.task.TaskCommands.PassOnTask;
import dastur.core.step.task.TaskEvents.HelpAsked;
import dastur.core.step.task.TaskEvents.TaskDone;
import dastur.core.step.task.TaskEvents.TaskLeftOut;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;
import org.junit.jupiter.params.provider.ValueSource;

/** A task in people's hands: taken, given back, passed on, helped with, left out, overseen (N11, N40; U7). */
class HandsTest extends WrittenWorkflows {
    private static final Actor SEM = Actor.of(World.SEM);
    private static final Actor TEO = Actor.of(World.TEO);
    private static final Actor JONAS = Actor.of(World.JONAS);
    private static final Assigned MANAGERS = new Assigned(List.of(World.MANAGERS), List.of());

    private void look(String settings) {
        publish("look: ask group technicians \"Look\" within 1 h: \"Done\", \"Broken\"\n" + settings
                + "end: done \"done\"\n");
    }

    private Visit task() {
        return open("look").getFirst();
    }

    private OpenTask now() {
        return (OpenTask) task().waiting();
    }

    private List<Event.MessageQueued> told() {
        return all(Event.MessageQueued.class);
    }

    @Test
    void whoeverItIsNotForLearnsThatAndFromWhom() {
        look("");
        Refusal claim = world.refused(JONAS, new ClaimTask(task().id()));
        assertThat(claim.code()).isEqualTo(Refusal.Code.NOT_YOURS);
        assertThat(claim.message()).contains("Pier technicians");
        assertThat(world.refused(Actor.CLOCK, new CompleteTask(task().id(), "Done", Map.of(), null))
                        .message())
                .contains("Only a person");
        assertThat(now().claimedBy()).isNull();
    }

    @Test
    void oneTakesItAndGivesItBack() {
        look("");
        assertThat(world.refused(RUNA, new HandBackTask(task().id())).message()).contains("You have not claimed");
        world.accepted(RUNA, new ClaimTask(task().id()));
        int entries = world.record.size();
        world.accepted(RUNA, new ClaimTask(task().id()));
        assertThat(world.record).as("taking it twice is taking it once").hasSize(entries);
        assertThat(world.refused(SEM, new ClaimTask(task().id())).message()).contains("Runa Feld has already claimed");
        assertThat(world.refused(SEM, new HandBackTask(task().id())).code()).isEqualTo(Refusal.Code.NOT_YOURS);
        assertThat(world.refused(SEM, new CompleteTask(task().id(), "Done", Map.of(), null))
                        .message())
                .contains("Runa Feld has claimed");
        world.accepted(RUNA, new HandBackTask(task().id()));
        assertThat(now().claimedBy()).isNull();
        done(task(), "Done");
    }

    @Test
    void helpersAreOfferedItToo() {
        look("");
        world.accepted(RUNA, new ClaimTask(task().id()));
        world.accepted(RUNA, new AskHelp(task().id(), MANAGERS, "The lock is odd"));
        assertThat(last(HelpAsked.class).orElseThrow().text()).isEqualTo("The lock is odd");
        assertThat(now().claimedBy()).as("it stays with whoever has it").isEqualTo(World.RUNA);
        assertThat(now().to().groups()).containsExactlyInAnyOrder(World.TECHNICIANS, World.MANAGERS);
        Event.MessageQueued word = told().getLast();
        assertThat(word.people()).containsExactlyInAnyOrder(World.TEO, World.PRIYA);
        assertThat(word.text()).contains("Runa Feld asks you to help: The lock is odd");
        world.accepted(RUNA, new HandBackTask(task().id()));
        world.accepted(TEO, new CompleteTask(task().id(), "Done", Map.of(), null));
        assertThat(last(TaskDone.class).orElseThrow().by()).isEqualTo(World.TEO);
    }

    @ParameterizedTest
    @ValueSource(strings = {"", "   ", "\u0000"})
    void whatIsAskedOrPassedOnNeedsWords(String words) {
        look("  may be left out\n");
        assertThat(world.refused(RUNA, new AskHelp(task().id(), MANAGERS, words))
                        .where())
                .isEqualTo("text");
        assertThat(world.refused(RUNA, new PassOnTask(task().id(), MANAGERS, words))
                        .where())
                .isEqualTo("reason");
    }

    @Test
    void wordsOfTheGreatestLengthAreTakenAndNoLongerOnes() {
        String most = "x".repeat(dastur.core.json.Texts.MAX_TEXT);
        look("  may be left out\n");
        assertThat(world.refused(RUNA, new AskHelp(task().id(), MANAGERS, most + "x"))
                        .where())
                .isEqualTo("text");
        assertThat(world.refused(RUNA, new PassOnTask(task().id(), MANAGERS, most + "x"))
                        .where())
                .isEqualTo("reason");
        assertThat(world.refused(RUNA, new LeaveOut(task().id(), most + "x")).where())
                .isEqualTo("reason");
        assertThat(world.refused(RUNA, new CompleteTask(task().id(), "Done", Map.of(), most + "x"))
                        .where())
                .isEqualTo("note");
        world.accepted(RUNA, new AskHelp(task().id(), MANAGERS, most));
        world.accepted(RUNA, new PassOnTask(task().id(), new Assigned(List.of(World.TECHNICIANS), List.of()), most));
        world.accepted(RUNA, new CompleteTask(task().id(), "Done", Map.of(), most));
        assertThat(last(TaskDone.class).orElseThrow().note()).isEqualTo(most);
    }

    @Test
    void nobodyIsAskedWhoIsNotThere() {
        world.put(
                new LookupKey.OfPerson(World.TEO),
                new Person(World.TEO, "Teo Marchetti", "", Set.of(Role.AGENT), false));
        look("");
        Assigned gone = new Assigned(List.of(), List.of(World.TEO));
        assertThat(world.refused(RUNA, new AskHelp(task().id(), gone, "help")).where())
                .isEqualTo("to");
        assertThat(world.refused(RUNA, new PassOnTask(task().id(), gone, "yours"))
                        .where())
                .isEqualTo("to");
    }

    @Test
    void itIsPassedOnWithAWordAndIsNoLongerOnes() {
        look("");
        world.accepted(RUNA, new PassOnTask(task().id(), MANAGERS, "They have the key"));
        assertThat(told().getLast().people()).containsExactlyInAnyOrder(World.TEO, World.PRIYA);
        assertThat(told().getLast().text()).contains("Runa Feld passed 'Look' on to you: They have the key");
        assertThat(world.refused(RUNA, new CompleteTask(task().id(), "Done", Map.of(), null))
                        .code())
                .isEqualTo(Refusal.Code.NOT_YOURS);
        world.accepted(TEO, new CompleteTask(task().id(), "Done", Map.of(), null));
    }

    @Test
    void onlyWhatMayBeLeftOutIs() {
        look("");
        assertThat(world.refused(RUNA, new LeaveOut(task().id(), "why not")).message())
                .contains("may not be left out");
        assertThat(all(TaskLeftOut.class)).isEmpty();
    }

    @Test
    void whatIsLeftOutSaysWhyAndGoesTheExpectedWay() {
        look("  may be left out\n");
        assertThat(world.refused(RUNA, new LeaveOut(task().id(), "  ")).where()).isEqualTo("reason");
        world.accepted(RUNA, new LeaveOut(task().id(), "It is shut"));
        TaskLeftOut left = last(TaskLeftOut.class).orElseThrow();
        assertThat(left.exit()).isEqualTo("Done");
        assertThat(left.by()).isEqualTo(World.RUNA);
        assertThat(left.reason()).isEqualTo("It is shut");
    }

    @Test
    void itEndsByOneOfItsOutcomesAndNoOther() {
        look("");
        Refusal wrong = world.refused(RUNA, new CompleteTask(task().id(), "Exploded", Map.of(), null));
        assertThat(wrong.where()).isEqualTo("outcome");
        assertThat(wrong.message()).contains("Done, Broken");
        Refusal form = world.refused(RUNA, new CompleteTask(task().id(), "Done", Map.of("colour", "red"), null));
        assertThat(form.where()).isEqualTo("form.colour");
        world.accepted(RUNA, new CompleteTask(task().id(), "Done", Map.of(), "  "));
        assertThat(last(TaskDone.class).orElseThrow().note())
                .as("a blank note is none")
                .isNull();
    }

    /** What a form names must be there: a name that nobody has would fail much later, at a step that needs it. */
    @ParameterizedTest
    @CsvSource({
        "who,sem,true",
        "who,nobody,false",
        "who,Not A Key,false",
        "what,ALD-G1,true",
        "what,ALD-G9,false",
        "team,managers,true",
        "team,owls,false"
    })
    void whatAFormNamesIsThere(String field, String value, boolean taken) {
        publish("""
                look: ask group technicians "Look": "Done"
                  form who: person "Who has the key"
                  form what: CI "Which gate"
                  form team: group "Which team"
                end: done "done"
                """);
        CompleteTask complete = new CompleteTask(task().id(), "Done", Map.of(field, value), null);
        if (taken) {
            world.accepted(RUNA, complete);
        } else {
            assertThat(world.refused(RUNA, complete).where()).isEqualTo("form." + field);
        }
    }

    @Test
    void whoOverseesMayDoItAndItIsSaidThatTheyOnlyOversaw() {
        look("  overseen by group managers\n");
        world.accepted(TEO, new CompleteTask(task().id(), "Done", Map.of(), null));
        assertThat(last(TaskDone.class).orElseThrow().asOverseer()).isTrue();
    }

    @Test
    void whoeverItIsForDoesItAsThemselves() {
        look("  overseen by group managers\n");
        done(task(), "Done");
        assertThat(last(TaskDone.class).orElseThrow().asOverseer()).isNull();
    }

    @Test
    void whoIsAskedByNameIsToldAndAGroupIsNot() {
        publish(
                "look: ask person sem \"Look\": \"Done\"\nthink: ask group technicians \"Think\": \"Done\"\nend: done \"done\"\n");
        assertThat(told()).singleElement().satisfies(m -> {
            assertThat(m.people()).containsExactly(World.SEM);
            assertThat(m.purpose()).isEqualTo("task");
        });
        world.accepted(SEM, new CompleteTask(task().id(), "Done", Map.of(), null));
        assertThat(told()).hasSize(1);
    }

    private void members(dastur.core.people.GroupId group, PersonId... people) {
        world.put(new LookupKey.OfGroup(group), new Group(group, group.value(), List.of(people)));
    }

    private Optional<String> stalled() {
        world.accepted(Actor.CLOCK, new Command.Recheck());
        return Optional.ofNullable(task().stall()).map(Visit.Stall::code);
    }

    @Test
    void itStallsWhenNobodyIsLeftWhoCouldDoIt() {
        look("  overseen by group managers\n");
        members(World.TECHNICIANS);
        assertThat(stalled()).as("overseers can step in").isEmpty();
        members(World.MANAGERS);
        assertThat(stalled()).contains("nobody");
    }

    @Test
    void whoHasItKeepsItThoughTheGroupIsEmpty() {
        look("");
        world.accepted(RUNA, new ClaimTask(task().id()));
        members(World.TECHNICIANS);
        assertThat(stalled()).isEmpty();
        world.put(
                new LookupKey.OfPerson(World.RUNA), new Person(World.RUNA, "Runa Feld", "", Set.of(Role.AGENT), false));
        assertThat(stalled()).contains("nobody");
    }

    @Test
    void whenTheTimeIsUpItLeavesByTheWayForThat() {
        publish(
                "look: ask group technicians \"Look\" within 1 h: \"Done\"\n  overdue -> late\nend: done \"done\"\nlate: done \"too late\"\n");
        world.pass(java.time.Duration.ofMinutes(61));
        assertThat(last(Event.RunEnded.class).orElseThrow().result()).isEqualTo("too late");
    }
}
