package dastur.core.rehearsal;

import dastur.core.people.PersonId;
import dastur.core.run.Event;
import dastur.core.run.LookupKey;
import dastur.core.run.Recorded;
import dastur.core.run.RunId;
import dastur.core.run.Visit;
import dastur.core.ticket.TicketKind;
import dastur.core.workflow.Trigger;
import dastur.core.workflow.TriggerId;
import dastur.core.workflow.WorkflowVersion;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.TreeMap;
import java.util.function.Function;

/** What a version would have done differently in a real, finished run: people and machines answer as they did then. */
public final class Replay {
    private static final int MOST_ANSWERS = 1_000;
    private static final int MOST_TOLD = 20;
    /** A signal that is entered this early has opened the ticket: it stands after what was raised. */
    private static final long OPENING = 3;

    /**
     * @param before how the real run ended
     * @param after how the version would have ended it
     * @param differences sentences; empty when it would have gone the same way
     */
    public record Replayed(String run, String before, String after, List<String> differences) {}

    private Replay() {}

    /**
     * @param record the whole record of the ticket
     * @param world looks up people, CIs and so on as they are now
     */
    public static Replayed of(
            WorkflowVersion version, List<Recorded> record, RunId run, Function<LookupKey, Optional<?>> world) {
        Map<String, Object> fields = new TreeMap<>();
        TicketKind kind = TicketKind.INCIDENT;
        Map<String, Object> inputs = Map.of();
        Recorded started = record.getFirst();
        for (Recorded r : record) {
            if (r.event() instanceof Event.TicketRaised e) {
                kind = e.kind();
                fields.putAll(e.fields());
                fields.putAll(e.texts() == null ? Map.of() : e.texts());
            } else if (r.event() instanceof Event.RunStarted e && run.equals(r.run())) {
                started = r;
                inputs = e.inputs() == null ? Map.of() : e.inputs();
            }
        }
        PersonId by = new PersonId(
                String.valueOf(fields.getOrDefault("requester", version.owner().value())));
        Setting setting = new Setting(version, kind, fields, inputs, by, started.at(), world);
        return play(new Rehearsal(begun(setting, record, started)), record, run);
    }

    /**
     * What had opened the ticket opens it again, where it also started the run; a run that was started later on a ticket is
     * begun by hand.
     */
    private static Setting begun(Setting setting, List<Recorded> record, Recorded started) {
        TriggerId trigger = started.event() instanceof Event.RunStarted e ? e.trigger() : null;
        if (trigger == null) {
            return setting;
        }
        String title = String.valueOf(
                setting.fields().getOrDefault("title", setting.version().name()));
        for (Recorded r : record) {
            if (r.event() instanceof Event.Caused e && e.cause().trigger().equals(trigger)) {
                // Its values are those that were given then, wherever they came from.
                Trigger again =
                        new Trigger(trigger, true, new Trigger.Called(setting.kind(), null, null), List.of(), null);
                return setting.begunBy(new Begins.ByCause(e.cause(), again, title));
            }
            if (r.seq() > started.seq()) {
                break;
            }
            if (r.event() instanceof Event.SignalsHeard e && r.seq() <= OPENING) {
                Trigger again = new Trigger(
                        trigger,
                        true,
                        new Trigger.SignalComes(setting.kind(), e.source(), null, null, null),
                        List.of(),
                        null);
                Event.Look look = new Event.Look(
                        trigger, setting.version().key(), setting.version().name(), true, null, "it did then", null);
                return setting.begunBy(
                        new Begins.BySignal(again, raisedWith(setting.fields()), e, List.of(look), null, true));
            }
        }
        return setting;
    }

    /** What is not given when a ticket is raised, but follows. */
    private static Map<String, Object> raisedWith(Map<String, Object> fields) {
        Map<String, Object> given = new TreeMap<>(fields);
        given.keySet().removeAll(List.of("state", "priority"));
        return given;
    }

    private static Replayed play(Rehearsal rehearsal, List<Recorded> record, RunId run) {
        AnsweredThen then = AnsweredThen.of(record, run);
        List<String> differences = new ArrayList<>();
        Played stage = rehearsal.begin();
        if (stage.refused() != null) {
            differences.add("It would not begin: " + stage.refused());
        }
        for (int i = 0; i < MOST_ANSWERS && stage.refused() == null; i++) {
            Optional<Visit> next = rehearsal.waiting(stage).findFirst();
            if (next.isEmpty()) {
                break;
            }
            Answer answer = then.next(next.get(), onlyTheClockActs(rehearsal, stage, next.get()));
            if (answer == null) {
                answer = rehearsal.usual(stage, next.get());
                if (answer.says() != Answer.Says.NOTHING) {
                    differences.add("'" + next.get().step() + "' would be asked, which it was not; taken as expected.");
                }
            }
            Played after = rehearsal.take(stage, answer);
            if (after.refused() != null) {
                differences.add("'" + answer.step() + "': " + after.refused());
                after = rehearsal.take(stage, rehearsal.usual(stage, next.get()));
            }
            stage = after;
        }
        then.left().forEach(step -> differences.add("'" + step + "' would not be asked any more."));
        String before = record.stream()
                .filter(r -> run.equals(r.run()) && r.event() instanceof Event.RunEnded)
                .map(r -> ((Event.RunEnded) r.event()).result())
                .findFirst()
                .orElse("not ended");
        String after = stage.ended().or(stage::stalled).orElse("not ended");
        if (!after.equals(before)) {
            differences.addFirst("It would have ended with '" + after + "' instead of '" + before + "'.");
        }
        return new Replayed(
                run.value(),
                before,
                after,
                differences.stream().distinct().limit(MOST_TOLD).toList());
    }

    /** Whether a visit waits, for the moment, for nothing but its time: what was answered then is answered after that. */
    private static boolean onlyTheClockActs(Rehearsal rehearsal, Played stage, Visit visit) {
        return rehearsal.options(stage, visit).stream().allMatch(a -> a.says() == Answer.Says.NOTHING);
    }
}
