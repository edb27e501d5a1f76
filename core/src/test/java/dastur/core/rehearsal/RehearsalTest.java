package dastur.core.rehearsal;

import static org.assertj.core.api.Assertions.assertThat;

import dastur.core.notation.Names;
import dastur.core.notation.Notation;
import dastur.core.rehearsal.Answer.Says;
import dastur.core.run.Event;
import dastur.core.run.RunId;
import dastur.core.run.World;
import dastur.core.step.task.TaskEvents.TaskDone;
import dastur.core.ticket.TicketKind;
import dastur.core.time.Span;
import dastur.core.workflow.ApprovalRule;
import dastur.core.workflow.StepId;
import dastur.core.workflow.WorkflowVersion;
import java.time.Duration;
import java.time.Instant;
import java.util.List;
import java.util.Map;
import org.junit.jupiter.api.Test;

class RehearsalTest {
    private static final Instant START = Instant.parse("2026-03-02T10:00:00Z");
    private static final Map<String, Object> FIELDS =
            Map.of("title", "Gate 1 stuck open", "ci", "ALD-G1", "impact", 2L, "requester", "jonas");

    private final World world = new World();

    private Setting setting(WorkflowVersion version) {
        return new Setting(version, TicketKind.INCIDENT, FIELDS, Map.of(), World.JONAS, START, world::look);
    }

    private static WorkflowVersion read(String steps) {
        Notation.Read read = Notation.read("workflow w \"W\" for incident\n  owner teo\n" + steps, 1, Names.NONE);
        assertThat(read.problems()).isEmpty();
        return read.version();
    }

    private static Answer answer(String step, Says says, String exit) {
        return new Answer(new StepId(step), says, exit, null, null);
    }

    @Test
    void toTheEndEverybodyGivesTheExpectedAnswer() {
        Rehearsal rehearsal = new Rehearsal(setting(World.gateWorkflow(new ApprovalRule.AnyOne())));
        Played end = rehearsal.toTheEnd(rehearsal.begin());
        assertThat(end.ended()).contains("lane closed");
        assertThat(end.path()).extracting(StepId::value).startsWith("look", "approve", "close", "note", "tell");
        Event.MessageQueued told = end.events(Event.MessageQueued.class)
                .filter(m -> m.purpose().equals("notice"))
                .findFirst()
                .orElseThrow();
        assertThat(told.text()).isEqualTo("Lane closed.");
    }

    @Test
    void scriptedAnswersTakeOtherWays() {
        Rehearsal rehearsal = new Rehearsal(setting(World.gateWorkflow(new ApprovalRule.AnyOne())));
        Played end = rehearsal.play(
                List.of(answer("look", Says.DOES, "Close the lane"), answer("approve", Says.DECLINES, null)));
        assertThat(end.ended()).contains("cleared");
        Played wrong = rehearsal.play(List.of(answer("approve", Says.APPROVES, null)));
        assertThat(wrong.refused()).contains("does not wait");
    }

    @Test
    void silenceLetsRungsFireAtTheirMomentsAndTheClockDecide() {
        Rehearsal rehearsal = new Rehearsal(setting(World.gateWorkflow(new ApprovalRule.AnyOne())));
        Played stage = rehearsal.play(List.of(answer("look", Says.NOTHING, null)));
        assertThat(stage.record().stream()
                        .filter(r -> r.event() instanceof Event.RungFired)
                        .map(r -> Duration.between(START, r.at()).toMinutes()))
                .containsExactly(10L, 20L, 25L, 30L);
        assertThat(stage.path()).extracting(StepId::value).endsWith("approve");
    }

    @Test
    void aMachineThatFailsIsTriedAgainThenStalls() {
        Rehearsal rehearsal = new Rehearsal(setting(World.gateWorkflow(new ApprovalRule.AnyOne())));
        Played stage = rehearsal.play(List.of(
                answer("look", Says.DOES, "Close the lane"),
                answer("approve", Says.APPROVES, null),
                answer("close", Says.FAILS, null),
                answer("close", Says.FAILS, null)));
        assertThat(stage.stalled()).hasValueSatisfying(why -> assertThat(why).contains("failed after 2 tries"));
    }

    @Test
    void exploringFindsEveryEndingWithTheAnswersThatLeadThere() {
        Exploration.Explored explored = Exploration.of(setting(World.gateWorkflow(new ApprovalRule.AnyOne())));
        assertThat(explored.endings())
                .extracting(Exploration.Ending::result)
                .contains("lane closed", "cleared")
                .anyMatch(r -> r.contains("failed after"));
        Exploration.Ending cleared = explored.endings().stream()
                .filter(e -> e.result().equals("cleared"))
                .findFirst()
                .orElseThrow();
        assertThat(cleared.answers()).hasSize(1);
        assertThat(cleared.ways()).isGreaterThan(1);
        assertThat(cleared.shortest()).isLessThan(cleared.longest());
        assertThat(cleared.at()).isEqualTo(new StepId("cleared"));
        assertThat(cleared.path()).containsExactly(new Exploration.Way(new StepId("look"), "Cleared on the spot"));
        Exploration.Ending closed = explored.endings().stream()
                .filter(e -> e.result().equals("lane closed"))
                .findFirst()
                .orElseThrow();
        assertThat(closed.path()).extracting(w -> w.step().value()).startsWith("look", "approve", "close", "note");
        assertThat(closed.at()).isEqualTo(new StepId("closed"));
        assertThat(explored.endings()).filteredOn(Exploration.Ending::stalls).anySatisfy(e -> assertThat(e.at())
                .isEqualTo(new StepId("close")));
        assertThat(explored.neverReached()).isEmpty();
    }

    @Test
    void exploringNamesTheStepsThatTheseValuesNeverComeTo() {
        WorkflowVersion version = read("""
                which: decide "Which?"
                  when "urgent" if ticket.impact == 1
                  "urgent" -> run
                  otherwise -> end
                run: ask group technicians "Run": "Done"
                  "Done" -> end
                end: done "done"
                """);
        Exploration.Explored explored = Exploration.of(setting(version));
        assertThat(explored.neverReached()).containsExactly(new StepId("run"));
        assertThat(explored.bounded()).isFalse();
    }

    /** E12: what a check sees is what the rehearsal answers, so that it holds; exploring takes it as failing too. */
    @Test
    void exploringTakesWhatFollowsWhenACheckDoesNotHold() {
        WorkflowVersion version = read("""
                work: stage "Work"
                  close: run close-lane "Close"
                    with gate = 'one'
                    put back with close-lane
                      with gate = 'one'
                  good: check "Good?"
                    rule "Impact": ticket.impact is 2
                    fail -> back
                  fine: done "fine"
                  back: put back "undone"
                  "put back" -> undone
                end: done "done"
                undone: done "all undone"
                """);
        Exploration.Explored explored = Exploration.of(setting(version));
        assertThat(explored.neverReached()).isEmpty();
        Exploration.Ending undone = explored.endings().stream()
                .filter(e -> e.result().equals("all undone"))
                .findFirst()
                .orElseThrow();
        assertThat(undone.failing()).isEqualTo(new StepId("good"));
        assertThat(explored.endings())
                .filteredOn(e -> e.result().equals("done"))
                .extracting(Exploration.Ending::failing)
                .containsOnlyNulls();
        // Played with the same check failing, the same answers lead there.
        Rehearsal again = new Rehearsal(setting(version).withFailing(java.util.Set.of(new StepId("good"))));
        assertThat(again.play(undone.answers()).ended()).contains("all undone");
    }

    @Test
    void anEndlessLoopIsBoundedAndSaysSo() {
        WorkflowVersion version = read("""
                look: ask group technicians "Look": "Again", "Done"
                  "Again" -> look
                  "Done" -> end
                end: done "done"
                """);
        Exploration.Explored explored = Exploration.of(setting(version));
        assertThat(explored.bounded()).isTrue();
        assertThat(explored.endings()).extracting(Exploration.Ending::result).containsExactly("done");
    }

    @Test
    void workingTimeCountsAcrossNightAndWeekend() {
        WorkflowVersion version = read("wait: wait 4 working h as \"Wait\"\nend: done \"done\"\n");
        // Friday 15:00 in Oslo; the default calendar works 08:00 to 17:00 on weekdays.
        world.officeHours();
        Setting friday = new Setting(
                version,
                TicketKind.INCIDENT,
                FIELDS,
                Map.of(),
                World.JONAS,
                Instant.parse("2026-03-06T14:00:00Z"),
                world::look);
        Rehearsal rehearsal = new Rehearsal(friday);
        Played end = rehearsal.toTheEnd(rehearsal.begin());
        assertThat(end.record().getLast().at()).isEqualTo(Instant.parse("2026-03-09T09:00:00Z"));
    }

    @Test
    void aFinishedRunReplaysTheSameOnTheSameVersionAndDiffersOnAnother() {
        world.raise();
        world.lookDone("Cleared on the spot");
        RunId run = new RunId("I-1.1");
        WorkflowVersion same = World.gateWorkflow(new ApprovalRule.AnyOne());
        assertThat(Replay.of(same, world.record, run, world::look).differences())
                .isEmpty();

        WorkflowVersion other = read("""
                look: ask group technicians "Look": "Close the lane", "Cleared on the spot"
                  "Close the lane" -> end
                  "Cleared on the spot" -> sure
                sure: ask group managers "Sure?": "Yes"
                  "Yes" -> end
                end: done "looked at twice"
                """);
        Replay.Replayed replayed = Replay.of(other, world.record, run, world::look);
        assertThat(replayed.before()).isEqualTo("cleared");
        assertThat(replayed.after()).isEqualTo("looked at twice");
        assertThat(replayed.differences()).hasSize(2).last().asString().contains("'sure' would be asked");
    }

    @Test
    void timesCanBeGiven() {
        Rehearsal rehearsal = new Rehearsal(setting(World.gateWorkflow(new ApprovalRule.AnyOne())));
        Answer slow = new Answer(
                new StepId("look"), Says.DOES, "Cleared on the spot", Map.of("seen", "a bag"), Span.parse("12 min"));
        Played end = rehearsal.play(List.of(slow));
        assertThat(end.took()).isEqualTo(Duration.ofMinutes(12));
        assertThat(end.events(Event.RungFired.class)).hasSize(1);
        assertThat(end.events(TaskDone.class).findFirst().orElseThrow().form()).containsEntry("seen", "a bag");
    }
}
