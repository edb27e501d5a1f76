package dastur.server.demo;

import dastur.core.people.GroupId;
import dastur.core.people.Party;
import dastur.core.people.PersonId;
import dastur.core.ticket.Field;
import dastur.core.ticket.FieldType;
import dastur.core.ticket.ServiceId;
import dastur.core.ticket.TicketKind;
import dastur.core.time.Span;
import dastur.core.workflow.Action;
import dastur.core.workflow.ActionKey;
import dastur.core.workflow.ApprovalRule;
import dastur.core.workflow.Connection;
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
import dastur.store.Workflows;
import java.time.Instant;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import org.jspecify.annotations.Nullable;

/** The workflows that ship, and the actions and ladders they use. */
final class DemoWorkflows {
    static final WorkflowKey GATE = new WorkflowKey("gate-lane-stuck-open");
    static final WorkflowKey KIOSK = new WorkflowKey("seasonal-ticket-kiosk");
    static final PersonId INES = new PersonId("ines");
    static final String SECRET = "standins";

    private final Workflows workflows;

    DemoWorkflows(Workflows workflows) {
        this.workflows = workflows;
    }

    /** The stand-ins' address may be another after each start. */
    void connect(String standins) {
        workflows.putConnection(new Connection("lanes", "Lane controller", standins, List.of(), SECRET));
        workflows.putConnection(new Connection("kiosks", "Kiosk manager", standins, List.of(), SECRET));
    }

    void build(Instant at) {
        workflows.putAction(closeLane());
        workflows.putAction(enrolKiosk());
        workflows.putLadder(new Ladder(
                new LadderKey("pier"),
                "Pier ladder",
                List.of(
                        new Rung(Span.parse("20 min"), new Rung.Remind()),
                        new Rung(
                                Span.parse("30 min"),
                                new Rung.Tell(
                                        List.of(group("duty-managers")),
                                        "Nobody has looked at {{ ci.name ?? 'the gate' }} yet.")),
                        new Rung(Span.parse("45 min"), new Rung.RaisePriority()))));
        workflows.putLadder(new Ladder(
                new LadderKey("duty"),
                "Duty ladder",
                List.of(
                        new Rung(Span.parse("10 min"), new Rung.Remind()),
                        new Rung(Span.parse("25 min"), new Rung.HandOver(new Party.OfPerson(new PersonId("pavel")))))));
        publish(
                gate(),
                at,
                new Trigger(
                        new TriggerId("gate-raised"),
                        true,
                        new Trigger.Created(TicketKind.INCIDENT),
                        List.of(new ServiceId("ticket-gates")),
                        "ci.kind == 'gate' && ticket.impact <= 3"),
                new Trigger(
                        new TriggerId("gate-by-hand"), true, new Trigger.ByHand(TicketKind.INCIDENT), List.of(), null));
        publish(
                kiosk(),
                at,
                new Trigger(
                        new TriggerId("kiosk-asked"),
                        true,
                        new Trigger.Created(TicketKind.CHANGE),
                        List.of(new ServiceId("ticket-gates")),
                        "ci.kind == 'kiosk' && ci.life == 'planned'"));
    }

    private void publish(WorkflowVersion version, Instant at, Trigger... triggers) {
        workflows.create(version, INES, at);
        workflows.publish(version.key(), 1, INES, at).orElseThrow();
        workflows.setTriggers(version.key(), List.of(triggers));
    }

    // --- actions

    private static Action closeLane() {
        return new Action(
                new ActionKey("lane.close"),
                "Close a lane",
                "Tells the lane controller to close a gate's lane; answers with the lock number.",
                "lanes",
                new Action.HttpCall(
                        "POST",
                        "/lanes/{{ input.gate }}/close",
                        Map.of("Idempotency-Key", "{{ call.key }}"),
                        "{\"why\":\"{{ input.why }}\"}",
                        null),
                List.of(Field.of("gate", "Gate", FieldType.CI).asRequired(), Field.of("why", "Why", FieldType.TEXT)),
                List.of(new Action.Output(
                        Field.of("lock", "Lock number", FieldType.TEXT).asRequired(), "/lock")),
                List.of(new Action.OwnResult("already closed", "/status", "already closed")),
                Action.Repeat.KEYED,
                true,
                Span.parse("20 s"),
                3,
                Span.parse("5 s"));
    }

    private static Action enrolKiosk() {
        return new Action(
                new ActionKey("kiosk.enrol"),
                "Enrol a kiosk",
                "Enrols a ticket kiosk and asks until it is up; answers with till number and first receipt.",
                "kiosks",
                new Action.HttpCall(
                        "POST",
                        "/kiosks/{{ input.kiosk }}/enrol",
                        Map.of("Idempotency-Key", "{{ call.key }}"),
                        "{}",
                        new Action.Poll("/job", "/state", "up", "failed", Span.parse("2 s"))),
                List.of(Field.of("kiosk", "Kiosk", FieldType.CI).asRequired()),
                List.of(
                        new Action.Output(
                                Field.of("till", "Till number", FieldType.TEXT).asRequired(), "/till"),
                        new Action.Output(Field.of("receipt", "First receipt", FieldType.TEXT), "/receipt")),
                List.of(),
                Action.Repeat.KEYED,
                true,
                Span.parse("5 min"),
                3,
                Span.parse("10 s"));
    }

    // --- gate lane stuck open

    private static WorkflowVersion gate() {
        return new WorkflowVersion(
                GATE,
                1,
                "Gate lane stuck open",
                "A ticket gate does not close: somebody looks, a duty manager decides, the lane is closed at once.",
                INES,
                TicketKind.INCIDENT,
                List.of(),
                List.of(),
                new Level(List.of(
                        new Step.HumanTask(
                                id("look"),
                                "Look at the gate",
                                "Go to {{ ci.name }}. Does the arm move? Is anything in its way?",
                                group("pier-technicians"),
                                group("duty-managers"),
                                List.of("Close the lane", "Cleared on the spot"),
                                List.of(Field.of("seen", "What you saw", FieldType.LONG_TEXT)),
                                Span.parse("30 min"),
                                new LadderKey("pier"),
                                ways("Close the lane", "approve", "Cleared on the spot", "clearedNote"),
                                "Close the lane"),
                        new Step.Approval(
                                id("approve"),
                                "Close the lane?",
                                "{{ steps.look.seen ?? 'The technician asks to close the lane.' }}",
                                "close the lane at {{ ci.id }}",
                                List.of(group("duty-managers")),
                                new ApprovalRule.AnyOne(),
                                true,
                                List.of(id("look")),
                                List.of("ticket.ci", "ticket.title", "ticket.impact", "ci.site"),
                                true,
                                Span.parse("1 h"),
                                new LadderKey("duty"),
                                ways("approved", "close", "declined", "keepOpen", "lapsed", "keepOpen"),
                                "approved"),
                        new Step.Automation(
                                id("close"),
                                "Close the lane",
                                new ActionKey("lane.close"),
                                Map.of("gate", "ticket.ci", "why", "ticket.title"),
                                null,
                                null,
                                ways("ok", "noteLock", "already closed", "noteLock", "failed", "closeByHand"),
                                "ok"),
                        new Step.HumanTask(
                                id("closeByHand"),
                                "Close the lane by hand",
                                "The lane controller did not do it: {{ steps.close.error }}. Lock {{ ci.name }} with the key from the pier office.",
                                group("pier-technicians"),
                                null,
                                List.of("Locked by hand"),
                                null,
                                Span.parse("30 min"),
                                new LadderKey("pier"),
                                ways("Locked by hand", "tell"),
                                null),
                        new Step.Update(
                                id("noteLock"),
                                "Note the lock, hand to the supplier's contact",
                                List.of(
                                        new Step.Assignment("ticket.lockNumber", "steps.close.lock", null),
                                        new Step.Assignment("ci.lane", null, "closed, lock {{ steps.close.lock }}"),
                                        new Step.Assignment("ticket.group", "'suppliers-liaison'", null)),
                                ways("done", "tell"),
                                null),
                        new Step.Notify(
                                id("tell"),
                                "Tell the requester",
                                List.of(new Party.Requester()),
                                "{{ ticket.number }}: the lane is closed",
                                "{{ ci.name }} no longer stands open: its lane was closed{{ ', lock ' + ticket.lockNumber ?? '' }}. Passengers use the next gate. A repair is being arranged.",
                                ways("sent", "closeTicket"),
                                null),
                        new Step.Update(
                                id("closeTicket"),
                                "Close the ticket",
                                List.of(
                                        new Step.Assignment(
                                                "ticket.cause", null, "{{ steps.look.seen ?? 'Gate arm stuck open' }}"),
                                        new Step.Assignment(
                                                "ticket.done",
                                                null,
                                                "Lane closed{{ ', lock ' + ticket.lockNumber ?? ' by hand' }}"),
                                        new Step.Assignment(
                                                "ticket.answer",
                                                null,
                                                "The gate's lane is closed until it is repaired. Please use the next gate."),
                                        new Step.Assignment("ticket.state", "'closed'", null)),
                                ways("done", "closed"),
                                null),
                        new Step.End(id("closed"), "Lane closed", "lane closed", null, false),
                        new Step.Update(
                                id("clearedNote"),
                                "Close as cleared",
                                List.of(
                                        new Step.Assignment(
                                                "ticket.cause",
                                                null,
                                                "{{ steps.look.seen ?? 'Something was in the way' }}"),
                                        new Step.Assignment("ticket.done", null, "Cleared on the spot"),
                                        new Step.Assignment("ticket.answer", null, "{{ ci.name }} works again."),
                                        new Step.Assignment("ticket.state", "'closed'", null)),
                                ways("done", "cleared"),
                                null),
                        new Step.End(
                                id("cleared"),
                                "Cleared on the spot",
                                "cleared on the spot",
                                "{{ ci.name }} works again. Thank you for telling us.",
                                false),
                        new Step.Notify(
                                id("keepOpen"),
                                "Tell the technicians to stay",
                                List.of(group("pier-technicians")),
                                "{{ ticket.number }}: the lane stays open",
                                "The lane at {{ ci.name }} is not closed. {{ steps.approve.comment ?? 'Nobody decided in time.' }} Somebody must stay at the gate.",
                                ways("sent", "stay"),
                                null),
                        new Step.HumanTask(
                                id("stay"),
                                "Stay at the gate until it works",
                                "Check tickets by hand at {{ ci.name }}.",
                                group("pier-technicians"),
                                null,
                                List.of("It works again"),
                                null,
                                Span.parse("4 h"),
                                null,
                                ways("It works again", "clearedNote"),
                                null))));
    }

    // --- seasonal ticket kiosk

    private static WorkflowVersion kiosk() {
        return new WorkflowVersion(
                KIOSK,
                1,
                "Seasonal ticket kiosk",
                "Put a planned kiosk into use for the season: approved, enrolled, confirmed on the pier.",
                INES,
                TicketKind.CHANGE,
                List.of(),
                List.of(),
                new Level(List.of(
                        new Step.Approval(
                                id("approve"),
                                "Put the kiosk into use?",
                                "{{ ticket.title }}. {{ ticket.description ?? '' }}",
                                "enrol {{ ci.id }}",
                                List.of(group("duty-managers")),
                                new ApprovalRule.AnyOne(),
                                true,
                                null,
                                List.of("ticket.ci", "ticket.title", "ci.site"),
                                true,
                                Span.parse("2 working days"),
                                null,
                                ways("approved", "authorise", "declined", "refuse"),
                                null),
                        new Step.Update(
                                id("authorise"),
                                "Note the authorisation",
                                List.of(new Step.Assignment("ticket.state", "'authorised'", null)),
                                ways("done", "enrol"),
                                null),
                        new Step.Automation(
                                id("enrol"),
                                "Enrol the kiosk",
                                new ActionKey("kiosk.enrol"),
                                Map.of("kiosk", "ticket.ci"),
                                null,
                                null,
                                ways("ok", "noteTill"),
                                null),
                        new Step.Update(
                                id("noteTill"),
                                "Note till and receipt",
                                List.of(
                                        new Step.Assignment("ticket.state", "'implementing'", null),
                                        new Step.Assignment("ticket.tillNumber", "steps.enrol.till", null),
                                        new Step.Assignment("ticket.firstReceipt", "steps.enrol.receipt", null),
                                        new Step.Assignment("ci.till", "steps.enrol.till", null),
                                        new Step.Assignment("ci.life", "'in use'", null)),
                                ways("done", "confirm"),
                                null),
                        new Step.HumanTask(
                                id("confirm"),
                                "Confirm at the kiosk",
                                "Buy a test ticket at {{ ci.name }}. Till {{ ticket.tillNumber }}, first receipt {{ ticket.firstReceipt }}.",
                                group("pier-technicians"),
                                null,
                                List.of("Up and selling", "Not right"),
                                null,
                                Span.parse("4 working h"),
                                new LadderKey("pier"),
                                ways("Up and selling", "closeTicket", "Not right", "repair"),
                                null),
                        new Step.HumanTask(
                                id("repair"),
                                "Have it put right",
                                "{{ steps.confirm.note ?? 'The kiosk is not right.' }}",
                                group("suppliers-liaison"),
                                null,
                                List.of("Put right"),
                                null,
                                Span.parse("2 working days"),
                                null,
                                ways("Put right", "confirm"),
                                null),
                        new Step.Update(
                                id("closeTicket"),
                                "Close the change",
                                List.of(
                                        new Step.Assignment("ticket.cause", null, "Seasonal demand"),
                                        new Step.Assignment(
                                                "ticket.done",
                                                null,
                                                "{{ ci.name }} enrolled as till {{ ticket.tillNumber }}"),
                                        new Step.Assignment(
                                                "ticket.answer",
                                                null,
                                                "{{ ci.name }} is in use as till {{ ticket.tillNumber }}."),
                                        new Step.Assignment("ticket.state", "'closed'", null)),
                                ways("done", "tell"),
                                null),
                        new Step.Notify(
                                id("tell"),
                                "Tell the requester",
                                List.of(new Party.Requester()),
                                "{{ ticket.number }}: the kiosk is in use",
                                "{{ ci.name }} sells tickets as till {{ ticket.tillNumber }}. Its first receipt was {{ ticket.firstReceipt }}.",
                                ways("sent", "inUse"),
                                null),
                        new Step.End(id("inUse"), "In use", "kiosk in use", null, false),
                        new Step.Update(
                                id("refuse"),
                                "Note the refusal",
                                List.of(
                                        new Step.Assignment(
                                                "ticket.answer", null, "Not this time: {{ steps.approve.comment }}"),
                                        new Step.Assignment("ticket.state", "'refused'", null)),
                                ways("done", "refused"),
                                null),
                        new Step.End(
                                id("refused"),
                                "Refused",
                                "refused",
                                "Your kiosk was refused: {{ steps.approve.comment }} Ask the duty manager what would change that.",
                                false))));
    }

    private static StepId id(String text) {
        return new StepId(text);
    }

    private static Party group(String id) {
        return new Party.OfGroup(new GroupId(id));
    }

    private static Map<String, StepId> ways(@Nullable String... pairs) {
        Map<String, StepId> ways = new LinkedHashMap<>();
        for (int i = 0; i < pairs.length; i += 2) {
            ways.put(pairs[i], id(String.valueOf(pairs[i + 1])));
        }
        return ways;
    }
}
