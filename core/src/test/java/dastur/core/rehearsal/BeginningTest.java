package dastur.core.rehearsal;

import static org.assertj.core.api.Assertions.assertThat;

import dastur.core.notation.Names;
import dastur.core.notation.Notation;
import dastur.core.people.Actor;
import dastur.core.run.Cause;
import dastur.core.run.Event;
import dastur.core.run.RunId;
import dastur.core.run.World;
import dastur.core.signal.Severity;
import dastur.core.signal.SourceKey;
import dastur.core.signal.Turn;
import dastur.core.ticket.CiId;
import dastur.core.ticket.Promised;
import dastur.core.ticket.Service;
import dastur.core.ticket.TicketKind;
import dastur.core.time.Rhythm;
import dastur.core.time.Span;
import dastur.core.workflow.Trigger;
import dastur.core.workflow.TriggerId;
import dastur.core.workflow.WorkflowVersion;
import java.time.Instant;
import java.time.LocalDateTime;
import java.time.ZoneId;
import java.util.List;
import java.util.Map;
import org.jspecify.annotations.Nullable;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;

/** A rehearsal begins as the real run would: by a time, a call, a signal, or what happens to a ticket; or it says why it does not. */
class BeginningTest {
    private static final Instant START = Instant.parse("2026-03-02T03:15:00Z");
    private static final TriggerId SET_OFF = new TriggerId("set-off");
    private static final String LOOKS = """
            look: ask group technicians "Look": "fine", "broken"
              "fine" -> good
              "broken" -> bad
            good: done "all is well"
            bad: done "it is broken"
            """;

    private final World world = new World();

    private static WorkflowVersion read(String head, String steps) {
        Notation.Read read = Notation.read("workflow w \"W\" for " + head + "\n  owner teo\n" + steps, 1, Names.NONE);
        assertThat(read.problems()).isEmpty();
        return read.version();
    }

    private static Trigger trigger(Trigger.When when, @Nullable String condition, Trigger.Mode mode) {
        // Switched off: what is not live yet is what one rehearses.
        return new Trigger(SET_OFF, false, when, List.of(), condition, mode);
    }

    private static Trigger trigger(Trigger.When when) {
        return trigger(when, null, Trigger.Mode.STARTS);
    }

    private Setting setting(WorkflowVersion version, Map<String, Object> inputs, Begins begins) {
        return new Setting(
                        version,
                        version.kind(),
                        Map.of("title", "Gate 1 stuck open", "ci", "ALD-G1", "impact", 2L, "urgency", 2L),
                        inputs,
                        World.JONAS,
                        START,
                        world::look)
                .begunBy(begins);
    }

    private Played begin(WorkflowVersion version, Begins begins) {
        return new Rehearsal(setting(version, Map.of(), begins)).begin();
    }

    private static boolean waits(Played stage) {
        return stage.refused() == null && stage.ticket().runs().begun() == 1;
    }

    private static Event.RunStarted started(Played stage) {
        return stage.events(Event.RunStarted.class).findFirst().orElseThrow();
    }

    // --- what listens to no ticket

    private static final WorkflowVersion NIGHTLY = read("routine", "  asks day: text \"Day\" required\n" + LOOKS);

    private static Trigger nightly(Map<String, String> inputs) {
        Rhythm rhythm = new Rhythm(
                "FREQ=DAILY", LocalDateTime.parse("2026-03-01T04:15"), ZoneId.of("Europe/Berlin"), null, null);
        return trigger(new Trigger.TimeComes(null, rhythm, null, inputs, null, null));
    }

    private static Begins.ByCause atItsTime(Map<String, String> inputs) {
        return new Begins.ByCause(new Cause.TimeCame(SET_OFF, START, null), nightly(inputs), "Look at night");
    }

    @Test
    void aTimeOpensARoutineWithWhatTheScheduleGives() {
        Played stage = begin(NIGHTLY, atItsTime(Map.of("day", "string(now)")));
        assertThat(waits(stage)).as(stage.refused()).isTrue();
        assertThat(stage.ticket().kind()).isEqualTo(TicketKind.ROUTINE);
        assertThat(started(stage).inputs()).containsEntry("day", "2026-03-02T03:15:00Z");
        assertThat(stage.record().getFirst().actor()).isEqualTo(Actor.SYSTEM);
    }

    @Test
    void aTimeThatGivesNotWhatIsNeededIsRefusedAndNamesIt() {
        assertThat(begin(NIGHTLY, atItsTime(Map.of())).refused()).contains("Day");
    }

    @Test
    void aCallBringsItsValues() {
        Begins call = new Begins.ByCause(
                new Cause.Call(SET_OFF, "c1"), trigger(new Trigger.Called(null, null, null)), "Called");
        Played stage = new Rehearsal(setting(NIGHTLY, Map.of("day", "Monday"), call)).begin();
        assertThat(started(stage).inputs()).containsEntry("day", "Monday");
    }

    // --- signals

    private static Event.SignalsHeard heard() {
        return new Event.SignalsHeard(
                new SourceKey("gates"),
                Turn.BEGINS,
                1,
                START,
                START,
                "s1",
                Severity.MAJOR,
                new CiId("ALD-G1"),
                null,
                "ald-g1/stuck",
                "Gate 1 is stuck",
                null,
                null,
                Map.of());
    }

    private static Begins bySignal(Trigger.Mode mode, @Nullable String why, boolean proved) {
        return new Begins.BySignal(
                trigger(new Trigger.SignalComes(null, null, null, null, null), null, mode),
                Map.of("title", "Gate 1 is stuck", "ci", "ALD-G1", "impact", 3L, "urgency", 3L),
                heard(),
                List.of(new Event.Look(SET_OFF, ON_INCIDENTS.key(), "W", false, mode, "it was looked at", null)),
                why,
                proved);
    }

    private static final WorkflowVersion ON_INCIDENTS = read("incident", LOOKS);

    @Test
    void aSignalOpensTheTicketThatItWould() {
        Played stage = begin(ON_INCIDENTS, bySignal(Trigger.Mode.STARTS, null, true));
        assertThat(waits(stage)).as(stage.refused()).isTrue();
        assertThat(stage.ticket().text("title")).contains("Gate 1 is stuck");
        assertThat(stage.events(Event.SignalsHeard.class)).hasSize(1);
        assertThat(new Rehearsal(setting(ON_INCIDENTS, Map.of(), bySignal(Trigger.Mode.STARTS, null, true)))
                        .toTheEnd(stage)
                        .ended())
                .contains("all is well");
    }

    @Test
    void aSignalThatItDoesNotTakeUpSaysWhy() {
        Played stage = begin(ON_INCIDENTS, bySignal(Trigger.Mode.STARTS, "its condition does not hold", true));
        assertThat(stage.refused()).isEqualTo("It does not start: its condition does not hold.");
        assertThat(stage.record()).isEmpty();
    }

    /** I2: a sender that nobody knows starts nothing by itself; somebody says yes here, as somebody would. */
    @Test
    void whereItAsksFirstSomebodySaysYes() {
        for (Begins begins : List.of(
                bySignal(Trigger.Mode.ASKS, null, true),
                bySignal(Trigger.Mode.OFFERS, null, true),
                bySignal(Trigger.Mode.STARTS, null, false))) {
            Played stage = begin(ON_INCIDENTS, begins);
            assertThat(waits(stage)).as(stage.refused()).isTrue();
            assertThat(stage.events(Event.StartOffered.class)).hasSize(1);
        }
        assertThat(begin(ON_INCIDENTS, bySignal(Trigger.Mode.NOTES, null, true)).refused())
                .contains("it would have started");
    }

    // --- what happens to a ticket

    @ParameterizedTest
    @CsvSource({"ticket.impact == 2, ", "ticket.impact == 3, its condition does not hold"})
    void aTicketIsRaisedAndItsConditionIsLookedAt(String condition, @Nullable String why) {
        Played stage = begin(
                ON_INCIDENTS,
                new Begins.OnTicket(trigger(new Trigger.Created(null), condition, Trigger.Mode.STARTS), null));
        assertThat(stage.refused()).isEqualTo(why == null ? null : "It does not start: " + why + ".");
        assertThat(stage.ticket().runs().begun()).isEqualTo(why == null ? 1 : 0);
    }

    @Test
    void aFieldReachesItsValueAfterTheTicketWasThere() {
        Played stage = begin(
                ON_INCIDENTS,
                new Begins.OnTicket(trigger(new Trigger.FieldReaches(null, "state", "diagnosing")), null));
        assertThat(waits(stage)).as(stage.refused()).isTrue();
        assertThat(stage.ticket().state()).isEqualTo("diagnosing");
        Played number =
                begin(ON_INCIDENTS, new Begins.OnTicket(trigger(new Trigger.FieldReaches(null, "impact", "1")), null));
        assertThat(waits(number)).as(number.refused()).isTrue();
    }

    @Test
    void aClockRunsUntilItIsThere() {
        Begins begins = new Begins.OnTicket(trigger(new Trigger.ClockReaches(null, Promised.RESTORE, 50)), null);
        assertThat(begin(ON_INCIDENTS, begins).refused()).contains("never gets there");
        world.promises(Map.of(
                "P1", new Service.Promise(null, Span.parse("1 h")),
                "P2", new Service.Promise(null, Span.parse("4 h")),
                "P3", new Service.Promise(null, Span.parse("4 h"))));
        Setting setting = setting(ON_INCIDENTS, Map.of(), begins);
        Setting promised = new Setting(
                        setting.version(),
                        setting.kind(),
                        Map.of("title", "Stuck", "service", "gates", "impact", 2L, "urgency", 2L),
                        Map.of(),
                        setting.by(),
                        START,
                        world::look)
                .begunBy(begins);
        Played stage = new Rehearsal(promised).begin();
        assertThat(waits(stage)).as(stage.refused()).isTrue();
        assertThat(stage.now()).isEqualTo(START.plusSeconds(2 * 3_600));
    }

    @Test
    void aSignalIsEnteredOnTheTicket() {
        Trigger trigger = trigger(new Trigger.SignalEntered(null, new SourceKey("gates"), null));
        assertThat(waits(begin(ON_INCIDENTS, new Begins.OnTicket(trigger, heard()))))
                .isTrue();
        assertThat(begin(ON_INCIDENTS, new Begins.OnTicket(trigger, null)).refused())
                .contains("Choose the signal");
    }

    @Test
    void whatCannotBeginHereSaysSo() {
        Begins vote = new Begins.OnTicket(trigger(new Trigger.ApprovalEnds(null, "approved")), null);
        assertThat(begin(ON_INCIDENTS, vote).refused()).contains("by hand");
    }

    // --- replay

    @Test
    void aRoutineIsReplayedAsItsTimeHadBegunIt() {
        Rehearsal then = new Rehearsal(setting(NIGHTLY, Map.of(), atItsTime(Map.of("day", "string(now)"))));
        Played end = then.toTheEnd(then.begin());
        assertThat(end.ended()).contains("all is well");
        Replay.Replayed again = Replay.of(NIGHTLY, end.record(), RunId.of(Rehearsal.TICKET, 1), world::look);
        assertThat(again.differences()).isEmpty();
        assertThat(again.after()).isEqualTo("all is well");
    }

    @Test
    void whatASignalBeganIsReplayedByThatSignal() {
        WorkflowVersion other = read("incident", """
                which: if exists(ticket.requester)
                  otherwise -> signal
                hand: done "by hand"
                signal: done "by a signal"
                """);
        Rehearsal then = new Rehearsal(setting(ON_INCIDENTS, Map.of(), bySignal(Trigger.Mode.STARTS, null, true)));
        Played end = then.toTheEnd(then.begin());
        Replay.Replayed same = Replay.of(ON_INCIDENTS, end.record(), RunId.of(Rehearsal.TICKET, 1), world::look);
        assertThat(same.differences()).isEmpty();
        assertThat(Replay.of(other, end.record(), RunId.of(Rehearsal.TICKET, 1), world::look)
                        .after())
                .as("nobody asked for it: it has no requester")
                .isEqualTo("by a signal");
    }
}
