package dastur.demo;

import dastur.core.people.GroupId;
import dastur.core.people.Party;
import dastur.core.people.RotaKey;
import dastur.core.ticket.Field;
import dastur.core.ticket.FieldType;
import dastur.core.ticket.Promised;
import dastur.core.ticket.ServiceId;
import dastur.core.ticket.TicketKind;
import dastur.core.time.Span;
import dastur.core.workflow.Action;
import dastur.core.workflow.ActionKey;
import dastur.core.workflow.Connection;
import dastur.core.workflow.Ladder;
import dastur.core.workflow.LadderKey;
import dastur.core.workflow.Rung;
import dastur.core.workflow.Trigger;
import dastur.core.workflow.TriggerId;
import dastur.core.workflow.WorkflowKey;
import dastur.store.Journal;
import dastur.store.Workflows;
import java.time.Instant;
import java.util.List;
import java.util.Map;
import java.util.function.Consumer;
import org.jspecify.annotations.Nullable;

/** Workflows that ship beside those that are at work in the demo: to start by hand, to read, and to begin from. */
final class DemoLibrary {
    private final Workflows workflows;

    DemoLibrary(Workflows workflows) {
        this.workflows = workflows;
    }

    static void connect(Consumer<Connection> set, String standins) {
        set.accept(new Connection("partner", "The supplier's ticket desk", standins, List.of(), DemoWorkflows.SECRET));
    }

    void build(Instant at) {
        actions();
        DemoNetwork.actions(workflows);
        ladders();
        publish(
                "passenger-service-down",
                TicketKind.INCIDENT,
                at,
                new Trigger(
                        new TriggerId("passenger-service-down-major"),
                        true,
                        new Trigger.FieldReaches(TicketKind.INCIDENT, "major", "true"),
                        List.of(),
                        "service.passengers"),
                // A workflow for just that matter, such as that of a gate, knows better what to do.
                new Trigger(
                        new TriggerId("passenger-service-down-raised"),
                        true,
                        new Trigger.Created(TicketKind.INCIDENT),
                        List.of(),
                        "ticket.impact == 1 && service.passengers",
                        Trigger.Mode.OFFERS,
                        true));
        publish("emergency-follow-up", TicketKind.CHANGE, at);
        publish("emergency-change", TicketKind.CHANGE, at);
        publish("winter-timetable-switch", TicketKind.CHANGE, at);
        publish(
                "berth-drawings",
                TicketKind.REQUEST,
                at,
                new Trigger(
                        new TriggerId("berth-drawings-asked"),
                        true,
                        new Trigger.Created(TicketKind.REQUEST),
                        List.of(),
                        "lower(ticket.title).contains('drawing')"));
        publish(
                "nearly-late",
                TicketKind.INCIDENT,
                at,
                new Trigger(
                        new TriggerId("nearly-late-restore"),
                        true,
                        new Trigger.ClockReaches(TicketKind.INCIDENT, Promised.RESTORE, 75),
                        List.of(),
                        "service.passengers && ticket.priority in ['P1', 'P2']",
                        Trigger.Mode.OFFERS,
                        null));
        publish("handed-to-the-supplier", TicketKind.INCIDENT, at);
        publish("machine-for-the-supplier", TicketKind.REQUEST, at, DemoPartner.asksForMachine());
        publish("fares-on-kiosks", TicketKind.INCIDENT, at, DemoStarts.faresCompared(at));
        publish("certificates-watched", TicketKind.ROUTINE, at, DemoStarts.certificatesLookedAt(at));
        publish("booking-site-slow", TicketKind.INCIDENT, at, DemoStarts.bookingSiteSlow());
        publish(
                "frozen-departure-board",
                TicketKind.INCIDENT,
                at,
                new Trigger(
                        new TriggerId("frozen-departure-board-raised"),
                        true,
                        new Trigger.Created(TicketKind.INCIDENT),
                        List.of(new ServiceId("departure-boards")),
                        "ci.kind == 'board' && lower(ticket.title).contains('frozen')"),
                DemoSources.frozenBoard());
        publish("gateway-software-upgrade", TicketKind.CHANGE, at);
        publish("wifi-portal-move", TicketKind.CHANGE, at);
        publish("access-to-the-roster", TicketKind.REQUEST, at);
        publish("new-machine-for-the-crew-office", TicketKind.CHANGE, at);
        publish(
                "stopped-machine-is-started",
                TicketKind.INCIDENT,
                at,
                new Trigger(
                        new TriggerId("stopped-machine-raised"),
                        true,
                        new Trigger.Created(TicketKind.INCIDENT),
                        List.of(),
                        "ci.kind == 'server' && ci.site == 'MDR' && lower(ticket.title).contains('has stopped')"));
        publish(
                "trace-files-fill-a-host",
                TicketKind.INCIDENT,
                at,
                new Trigger(
                        new TriggerId("trace-files-disk-full"),
                        true,
                        new Trigger.Created(TicketKind.INCIDENT),
                        List.of(),
                        "ci.kind == 'server' && lower(ticket.title).contains('disk')"));
    }

    private void publish(String key, TicketKind kind, Instant at, Trigger... more) {
        WorkflowKey workflow = new WorkflowKey(key);
        workflows.create(DemoWorkflows.shipped(workflow), DemoWorkflows.INES, at);
        workflows.publish(workflow, 1, DemoWorkflows.INES, at).orElseThrow();
        if (kind == TicketKind.ROUTINE) {
            // Nobody has a routine before them from which they would start it.
            workflows.setTriggers(new Journal.By(DemoWorkflows.INES, at), workflow, List.of(more));
            return;
        }
        Trigger byHand = new Trigger(new TriggerId(key + "-by-hand"), true, new Trigger.ByHand(kind), List.of(), null);
        workflows.setTriggers(
                new Journal.By(DemoWorkflows.INES, at),
                workflow,
                java.util.stream.Stream.concat(java.util.stream.Stream.of(more), java.util.stream.Stream.of(byHand))
                        .toList());
    }

    // --- ladders

    private void ladders() {
        ladder(
                "duty-call",
                "Call the duty managers in",
                tell("0 min", new Party.OnCall(new RotaKey("duty"), 1)),
                tell("10 min", new Party.OnCall(new RotaKey("duty"), 2)),
                tell("20 min", new Party.OfGroup(new GroupId("duty-managers"))));
        ladder("passengers-call", "Call the passengers’ desk in", tell("0 min", group("passengers-desk")));
        ladder("desk-call", "Call the service desk in", tell("0 min", group("service-desk")));
    }

    private static Party group(String id) {
        return new Party.OfGroup(new GroupId(id));
    }

    private static Rung tell(String after, Party to) {
        return new Rung(Span.parse(after), new Rung.Tell(List.of(to), null));
    }

    private void ladder(String key, String name, Rung... rungs) {
        workflows.putLadder(new Ladder(new LadderKey(key), name, List.of(rungs)));
    }

    // --- actions

    private void actions() {
        DemoPartner.actions(workflows);
        DemoParts.actions(workflows);
        DemoLedger.actions(workflows);
        workflows.putAction(action(
                "kiosk.fares",
                "Read the fares of every kiosk",
                "Reads which fares are in force, and which each kiosk has.",
                "kiosks",
                "GET",
                "/kiosks/fares",
                null,
                List.of(),
                List.of(
                        output("inForce", "Fares in force", FieldType.TEXT),
                        output("kiosks", "Kiosks with their fares", FieldType.LIST)),
                false));
        workflows.putAction(action(
                DemoStarts.HEARD.value(),
                "Ask when the kiosks were last heard",
                "Reads how many minutes ago the kiosk was heard that has been silent longest.",
                "kiosks",
                "GET",
                "/kiosks/heard",
                null,
                List.of(),
                List.of(
                        output("minutes", "Minutes", FieldType.WHOLE),
                        output("kiosk", "Kiosk", FieldType.TEXT),
                        output("of", "How many kiosks", FieldType.WHOLE)),
                false));
        workflows.putAction(action(
                DemoStarts.PAPER.value(),
                "Ask how much paper the kiosks have",
                "Reads how many metres of paper each kiosk has for tickets.",
                "kiosks",
                "GET",
                "/kiosks/paper",
                null,
                List.of(),
                List.of(output("kiosks", "Kiosks", FieldType.LIST)),
                false));
        workflows.putAction(action(
                "kiosk.distribute",
                "Send fares to a kiosk",
                "Sends named fares to a kiosk; one that is switched off refuses.",
                "kiosks",
                "POST",
                "/kiosks/{{ input.kiosk }}/fares/{{ input.version }}",
                "{}",
                List.of(needed("kiosk", "Kiosk"), needed("version", "Fares")),
                List.of(),
                true));
    }

    static Field needed(String name, String label) {
        return Field.of(name, label, FieldType.TEXT).asRequired();
    }

    static Action.Output output(String name, String label, FieldType type) {
        return new Action.Output(Field.of(name, label, type).asRequired(), "/" + name);
    }

    static Action action(
            String key,
            String name,
            String description,
            String connection,
            String method,
            String path,
            @Nullable String body,
            List<Field> inputs,
            List<Action.Output> outputs,
            boolean changesWorld) {
        return new Action(
                new ActionKey(key),
                name,
                description,
                connection,
                new Action.HttpCall(method, path, Map.of("Idempotency-Key", "{{ call.key }}"), body, null),
                inputs,
                outputs,
                List.of(),
                changesWorld ? Action.Repeat.KEYED : Action.Repeat.FREE,
                changesWorld,
                Span.parse("20 s"),
                2,
                Span.parse("5 s"));
    }
}
