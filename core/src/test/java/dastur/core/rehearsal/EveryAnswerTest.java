package dastur.core.rehearsal;

import static org.assertj.core.api.Assertions.assertThat;

import dastur.core.notation.Names;
import dastur.core.notation.Notation;
import dastur.core.people.Party;
import dastur.core.rehearsal.Answer.Says;
import dastur.core.run.Event;
import dastur.core.run.LookupKey;
import dastur.core.run.Recorded;
import dastur.core.run.RunId;
import dastur.core.run.World;
import dastur.core.step.callin.CallInEvents.CallInAnswered;
import dastur.core.step.calling.CallingEvents.CallDone;
import dastur.core.step.task.TaskEvents.TaskDone;
import dastur.core.step.task.TaskEvents.TaskLeftOut;
import dastur.core.step.waiting.WaitEvents;
import dastur.core.ticket.TicketKind;
import dastur.core.time.Span;
import dastur.core.workflow.Ladder;
import dastur.core.workflow.LadderKey;
import dastur.core.workflow.Rung;
import dastur.core.workflow.StepId;
import dastur.core.workflow.WorkflowVersion;
import java.time.Instant;
import java.util.List;
import java.util.Map;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;

/** In a rehearsal every kind of step can be answered as it would be in earnest, and what was done in earnest can be played again. */
class EveryAnswerTest {
    private static final Instant START = Instant.parse("2026-03-02T10:00:00Z");
    private static final Map<String, Object> FIELDS =
            Map.of("title", "Gate 1 stuck open", "ci", "ALD-G1", "impact", 2L, "requester", "jonas");

    private final World world = new World();

    @BeforeEach
    void ladderAndOther() {
        LadderKey key = new LadderKey("night");
        publish(new LookupKey.OfLadder(key), new Ladder(key, "Night", List.of(tell("0 min"), tell("15 min"))));
        WorkflowVersion other = read(
                "other",
                "look: ask group technicians \"Look\": \"Done\"\nend: done \"ordered\"\nbad: fail \"refused\"\n");
        publish(new LookupKey.OfVersion(other.key(), 1), other);
        publish(new LookupKey.LiveVersion(other.key()), 1);
    }

    private void publish(LookupKey key, Object value) {
        world.known(key, value);
    }

    private static Rung tell(String after) {
        return new Rung(
                Span.parse(after),
                new Rung.Tell(List.of(new Party.OfPerson(after.equals("0 min") ? World.TEO : World.PRIYA)), null));
    }

    private static WorkflowVersion read(String key, String steps) {
        Notation.Read read =
                Notation.read("workflow " + key + " \"W\" for incident\n  owner teo\n" + steps, 1, Names.NONE);
        assertThat(read.problems()).isEmpty();
        return read.version();
    }

    private Rehearsal rehearsal(String steps) {
        return new Rehearsal(
                new Setting(read("w", steps), TicketKind.INCIDENT, FIELDS, Map.of(), World.JONAS, START, world::look));
    }

    private static Answer answer(String step, Says says, String exit, Map<String, Object> values) {
        return new Answer(new StepId(step), says, exit, values, null);
    }

    private static <T extends Event> T only(Played played, Class<T> type) {
        return played.events(type).findFirst().orElseThrow();
    }

    @Test
    void somebodyComesOrCannotAndTheNextIsAsked() {
        Rehearsal rehearsal = rehearsal("""
                come: call in by night "Come" within 1 h
                  exhausted -> nobody
                end: done "somebody came"
                nobody: done "nobody came"
                """);
        Played came = rehearsal.play(List.of(answer("come", Says.ACCEPTS, null, null)));
        assertThat(came.ended()).contains("somebody came");
        assertThat(only(came, CallInAnswered.class).by()).isEqualTo(World.TEO);
        Played second = rehearsal.play(
                List.of(answer("come", Says.CANNOT, null, null), answer("come", Says.ACCEPTS, null, null)));
        assertThat(second.events(CallInAnswered.class).map(CallInAnswered::by)).containsExactly(World.TEO, World.PRIYA);
        Played silent = rehearsal.play(List.of(answer("come", Says.NOTHING, null, null)));
        assertThat(silent.ended()).contains("nobody came");
        assertThat(Exploration.of(new Setting(
                                rehearsalVersion(),
                                TicketKind.INCIDENT,
                                FIELDS,
                                Map.of(),
                                World.JONAS,
                                START,
                                world::look))
                        .endings())
                .extracting(Exploration.Ending::result)
                .contains("somebody came", "nobody came");
    }

    private static WorkflowVersion rehearsalVersion() {
        return read("w", """
                come: call in by night "Come" within 1 h
                  exhausted -> nobody
                end: done "somebody came"
                nobody: done "nobody came"
                """);
    }

    @Test
    void aSignalComesWithItsValues() {
        Played played = rehearsal("""
                wait: wait for signal "up" within 1 h as "Wait"
                  timed out -> late
                end: done "came"
                late: done "late"
                """).play(List.of(answer("wait", Says.SIGNALS, null, Map.of("state", "up"))));
        assertThat(played.ended()).contains("came");
        assertThat(only(played, WaitEvents.SignalCame.class).values()).containsEntry("state", "up");
    }

    @Test
    void aReplyIsGivenWithItsWordsByWhoeverIsAsked() {
        String text =
                "wait: wait for a reply of group managers within 1 h as \"Wait\"\n  timed out -> late\nend: done \"came\"\nlate: done \"late\"\n";
        Played played = rehearsal(text).play(List.of(answer("wait", Says.REPLIES, null, Map.of("text", "Yes"))));
        assertThat(only(played, WaitEvents.ReplyCame.class).text()).isEqualTo("Yes");
        assertThat(List.of(World.TEO, World.PRIYA))
                .contains(only(played, WaitEvents.ReplyCame.class).by());
        Played wordless = rehearsal(text).play(List.of(answer("wait", Says.REPLIES, null, null)));
        assertThat(only(wordless, WaitEvents.ReplyCame.class).text()).isNotBlank();
    }

    @Test
    void whatWaitsForItsTimeIsWaitedFor() {
        Rehearsal rehearsal = rehearsal("wait: wait 10 min as \"Wait\"\nend: done \"waited\"\n");
        assertThat(rehearsal.toTheEnd(rehearsal.begin()).ended()).contains("waited");
    }

    @ParameterizedTest
    @CsvSource({"DOES,ordered,end", "DOES,refused,no", "FAILS,,no"})
    void aWorkflowOnAnotherTicketEndsAsItIsSaid(Says says, String exit, String end) {
        Played played = rehearsal("""
                order: call other on a new change "Order it"
                  set ticket.title = "A lock"
                  ordered -> end
                  refused -> no
                  stopped -> no
                end: done "end"
                no: done "no"
                """).play(List.of(answer("order", says, exit, null)));
        assertThat(played.ended()).contains(end);
    }

    @Test
    void aTaskIsLeftOutOrDoneWithItsForm() {
        Rehearsal rehearsal = rehearsal("""
                look: ask group technicians "Look": "Done"
                  may be left out
                  form seen: text "What you saw" required
                  form who: person "Who has the key" required
                  form what: CI "Which gate" required
                  form team: group "Which team" required
                  form service: service "Which service" required
                end: done "end"
                """);
        Played left = rehearsal.play(List.of(answer("look", Says.LEAVES_OUT, null, null)));
        assertThat(only(left, TaskLeftOut.class).by()).isNotNull();
        Played done = rehearsal.play(List.of(answer("look", Says.DOES, "Done", Map.of("seen", "a spanner"))));
        assertThat(only(done, TaskDone.class).form()).containsEntry("seen", "a spanner");
        Played usual = rehearsal.play(List.of(answer("look", Says.DOES, null, null)));
        assertThat(only(usual, TaskDone.class).form())
                .as("a sample fills what is needed")
                .containsKeys("seen", "who", "what", "team", "service");
    }

    @Test
    void aMachineAnswersWithWhatItIsGivenOrFailsWithTheWordsGiven() {
        Rehearsal rehearsal = rehearsal("""
                close: run close-lane "Close" gate='G' at most 1 tries
                  failed -> broken
                end: done "end"
                broken: done "broken"
                """);
        Played ok = rehearsal.play(List.of(answer("close", Says.DOES, "ok", Map.of("lock", "L-9"))));
        assertThat(only(ok, CallDone.class).outputs()).containsEntry("lock", "L-9");
        Played sample = rehearsal.play(List.of(answer("close", Says.DOES, null, null)));
        assertThat(only(sample, CallDone.class).outputs()).containsKey("lock");
        Played failed = rehearsal.play(List.of(answer("close", Says.FAILS, null, Map.of("error", "It is jammed"))));
        assertThat(failed.ended()).contains("broken");
        assertThat(failed.record().toString()).contains("It is jammed");
    }

    /** A replay gives the answers of the record, of whatever kind. */
    @Test
    void whatWasAnsweredIsKnownAsThatAnswer() {
        WorkflowVersion version = read("w", """
                look: ask group technicians "Look": "Done", "Odd"
                  "Odd" -> sign
                sign: wait for signal "up" within 1 h as "Sign"
                  timed out -> end
                reply: wait for a reply of group managers within 1 h as "Reply"
                  timed out -> end
                close: run close-lane "Close" gate='G'
                end: done "end"
                """);
        Rehearsal rehearsal = new Rehearsal(
                new Setting(version, TicketKind.INCIDENT, FIELDS, Map.of(), World.JONAS, START, world::look));
        List<Answer> given = List.of(
                answer("look", Says.DOES, "Odd", Map.of()),
                answer("sign", Says.SIGNALS, null, Map.of("state", "up")),
                answer("reply", Says.REPLIES, null, Map.of("text", "Yes")),
                answer("close", Says.DOES, "ok", Map.of("lock", "L-9")));
        Played played = rehearsal.play(given);
        assertThat(played.ended()).contains("end");
        RunId run = played.record().stream()
                .filter(r -> r.event() instanceof Event.RunEnded)
                .map(Recorded::run)
                .findFirst()
                .orElseThrow();
        Replay.Replayed again = Replay.of(version, played.record(), run, world::look);
        assertThat(again.differences()).isEmpty();
        assertThat(again.after()).isEqualTo("end");
    }
}
