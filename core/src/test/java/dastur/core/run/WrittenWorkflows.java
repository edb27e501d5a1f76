package dastur.core.run;

import static org.assertj.core.api.Assertions.assertThat;

import dastur.core.notation.Names;
import dastur.core.notation.Notation;
import dastur.core.people.Actor;
import dastur.core.step.calling.CallUnderWay;
import dastur.core.step.calling.CallingCommands.CallOutcome;
import dastur.core.step.calling.CallingCommands.CallResult;
import dastur.core.step.task.TaskCommands.CompleteTask;
import dastur.core.ticket.TicketKind;
import dastur.core.workflow.Trigger;
import dastur.core.workflow.TriggerId;
import dastur.core.workflow.WorkflowVersion;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import org.junit.jupiter.api.AfterEach;

/** A case with small workflows that are written as text, and hands that move it. */
abstract class WrittenWorkflows {
    static final Actor RUNA = Actor.of(World.RUNA);

    final World world = new World();

    void publish(String steps) {
        publish(World.GATE.value(), steps);
        world.raise();
    }

    void publish(String key, String steps) {
        String text = "workflow " + key + " \"W\" for incident\n  owner teo\n  keeps count: whole number \"Count\"\n"
                + "  keeps names: list \"Names\"\n" + steps;
        Notation.Read read = Notation.read(text, 1, Names.NONE);
        assertThat(read.problems()).isEmpty();
        WorkflowVersion version = read.version();
        Trigger[] triggers = key.equals(World.GATE.value())
                ? new Trigger[] {
                    new Trigger(new TriggerId("t"), true, new Trigger.Created(TicketKind.INCIDENT), List.of(), null)
                }
                : new Trigger[0];
        if (triggers.length == 0) {
            world.put(new LookupKey.OfVersion(version.key(), 1), version);
            world.put(new LookupKey.LiveVersion(version.key()), 1);
        } else {
            world.publish(version, triggers);
        }
    }

    List<Visit> open(String step) {
        return world.ticket.open().values().stream()
                .flatMap(r -> r.open().values().stream())
                .filter(v -> v.step().value().equals(step))
                .toList();
    }

    void done(Visit task, String outcome) {
        world.accepted(RUNA, new CompleteTask(task.id(), outcome, Map.of(), null));
    }

    void answer(Visit call, CallOutcome outcome) {
        CallUnderWay w = (CallUnderWay) call.waiting();
        world.accepted(new Actor.OfAction(w.action()), new CallResult(call.id(), w.attempt(), outcome));
    }

    static CallOutcome ok(String lock) {
        return new CallOutcome.Done("ok", Map.of("lock", lock), null, null, "200", 3, 0);
    }

    Run run() {
        return world.ticket.open().values().iterator().next();
    }

    <T extends Event> Optional<T> last(Class<T> type) {
        return world.record.reversed().stream()
                .map(Recorded::event)
                .filter(type::isInstance)
                .map(type::cast)
                .findFirst();
    }

    <T extends Event> List<T> all(Class<T> type) {
        return world.record.stream()
                .map(Recorded::event)
                .filter(type::isInstance)
                .map(type::cast)
                .toList();
    }

    @AfterEach
    void theCaseIsTheFoldOfItsRecord() {
        assertThat(dastur.core.json.Json.write(Engine.fold(World.TICKET, world.record)))
                .isEqualTo(dastur.core.json.Json.write(world.ticket));
    }
}
