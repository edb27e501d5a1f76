package dastur.bench;

import dastur.bench.Bench.Worker;
import dastur.core.people.Actor;
import dastur.core.people.Group;
import dastur.core.people.GroupId;
import dastur.core.people.Party;
import dastur.core.people.Person;
import dastur.core.people.PersonId;
import dastur.core.people.Role;
import dastur.core.record.Checkpoint;
import dastur.core.record.Signer;
import dastur.core.run.Command;
import dastur.core.run.Engine;
import dastur.core.run.VisitId;
import dastur.core.step.calling.Automation;
import dastur.core.step.calling.CallingCommands.CallOutcome;
import dastur.core.step.calling.CallingCommands.CallResult;
import dastur.core.step.task.HumanTask;
import dastur.core.step.task.TaskCommands.CompleteTask;
import dastur.core.ticket.Field;
import dastur.core.ticket.FieldType;
import dastur.core.ticket.TicketId;
import dastur.core.ticket.TicketKind;
import dastur.core.time.Span;
import dastur.core.workflow.Action;
import dastur.core.workflow.ActionKey;
import dastur.core.workflow.Connection;
import dastur.core.workflow.Level;
import dastur.core.workflow.Step;
import dastur.core.workflow.StepId;
import dastur.core.workflow.Trigger;
import dastur.core.workflow.TriggerId;
import dastur.core.workflow.WorkflowKey;
import dastur.core.workflow.WorkflowVersion;
import dastur.server.auth.Secrets;
import dastur.server.work.CommandService;
import dastur.store.Cases;
import dastur.store.Database;
import dastur.store.Journal;
import dastur.store.Organisation;
import dastur.store.RecordLog;
import dastur.store.Workflows;
import java.security.KeyPair;
import java.security.KeyPairGenerator;
import java.security.NoSuchAlgorithmException;
import java.time.Instant;
import java.time.InstantSource;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.UUID;

/**
 * The engine's full path: a person completes a task, a machine's result comes back, again and again on one ticket per
 * worker. Each is one command through {@link CommandService}, one durable transaction. One step is one command.
 */
final class Steps {
    private static final int VISITS_A_RUN = 900;
    private static final PersonId PERSON = new PersonId("bench");
    private static final ActionKey ACTION = new ActionKey("bench.call");

    private final CommandService commands;

    Steps(Database database) {
        Organisation organisation = new Organisation(database);
        GroupId group = new GroupId("bench");
        organisation.putPerson(new Person(PERSON, "Bench", "bench@kestrel.example", Set.of(Role.AGENT), true), null);
        organisation.putGroup(new Group(group, "Bench", List.of(PERSON)));
        Workflows workflows = new Workflows(database);
        workflows.putConnection(new Connection("bench", "Bench", "http://127.0.0.1:9", List.of(), null));
        workflows.putAction(new Action(
                ACTION,
                "Call",
                "Calls.",
                "bench",
                new Action.HttpCall("POST", "/x", Map.of("Idempotency-Key", "{{ call.key }}"), "{}", null),
                List.of(),
                List.of(new Action.Output(Field.of("answer", "Answer", FieldType.TEXT), "/answer")),
                List.of(),
                Action.Repeat.KEYED,
                true,
                Span.parse("30 s"),
                3,
                Span.parse("5 s")));
        StepId task = new StepId("task");
        StepId call = new StepId("call");
        WorkflowKey key = new WorkflowKey("bench");
        workflows.create(
                new WorkflowVersion(
                        key,
                        1,
                        "Bench",
                        null,
                        PERSON,
                        null,
                        List.of(),
                        List.of(),
                        new Level(List.of(
                                new HumanTask(
                                        task,
                                        "Look",
                                        "Look at {{ ticket.title }}.",
                                        new Party.OfGroup(group),
                                        null,
                                        List.of("Go on", "Stop"),
                                        null,
                                        Span.parse("30 min"),
                                        null,
                                        Map.of("Go on", call, "Stop", new StepId("end")),
                                        null),
                                new Automation(call, "Call", ACTION, Map.of(), null, null, Map.of("ok", task), null),
                                new Step.End(new StepId("end"), "End", "end", null, false)))),
                PERSON,
                Instant.now());
        workflows.publish(key, 1, PERSON, Instant.now()).orElseThrow();
        workflows.setTriggers(
                new Journal.By(PERSON, Instant.now()),
                key,
                List.of(new Trigger(new TriggerId("bench"), true, new Trigger.Created(null), List.of(), null)));
        commands = new CommandService(
                new Cases(database, Secrets::randomBytes),
                new Engine(),
                InstantSource.system(),
                Instant.now(),
                (before, events, after) -> {});
        logs(database);
    }

    /** As in the application: what was written is entered into the log and signed each second. */
    private static void logs(Database database) {
        RecordLog log = new RecordLog(database, new Signer(key(), new Signer.Keeper() {
            private volatile Optional<Checkpoint.Reach> last = Optional.empty();

            @Override
            public Optional<Checkpoint.Reach> last() {
                return last;
            }

            @Override
            public void keep(Checkpoint.Reach reach) {
                last = Optional.of(reach);
            }
        }));
        Thread.ofVirtual().start(() -> {
            try {
                while (true) {
                    log.catchUp();
                    log.sign(Instant.now());
                    Thread.sleep(1_000);
                }
            } catch (InterruptedException | RuntimeException e) {
                // The database was closed: this measurement is over.
            }
        });
    }

    private static KeyPair key() {
        try {
            return KeyPairGenerator.getInstance("Ed25519").generateKeyPair();
        } catch (NoSuchAlgorithmException e) {
            throw new IllegalStateException(e);
        }
    }

    Worker worker() {
        return new OnTicket();
    }

    private final class OnTicket implements Worker {
        private TicketId ticket = raise();
        private int visit = 1;

        @Override
        public void step() {
            if (visit > VISITS_A_RUN) {
                ticket = raise();
                visit = 1;
            }
            VisitId id = new VisitId(ticket + ".1." + visit);
            if (visit % 2 == 1) {
                done(commands.handle(
                        ticket,
                        UUID.randomUUID().toString(),
                        Actor.of(PERSON),
                        new CompleteTask(id, "Go on", Map.of(), null)));
            } else {
                done(commands.handleRepeatable(
                        ticket,
                        "call." + id,
                        new Actor.OfAction(ACTION),
                        new CallResult(
                                id,
                                1,
                                new CallOutcome.Done(
                                        "ok",
                                        Map.of("answer", "fine"),
                                        "ref-1",
                                        null,
                                        "POST /x → 200 in 4 ms",
                                        4,
                                        0))));
            }
            visit++;
        }

        private TicketId raise() {
            return new TicketId(done(commands.raise(
                            TicketKind.INCIDENT,
                            UUID.randomUUID().toString(),
                            Actor.of(PERSON),
                            new Command.RaiseTicket(
                                    TicketKind.INCIDENT,
                                    Map.of(
                                            "title",
                                            "A matter to measure",
                                            "requester",
                                            "bench",
                                            "description",
                                            "d".repeat(500)),
                                    null)))
                    .ticket());
        }
    }

    private static CommandService.Outcome.Done done(CommandService.Outcome outcome) {
        return switch (outcome) {
            case CommandService.Outcome.Done d -> d;
            case CommandService.Outcome.Refused r ->
                throw new IllegalStateException(r.refusal().message());
        };
    }
}
