package dastur.e2e;

import dastur.core.people.GroupId;
import dastur.core.people.Party;
import dastur.core.people.PersonId;
import dastur.core.step.task.HumanTask;
import dastur.core.ticket.TicketKind;
import dastur.core.time.Span;
import dastur.core.workflow.Ladder;
import dastur.core.workflow.LadderKey;
import dastur.core.workflow.Level;
import dastur.core.workflow.Rung;
import dastur.core.workflow.Step;
import dastur.core.workflow.StepId;
import dastur.core.workflow.Trigger;
import dastur.core.workflow.TriggerId;
import dastur.core.workflow.WorkflowKey;
import dastur.core.workflow.WorkflowVersion;
import dastur.store.Journal;
import dastur.store.Workflows;
import java.util.List;
import java.util.Map;

/** A workflow of one task whose ladder has every kind of rung. */
final class LadderCase {
    private LadderCase() {}

    static void publish(Stage stage) {
        Workflows workflows = stage.app.app().design().workflows();
        PersonId ines = new PersonId("ines");
        Party managers = new Party.OfGroup(new GroupId("duty-managers"));
        LadderKey ladder = new LadderKey("every-rung");
        workflows.putLadder(new Ladder(
                ladder,
                "Every rung",
                List.of(
                        new Rung(Span.parse("5 min"), new Rung.Remind()),
                        new Rung(Span.parse("10 min"), new Rung.HandOver(managers)),
                        new Rung(Span.parse("15 min"), new Rung.RaisePriority()),
                        new Rung(Span.parse("20 min"), new Rung.Decide("Give up")))));
        StepId end = new StepId("end");
        WorkflowKey key = new WorkflowKey("ladder-at-work");
        workflows.create(
                new WorkflowVersion(
                        key,
                        1,
                        "Ladder at work",
                        null,
                        ines,
                        TicketKind.INCIDENT,
                        List.of(),
                        List.of(),
                        new Level(List.of(
                                new HumanTask(
                                        new StepId("look"),
                                        "Look",
                                        null,
                                        new Party.OfGroup(new GroupId("pier-technicians")),
                                        null,
                                        List.of("Done", "Give up"),
                                        null,
                                        Span.parse("20 min"),
                                        ladder,
                                        Map.of("Done", end, "Give up", end),
                                        null),
                                new Step.End(end, "Given up", "given up", null, false)))),
                ines,
                stage.clock.instant());
        workflows.publish(key, 1, ines, stage.clock.instant()).orElseThrow();
        workflows.setTriggers(
                new Journal.By(ines, stage.clock.instant()),
                key,
                List.of(new Trigger(
                        new TriggerId("ladder-hand"), true, new Trigger.ByHand(TicketKind.INCIDENT), List.of(), null)));
    }
}
