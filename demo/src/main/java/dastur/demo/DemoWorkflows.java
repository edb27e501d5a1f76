package dastur.demo;

import dastur.core.notation.Names;
import dastur.core.notation.Notation;
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
import dastur.core.workflow.Connection;
import dastur.core.workflow.Ladder;
import dastur.core.workflow.LadderKey;
import dastur.core.workflow.Limit;
import dastur.core.workflow.Rung;
import dastur.core.workflow.Trigger;
import dastur.core.workflow.TriggerId;
import dastur.core.workflow.WorkflowKey;
import dastur.core.workflow.WorkflowVersion;
import dastur.store.Journal;
import dastur.store.Workflows;
import java.io.IOException;
import java.io.InputStream;
import java.io.UncheckedIOException;
import java.nio.charset.StandardCharsets;
import java.time.Instant;
import java.util.List;
import java.util.Map;
import java.util.function.Consumer;

/** The workflows that ship, and the actions and ladders they use. */
final class DemoWorkflows {
    static final WorkflowKey GATE = new WorkflowKey("gate-lane-stuck-open");
    static final WorkflowKey CERTIFICATES = new WorkflowKey("gate-certificates");
    static final WorkflowKey FARES = new WorkflowKey("new-fare-rules");
    static final WorkflowKey KIOSK = new WorkflowKey("seasonal-ticket-kiosk");
    static final PersonId INES = new PersonId("ines");
    static final String SECRET = "standins";

    private final Workflows workflows;

    DemoWorkflows(Workflows workflows) {
        this.workflows = workflows;
    }

    /** The stand-ins' address may be another after each start. */
    static void connect(Consumer<Connection> set, String standins) {
        set.accept(new Connection("lanes", "Lane controller", standins, List.of(), SECRET));
        DemoLibrary.connect(set, standins);
        DemoParts.connect(set, standins);
        set.accept(new Connection("kiosks", "Kiosk manager", standins, List.of(), SECRET));
    }

    void build(Instant at) {
        workflows.putAction(closeLane());
        gateActions().forEach(workflows::putAction);
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
                shipped(GATE),
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
                shipped(KIOSK),
                at,
                new Trigger(
                        new TriggerId("kiosk-asked"),
                        true,
                        new Trigger.Created(TicketKind.CHANGE),
                        List.of(new ServiceId("ticket-gates")),
                        "ci.kind == 'kiosk' && ci.life == 'planned'"));
        publish(
                shipped(CERTIFICATES),
                at,
                new Trigger(
                        new TriggerId("certificates-raised"),
                        true,
                        new Trigger.Created(TicketKind.INCIDENT),
                        List.of(new ServiceId("ticket-gates")),
                        "lower(ticket.title).contains('certificate')",
                        Trigger.Mode.ASKS),
                new Trigger(
                        new TriggerId("certificates-by-hand"),
                        true,
                        new Trigger.ByHand(TicketKind.INCIDENT),
                        List.of(),
                        null));
        publish(
                shipped(FARES),
                at,
                new Trigger(
                        new TriggerId("fares-by-hand"), true, new Trigger.ByHand(TicketKind.CHANGE), List.of(), null));
        new DemoLibrary(workflows).build(at);
    }

    private void publish(WorkflowVersion version, Instant at, Trigger... triggers) {
        workflows.create(version, INES, at);
        workflows.publish(version.key(), 1, INES, at).orElseThrow();
        workflows.setTriggers(new Journal.By(INES, at), version.key(), List.of(triggers));
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

    /** Whatever a workflow says, it reaches CIs of this kind alone. */
    private static Limit only(String kind) {
        return new Limit(null, null, null, List.of(kind), null);
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
                                        Field.of("till", "Till number", FieldType.TEXT)
                                                .asRequired(),
                                        "/till"),
                                new Action.Output(Field.of("receipt", "First receipt", FieldType.TEXT), "/receipt")),
                        List.of(),
                        Action.Repeat.KEYED,
                        true,
                        Span.parse("5 min"),
                        3,
                        Span.parse("10 s"))
                .limited(Map.of("kiosk", only("kiosk")));
    }

    // --- gates

    private static Action gateAction(
            String key, String name, String description, String method, String path, boolean changesWorld) {
        return new Action(
                new ActionKey(key),
                name,
                description,
                "lanes",
                new Action.HttpCall(
                        method,
                        path,
                        Map.of("Idempotency-Key", "{{ call.key }}"),
                        method.equals("GET") ? null : "{}",
                        null),
                List.of(Field.of("site", "Site", FieldType.TEXT).asRequired()),
                List.of(),
                List.of(),
                changesWorld ? Action.Repeat.KEYED : Action.Repeat.FREE,
                changesWorld,
                Span.parse("20 s"),
                2,
                Span.parse("5 s"));
    }

    private static Action with(Action a, List<Field> inputs, List<Action.Output> outputs) {
        return new Action(
                a.key(),
                a.name(),
                a.description(),
                a.connection(),
                a.call(),
                inputs,
                outputs,
                a.results(),
                a.repeat(),
                a.changesWorld(),
                a.timeLimit(),
                a.tries(),
                a.pause());
    }

    private static List<Action> gateActions() {
        Field site = Field.of("site", "Site", FieldType.TEXT).asRequired();
        Field rules = Field.of("rules", "Name of the rules", FieldType.TEXT).asRequired();
        return List.of(
                with(
                        gateAction(
                                "gate.certificates",
                                "List a site's gate certificates",
                                "Reads name and expiry of the certificate of every gate of a site.",
                                "GET",
                                "/gates/{{ input.site }}/certificates",
                                false),
                        List.of(site),
                        List.of(output("certificates", "Certificates", FieldType.LIST))),
                with(
                        gateAction(
                                "gate.renew",
                                "Renew a gate's certificate",
                                "Puts a new certificate onto a gate; a gate without power refuses.",
                                "POST",
                                "/gates/{{ input.gate }}/certificate",
                                true),
                        List.of(Field.of("gate", "Gate", FieldType.CI).asRequired()),
                        List.of(output("expires", "Good until", FieldType.TEXT))),
                with(
                        gateAction(
                                "fares.read",
                                "Read the test cards",
                                "Holds the three test cards to a gate of the site and reads the fares it would take.",
                                "GET",
                                "/gates/{{ input.site }}/fares",
                                false),
                        List.of(site),
                        List.of(
                                output("adult", "Adult fare", FieldType.NUMBER),
                                output("child", "Child fare", FieldType.NUMBER),
                                output("senior", "Senior fare", FieldType.NUMBER))),
                with(
                        gateAction(
                                "fares.apply",
                                "Put fare rules onto the gates",
                                "Puts named fare rules onto the gates of a site; answers which ones were there before.",
                                "POST",
                                "/gates/{{ input.site }}/fares/{{ input.rules }}",
                                true),
                        List.of(site, rules),
                        List.of(output("previous", "Rules before", FieldType.TEXT))),
                gateAction(
                        "gates.free",
                        "Let the gates stand open",
                        "The gates of a site take no fares until they are told to charge again.",
                        "POST",
                        "/gates/{{ input.site }}/free",
                        true),
                gateAction(
                        "gates.charge",
                        "Let the gates charge again",
                        "The gates of a site take fares again.",
                        "POST",
                        "/gates/{{ input.site }}/charge",
                        true));
    }

    private static Action.Output output(String name, String label, FieldType type) {
        return new Action.Output(Field.of(name, label, type).asRequired(), "/" + name);
    }

    // --- the workflows themselves, in the notation

    /** A shipped workflow by its key. @throws IllegalStateException when its text is missing or at fault */
    static WorkflowVersion shipped(WorkflowKey key) {
        String path = "/demo/" + key + ".dastur";
        try (InputStream in = DemoWorkflows.class.getResourceAsStream(path)) {
            if (in == null) {
                throw new IllegalStateException("the demo lacks " + path);
            }
            Notation.Read read = Notation.read(new String(in.readAllBytes(), StandardCharsets.UTF_8), 1, Names.NONE);
            if (read.version() == null) {
                throw new IllegalStateException(path + ": " + read.problems());
            }
            return read.version();
        } catch (IOException e) {
            throw new UncheckedIOException(e);
        }
    }

    private static Party group(String id) {
        return new Party.OfGroup(new GroupId(id));
    }
}
