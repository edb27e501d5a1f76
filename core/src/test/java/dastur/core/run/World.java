package dastur.core.run;

import dastur.core.notation.Names;
import dastur.core.notation.Notation;
import dastur.core.people.Actor;
import dastur.core.people.Group;
import dastur.core.people.GroupId;
import dastur.core.people.Party;
import dastur.core.people.Person;
import dastur.core.people.PersonId;
import dastur.core.people.Role;
import dastur.core.step.approval.Approval;
import dastur.core.step.approval.ApprovalCommands.Vote;
import dastur.core.step.approval.Votes;
import dastur.core.step.calling.Automation;
import dastur.core.step.calling.CallUnderWay;
import dastur.core.step.calling.CallingCommands.CallOutcome;
import dastur.core.step.calling.CallingCommands.CallResult;
import dastur.core.step.notify.Notify;
import dastur.core.step.task.HumanTask;
import dastur.core.step.task.TaskCommands.CompleteTask;
import dastur.core.step.update.Assignment;
import dastur.core.step.update.Update;
import dastur.core.ticket.CiId;
import dastur.core.ticket.ConfigurationItem;
import dastur.core.ticket.Field;
import dastur.core.ticket.FieldCatalogue;
import dastur.core.ticket.FieldType;
import dastur.core.ticket.Service;
import dastur.core.ticket.ServiceId;
import dastur.core.ticket.TicketId;
import dastur.core.ticket.TicketKind;
import dastur.core.time.Span;
import dastur.core.workflow.Action;
import dastur.core.workflow.ActionKey;
import dastur.core.workflow.ApprovalRule;
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
import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;

/** A small organisation with one ticket, driven by commands under a hand-set clock. */
public final class World {
    public static final PersonId RUNA = new PersonId("runa");
    public static final PersonId SEM = new PersonId("sem");
    public static final PersonId TEO = new PersonId("teo");
    public static final PersonId PRIYA = new PersonId("priya");
    public static final PersonId JONAS = new PersonId("jonas");
    public static final GroupId TECHNICIANS = new GroupId("technicians");
    public static final GroupId MANAGERS = new GroupId("managers");
    public static final TicketId TICKET = new TicketId("I-1");
    public static final WorkflowKey GATE = new WorkflowKey("gate");

    private final List<Trigger.Live> also = new ArrayList<>();
    final Engine engine = new Engine();
    final Map<LookupKey, Optional<?>> values = new HashMap<>();
    public final List<Recorded> record = new ArrayList<>();
    Case ticket = Case.none(TICKET);
    Instant now = Instant.parse("2026-03-02T10:00:00Z");
    Instant upSince = now;
    private int commands;

    public World() {
        person(RUNA, "Runa Feld");
        person(SEM, "Sem Aldous");
        person(TEO, "Teo Marchetti");
        person(PRIYA, "Priya Lund");
        person(JONAS, "Jonas Achterberg");
        group(TECHNICIANS, "Pier technicians", RUNA, SEM);
        group(MANAGERS, "Duty managers", TEO, PRIYA);
        put(new LookupKey.OfCi(new CiId("ALD-G1")), gate(Map.of()));
        put(
                new LookupKey.OfService(new ServiceId("gates")),
                new Service(new ServiceId("gates"), "Ticket gates", true, TECHNICIANS, null));
        put(
                new LookupKey.Fields(),
                new FieldCatalogue(
                        List.of(Field.of("lockNumber", "Lock number", FieldType.TEXT)),
                        List.of(Field.of("lane", "Lane", FieldType.TEXT))));
        put(new LookupKey.OfAction(new ActionKey("close-lane")), closeLane(Action.Repeat.KEYED));
        put(
                new LookupKey.OfLadder(new LadderKey("pier")),
                new Ladder(
                        new LadderKey("pier"),
                        "Pier ladder",
                        List.of(
                                new Rung(Span.parse("10 min"), new Rung.Remind()),
                                new Rung(Span.parse("20 min"), new Rung.HandOver(new Party.OfGroup(MANAGERS))),
                                new Rung(Span.parse("25 min"), new Rung.RaisePriority()),
                                new Rung(Span.parse("30 min"), new Rung.Decide("Close the lane")))));
        publish(
                gateWorkflow(new ApprovalRule.AnyOne()),
                new Trigger(
                        new TriggerId("gate-created"),
                        true,
                        new Trigger.Created(TicketKind.INCIDENT),
                        List.of(new ServiceId("gates")),
                        "ticket.impact <= 2"));
    }

    void person(PersonId id, String name) {
        put(new LookupKey.OfPerson(id), new Person(id, name, id + "@kestrel.example", Set.of(Role.AGENT), true));
    }

    void group(GroupId id, String name, PersonId... members) {
        put(new LookupKey.OfGroup(id), new Group(id, name, List.of(members)));
    }

    static ConfigurationItem gate(Map<String, Object> attributes) {
        return new ConfigurationItem(
                new CiId("ALD-G1"),
                "Gate 1 at Alder Pier",
                "gate",
                new ServiceId("gates"),
                "ALD",
                "10.30.1.1",
                TECHNICIANS,
                "in use",
                attributes);
    }

    static Action closeLane(Action.Repeat repeat) {
        return new Action(
                new ActionKey("close-lane"),
                "Close a lane",
                "Closes a lane.",
                "lanes",
                new Action.HttpCall(
                        "POST",
                        "/lanes/{{ input.gate }}/close",
                        Map.of("Idempotency-Key", "{{ call.key }}"),
                        "{\"why\":\"{{ input.why }}\"}",
                        null),
                List.of(Field.of("gate", "Gate", FieldType.TEXT).asRequired(), Field.of("why", "Why", FieldType.TEXT)),
                List.of(new Action.Output(Field.of("lock", "Lock", FieldType.TEXT), "/lock")),
                List.of(),
                repeat,
                true,
                Span.parse("30 s"),
                2,
                Span.parse("10 s"));
    }

    /** Looks something up as a rehearsal does. */
    public Optional<?> look(LookupKey key) {
        // Published versions use actions as they are now, where nothing else is said.
        return key instanceof LookupKey.PinnedAction pinned && !values.containsKey(key)
                ? look(new LookupKey.OfAction(pinned.key()))
                : values.getOrDefault(key, Optional.empty());
    }

    /** Weekdays from 8 to 17 in Oslo, where nothing else is said. */
    public void officeHours() {
        Map<java.time.DayOfWeek, List<dastur.core.time.WorkingCalendar.Hours>> hours = new HashMap<>();
        for (int day = 1; day <= 5; day++) {
            hours.put(
                    java.time.DayOfWeek.of(day),
                    List.of(new dastur.core.time.WorkingCalendar.Hours(
                            java.time.LocalTime.of(8, 0), java.time.LocalTime.of(17, 0))));
        }
        put(
                new LookupKey.DefaultCalendar(),
                new dastur.core.time.WorkingCalendar(
                        new dastur.core.time.CalendarKey("office"),
                        "Office",
                        java.time.ZoneId.of("Europe/Oslo"),
                        hours,
                        Set.of()));
    }

    /** What is there beside what is always there; for tests of other rooms. */
    public void known(LookupKey key, Object value) {
        put(key, value);
    }

    void put(LookupKey key, Object value) {
        values.keySet()
                .removeIf(k -> k instanceof LookupKey.PinnedAction p && key.equals(new LookupKey.OfAction(p.key())));
        values.put(key, Optional.of(value));
    }

    void publish(WorkflowVersion version, Trigger... triggers) {
        put(new LookupKey.OfVersion(version.key(), version.number()), version);
        put(new LookupKey.LiveVersion(version.key()), version.number());
        put(
                new LookupKey.LiveTriggers(),
                new Lookups.TriggerList(java.util.Arrays.stream(triggers)
                        .map(t -> new Trigger.Live(version.key(), version.number(), version.name(), t))
                        .toList()));
    }

    /** What the service of the gates promises, by priority. */
    public void promises(Map<String, Service.Promise> targets) {
        put(
                new LookupKey.OfService(new ServiceId("gates")),
                new Service(new ServiceId("gates"), "Ticket gates", true, TECHNICIANS, null, targets));
    }

    /** Publishes one more workflow, from its text, that a trigger of its own starts: {@code of-KEY}. */
    void publishAlso(String key, String kind, String steps, Trigger.When when) {
        String text = "workflow " + key + " \"" + key + "\" for " + kind + "\n  owner teo\n" + steps;
        Notation.Read read = Notation.read(text, 1, Names.NONE);
        if (read.version() == null || !read.problems().isEmpty()) {
            throw new AssertionError(read.problems());
        }
        WorkflowVersion version = read.version();
        put(new LookupKey.OfVersion(version.key(), 1), version);
        put(new LookupKey.LiveVersion(version.key()), 1);
        also.add(new Trigger.Live(
                version.key(),
                1,
                version.name(),
                new Trigger(new TriggerId("of-" + key), true, when, List.of(), null)));
        put(new LookupKey.LiveTriggers(), new Lookups.TriggerList(List.copyOf(also)));
    }

    /** Task → approval → call → update → message → end, with a short way out. */
    public static WorkflowVersion gateWorkflow(ApprovalRule rule) {
        return workflow(
                new HumanTask(
                        id("look"),
                        "Look at the gate",
                        "Look at {{ ci.name }}.",
                        new Party.OfGroup(TECHNICIANS),
                        null,
                        List.of("Close the lane", "Cleared on the spot"),
                        List.of(Field.of("seen", "What you saw", FieldType.TEXT)),
                        Span.parse("30 min"),
                        new LadderKey("pier"),
                        Map.of("Close the lane", id("approve"), "Cleared on the spot", id("cleared")),
                        null),
                new Approval(
                        id("approve"),
                        "Close the lane?",
                        "Close {{ ci.id }}?",
                        "close the lane",
                        List.of(new Party.OfGroup(MANAGERS)),
                        rule,
                        true,
                        List.of(id("look")),
                        List.of("ticket.ci", "ticket.title"),
                        true,
                        Span.parse("1 h"),
                        null,
                        Map.of("approved", id("close"), "declined", id("cleared")),
                        null),
                new Automation(
                        id("close"),
                        "Close the lane",
                        new ActionKey("close-lane"),
                        Map.of("gate", "ticket.ci", "why", "ticket.title"),
                        null,
                        null,
                        Map.of("ok", id("note")),
                        null),
                new Update(
                        id("note"),
                        "Note the lock",
                        null,
                        List.of(
                                new Assignment("ticket.lockNumber", "steps.close.lock", null),
                                new Assignment("ci.lane", null, "closed, lock {{ steps.close.lock }}"),
                                new Assignment("ticket.group", "'managers'", null)),
                        Map.of("done", id("tell")),
                        null),
                new Notify(
                        id("tell"),
                        "Tell the requester",
                        List.of(new Party.Requester()),
                        "{{ ticket.number }}",
                        "Lane closed.",
                        Map.of("sent", id("closed")),
                        null),
                new Step.End(id("closed"), "Lane closed", "lane closed", null, false),
                new Step.End(id("cleared"), "Cleared", "cleared", "All is well with {{ ci.id }}.", true));
    }

    static WorkflowVersion workflow(Step... steps) {
        return new WorkflowVersion(
                GATE,
                1,
                "Gate lane stuck open",
                null,
                TEO,
                TicketKind.INCIDENT,
                List.of(),
                List.of(),
                new Level(List.of(steps)));
    }

    static StepId id(String text) {
        return new StepId(text);
    }

    Lookups lookups() {
        return new Lookups(values);
    }

    /** Decides a command, loading what is asked for; unknown things do not exist. */
    public Decision decide(Actor by, Command command) {
        String cause = "c" + ++commands;
        for (int i = 0; i < 64; i++) {
            Decision decision = engine.decide(ticket, cause, by, command, new Context(now, upSince, lookups()));
            if (!(decision instanceof Decision.Needs needs)) {
                return decision;
            }
            needs.keys().forEach(k -> values.putIfAbsent(k, look(k)));
        }
        throw new AssertionError("still needs values after many rounds");
    }

    /** Decides and keeps what follows. */
    public Decision handle(Actor by, Command command) {
        Decision decision = decide(by, command);
        switch (decision) {
            case Decision.Accepted a -> keep(a.events(), a.after());
            case Decision.Refused r -> keep(r.events(), r.after());
            case Decision.Needs n -> throw new AssertionError(n);
        }
        return decision;
    }

    private void keep(List<Recorded> events, Case after) {
        record.addAll(events);
        ticket = after;
    }

    public void accepted(Actor by, Command command) {
        Decision decision = handle(by, command);
        if (decision instanceof Decision.Refused r) {
            throw new AssertionError("refused: " + r.refusal());
        }
    }

    Refusal refused(Actor by, Command command) {
        return ((Decision.Refused) handle(by, command)).refusal();
    }

    /** What stands on desks. */
    List<Standing.Item> items() {
        return standing().items;
    }

    /** Which signals are waited for. */
    List<Standing.Wait> waits() {
        return standing().waits;
    }

    private Stands standing() {
        Stands all = new Stands();
        Standing.changes(Case.none(ticket.id()), ticket, all);
        return all;
    }

    private static final class Stands implements Standing.Changes {
        private final List<Standing.Item> items = new ArrayList<>();
        private final List<Standing.Wait> waits = new ArrayList<>();

        @Override
        public void run(Standing.RunLine before, Standing.RunLine after) {}

        @Override
        public void item(Standing.Item before, Standing.Item after) {
            items.add(after);
        }

        @Override
        public void wait(Standing.Wait before, Standing.Wait after) {
            waits.add(after);
        }

        @Override
        public void call(Standing.Call before, Standing.Call after) {}
    }

    public void raise() {
        accepted(
                Actor.of(JONAS),
                new Command.RaiseTicket(
                        TicketKind.INCIDENT,
                        Map.of(
                                "title",
                                "Gate 1 stuck open",
                                "ci",
                                "ALD-G1",
                                "impact",
                                2L,
                                "urgency",
                                2L,
                                "requester",
                                "jonas"),
                        null));
    }

    void pass(Duration time) {
        now = now.plus(time);
        accepted(Actor.CLOCK, new Command.Tick());
    }

    Visit open() {
        return ticket.open()
                .values()
                .iterator()
                .next()
                .open()
                .values()
                .iterator()
                .next();
    }

    Votes votes() {
        return (Votes) open().waiting();
    }

    Vote vote(boolean yes, String comment) {
        return new Vote(open().id(), votes().round(), votes().digest(), yes, comment);
    }

    public void lookDone(String outcome) {
        accepted(Actor.of(RUNA), new CompleteTask(open().id(), outcome, Map.of(), null));
    }

    void callDone() {
        CallUnderWay call = (CallUnderWay) open().waiting();
        accepted(
                new Actor.OfAction(call.action()),
                new CallResult(
                        open().id(),
                        call.attempt(),
                        new CallOutcome.Done("ok", Map.of("lock", "L-77"), "ref-1", null, "200", 12, 0)));
    }

    void call(CallOutcome outcome) {
        CallUnderWay call = (CallUnderWay) open().waiting();
        accepted(new Actor.OfAction(call.action()), new CallResult(open().id(), call.attempt(), outcome));
    }

    List<String> kinds() {
        return record.stream().map(r -> r.event().getClass().getSimpleName()).toList();
    }
}
