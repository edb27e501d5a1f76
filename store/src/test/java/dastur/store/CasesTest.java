package dastur.store;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assumptions.assumeThat;

import dastur.core.json.Json;
import dastur.core.notation.Names;
import dastur.core.notation.Notation;
import dastur.core.people.Actor;
import dastur.core.people.Group;
import dastur.core.people.GroupId;
import dastur.core.people.Person;
import dastur.core.people.PersonId;
import dastur.core.people.Role;
import dastur.core.record.Entry;
import dastur.core.record.Seal;
import dastur.core.run.Case;
import dastur.core.run.Command;
import dastur.core.run.Context;
import dastur.core.run.Decision;
import dastur.core.run.Engine;
import dastur.core.run.Intervention;
import dastur.core.run.LookupKey;
import dastur.core.run.Lookups;
import dastur.core.run.Refusal;
import dastur.core.run.Run;
import dastur.core.run.VisitId;
import dastur.core.run.World;
import dastur.core.step.approval.ApprovalCommands.Vote;
import dastur.core.step.approval.Votes;
import dastur.core.step.calling.CallingCommands.CallOutcome;
import dastur.core.step.calling.CallingCommands.CallResult;
import dastur.core.step.task.TaskCommands.ClaimTask;
import dastur.core.step.task.TaskCommands.CompleteTask;
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
import dastur.core.workflow.Rung;
import dastur.core.workflow.Trigger;
import dastur.core.workflow.TriggerId;
import dastur.core.workflow.WorkflowKey;
import dastur.core.workflow.WorkflowVersion;
import java.nio.file.Path;
import java.time.Duration;
import java.time.Instant;
import java.util.HashMap;
import java.util.HashSet;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.concurrent.atomic.AtomicReference;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;

/** Cases on a real H2 file database. */
class CasesTest {
    private static final PersonId ADMINISTRATOR = new PersonId("halvard");

    private static final Instant NOW = Instant.parse("2026-03-02T10:00:00Z");

    @TempDir
    Path folder;

    private Database database;
    private Cases cases;
    private Outbox outbox;
    private final Engine engine = new Engine();
    private Instant now = NOW;
    private Instant upSince = NOW;
    private int commands;

    @BeforeEach
    void open() {
        database = Stores.in(folder);
        cases = new Cases(database, () -> new byte[32]);
        outbox = new Outbox(database);
        Organisation organisation = new Organisation(database);
        for (PersonId id : List.of(World.RUNA, World.SEM, World.TEO, World.PRIYA, World.JONAS)) {
            organisation.putPerson(
                    new Person(id, "Name of " + id, id + "@kestrel.example", Set.of(Role.AGENT), true), null);
        }
        organisation.putPerson(new Person(ADMINISTRATOR, "Halvard", "", Set.of(Role.ADMINISTRATOR), true), null);
        organisation.putGroup(new Group(World.TECHNICIANS, "Pier technicians", List.of(World.RUNA, World.SEM)));
        organisation.putGroup(new Group(World.MANAGERS, "Duty managers", List.of(World.TEO, World.PRIYA)));
        organisation.putService(
                new Service(new ServiceId("gates"), "Ticket gates", true, new GroupId("technicians"), null));
        organisation.putCi(new ConfigurationItem(
                new CiId("ALD-G1"),
                "Gate 1",
                "gate",
                new ServiceId("gates"),
                "ALD",
                null,
                World.TECHNICIANS,
                "in use",
                Map.of()));
        organisation.putFields(new FieldCatalogue(
                List.of(Field.of("lockNumber", "Lock", FieldType.TEXT)),
                List.of(Field.of("lane", "Lane", FieldType.TEXT))));
        Workflows workflows = new Workflows(database);
        workflows.putLadder(
                new Ladder(new LadderKey("pier"), "Pier", List.of(new Rung(Span.parse("10 min"), new Rung.Remind()))));
        workflows.putAction(new Action(
                new ActionKey("close-lane"),
                "Close",
                "Closes.",
                "lanes",
                new Action.HttpCall(
                        "POST", "/lanes/{{ input.gate }}", Map.of("Idempotency-Key", "{{ call.key }}"), null, null),
                List.of(Field.of("gate", "Gate", FieldType.TEXT).asRequired(), Field.of("why", "Why", FieldType.TEXT)),
                List.of(new Action.Output(Field.of("lock", "Lock", FieldType.TEXT), "/lock")),
                List.of(),
                Action.Repeat.KEYED,
                true,
                Span.parse("5 s"),
                2,
                Span.parse("1 s")));
        WorkflowVersion gate = World.gateWorkflow(new ApprovalRule.AnyOne());
        workflows.create(gate, World.TEO, NOW);
        workflows.publish(World.GATE, 1, World.TEO, NOW).orElseThrow();
        workflows.setTriggers(
                new Journal.By(World.TEO, NOW),
                World.GATE,
                List.of(new Trigger(new TriggerId("t"), true, new Trigger.Created(null), List.of(), null)));
    }

    @AfterEach
    void close() {
        database.close();
    }

    private Records records() {
        return new Records(database, new RecordLog(database, Signers.fresh()));
    }

    private int tickets = 1_000;

    private Decision handle(TicketId ticket, Actor by, Command command) {
        String id = "command-" + ++commands;
        return cases.onTicket(ticket, work -> {
            Map<LookupKey, Optional<?>> values = new HashMap<>(work.remembered());
            Decision decision = new Decision.Needs(Set.of());
            while (decision instanceof Decision.Needs needs) {
                values.putAll(work.look(needs.keys()));
                decision =
                        engine.decide(work.current(), id, by, command, new Context(now, upSince, new Lookups(values)));
            }
            if (decision instanceof Decision.Accepted a) {
                work.save(a.events(), a.after(), upSince, id);
            }
            return decision;
        });
    }

    private TicketId raised() {
        TicketId ticket = new TicketId("I-" + ++tickets);
        handle(
                ticket,
                Actor.of(World.JONAS),
                new Command.RaiseTicket(
                        TicketKind.INCIDENT, Map.of("title", "Gate open", "ci", "ALD-G1", "requester", "jonas"), null));
        return ticket;
    }

    private void toTheCall(TicketId ticket) {
        handle(
                ticket,
                Actor.of(World.RUNA),
                new CompleteTask(new VisitId(ticket + ".1.1"), "Close the lane", Map.of("seen", "bent"), null));
        Case c = new Tickets(database).find(ticket).orElseThrow();
        var votes = (Votes) c.visit(new VisitId(ticket + ".1.2")).orElseThrow().waiting();
        handle(ticket, Actor.of(World.TEO), new Vote(new VisitId(ticket + ".1.2"), 1, votes.digest(), true, null));
    }

    private void answerTheCall(TicketId ticket) {
        handle(
                ticket,
                new Actor.OfAction(new ActionKey("close-lane")),
                new CallResult(
                        new VisitId(ticket + ".1.3"),
                        1,
                        new CallOutcome.Done("ok", Map.of("lock", "L-1"), null, null, "", 3, 0)));
    }

    @Test
    void aStoredCaseIsTheFoldOfItsStoredRecordAlsoAfterReopening() {
        TicketId ticket = raised();
        toTheCall(ticket);
        answerTheCall(ticket);
        database.close();
        database = Stores.in(folder);
        Case stored = new Tickets(database).find(ticket).orElseThrow();
        List<Entry> entries = records().of(ticket);
        assertThat(Seal.check(entries)).isEmpty();
        assertThat(Json.write(folded(ticket))).isEqualTo(Json.write(stored));
        assertThat(new Organisation(database)
                        .ci(new CiId("ALD-G1"))
                        .orElseThrow()
                        .attributes())
                .containsEntry("lane", "closed, lock L-1");
        assertThat(new Organisation(database).changesOf(new CiId("ALD-G1"))).hasSize(1);
    }

    /** Two tickets plan a CI of one name in the same moment: it is made once, and the other says that it is there. */
    @Test
    void aCiIsMadeOnceHoweverManyPlanIt() {
        Workflows workflows = new Workflows(database);
        workflows.create(Notation.read("""
                        workflow plan "Plan it" for incident
                          owner teo

                        make: update "Plan it"
                          set ci.id to "crew-7"
                          set ci.kind to "machine"
                          set ci.lane to "none"

                        done: done "made" as "Made"
                        """, 1, Names.NONE).version(), World.TEO, NOW);
        WorkflowKey plan = new WorkflowKey("plan");
        workflows.publish(plan, 1, World.TEO, NOW).orElseThrow();
        workflows.setTriggers(
                new Journal.By(World.TEO, NOW),
                plan,
                List.of(new Trigger(new TriggerId("p"), true, new Trigger.Created(null), List.of(), null)));
        workflows.setTriggers(new Journal.By(World.TEO, NOW), World.GATE, List.of());
        TicketId first = new TicketId("I-" + ++tickets);
        AtomicReference<TicketId> other = new AtomicReference<>();
        String id = "command-" + ++commands;
        int rounds = cases.onTicket(first, work -> {
            Map<LookupKey, Optional<?>> values = new HashMap<>(work.remembered());
            Decision decision = new Decision.Needs(Set.of());
            while (decision instanceof Decision.Needs needs) {
                values.putAll(work.look(needs.keys()));
                decision = engine.decide(
                        work.current(),
                        id,
                        Actor.of(World.JONAS),
                        new Command.RaiseTicket(
                                TicketKind.INCIDENT,
                                Map.of("title", "Gate open", "ci", "ALD-G1", "requester", "jonas"),
                                null),
                        new Context(now, upSince, new Lookups(values)));
            }
            if (other.get() == null) {
                other.set(raised());
            }
            Decision.Accepted accepted = (Decision.Accepted) decision;
            work.save(accepted.events(), accepted.after(), upSince, id);
            return accepted.events().size();
        });

        assertThat(rounds).isPositive();
        Tickets all = new Tickets(database);
        assertThat(all.find(other.get()).orElseThrow().text("ci")).contains("crew-7");
        assertThat(all.find(first).orElseThrow().text("ci")).contains("ALD-G1");
        assertThat(all.find(first).orElseThrow().open().values())
                .singleElement()
                .satisfies(run -> assertThat(
                                run.open().values().iterator().next().stall().code())
                        .isEqualTo("CI exists"));
        assertThat(new Organisation(database).ci(new CiId("crew-7"))).hasValueSatisfying(ci -> {
            assertThat(ci.kind()).isEqualTo("machine");
            assertThat(ci.life()).isEqualTo("planned");
            assertThat(ci.service()).hasToString("gates");
            assertThat(ci.attributes()).containsEntry("lane", "none");
        });
        new RecordLog(database, Signers.fresh()).catchUp();
        assertThat(new CiAudit(database).run()).isEmpty();
        database.run(s -> s.createMutationQuery("update CiRow set kind = 'ship' where id = 'crew-7'")
                .executeUpdate());
        assertThat(new CiAudit(database).run()).singleElement().satisfies(f -> assertThat(f.toString())
                .contains("CI crew-7", "its 'kind' is not what entry"));
        database.run(s -> s.createMutationQuery("update CiRow set kind = 'machine' where id = 'crew-7'")
                .executeUpdate());

        // Somebody sets by hand what a ticket has set, and it is not in the log yet.
        ConfigurationItem now =
                new Organisation(database).ci(new CiId("crew-7")).orElseThrow();
        new SetUp(database).cis(new Journal.By(ADMINISTRATOR, NOW), List.of(now.with(Map.of("lane", "closed"))), null);
        assertThat(new CiAudit(database).run()).isEmpty();
    }

    @Test
    void aSnapshotIsWrittenNowAndThenAndTheCaseIsWholeWhenItIsReadAnew() {
        TicketId ticket = raised();
        Set<Long> snapshots = new HashSet<>();
        for (int i = 1; i <= 40; i++) {
            handle(ticket, Actor.of(World.RUNA), new Command.EditTicket(Map.of("title", "Gate open, look " + i), null));
            snapshots.add(snapshot(ticket).seq);
        }
        List<Entry> entries = records().of(ticket);
        assertThat(entries).hasSizeGreaterThan(40);
        assertThat(snapshots).hasSizeBetween(2, 1 + entries.size() / StoredCases.ENTRIES_A_SNAPSHOT);
        assertThat(entries.size() - snapshot(ticket).seq).isLessThan(StoredCases.ENTRIES_A_SNAPSHOT);

        database.close();
        database = Stores.in(folder);
        cases = new Cases(database, () -> new byte[32]);
        assertThat(Json.write(new Tickets(database).find(ticket).orElseThrow())).isEqualTo(Json.write(folded(ticket)));
        assertThat(Json.write(cases.onTicket(ticket, Work::current))).isEqualTo(Json.write(folded(ticket)));
    }

    @Test
    void aSnapshotOfAnotherReleaseIsFoldedAnew() {
        TicketId ticket = raised();
        database.run(session -> {
            Rows.SnapshotRow row = session.get(Rows.SnapshotRow.class, ticket.value());
            row.fold = Case.FOLD + 1;
            row.body = "{\"anotherForm\": true}";
            session.update(row);
        });
        database.close();
        database = Stores.in(folder);
        assertThat(Json.write(new Tickets(database).find(ticket).orElseThrow())).isEqualTo(Json.write(folded(ticket)));
    }

    private Rows.SnapshotRow snapshot(TicketId ticket) {
        return database.read(session -> session.get(Rows.SnapshotRow.class, ticket.value()));
    }

    private Case folded(TicketId ticket) {
        return Engine.fold(ticket, records().of(ticket).stream().map(Seal::open).toList());
    }

    @Test
    void deskRowsFollowThePeopleWhoAreAsked() {
        TicketId ticket = raised();
        Tickets tickets = new Tickets(database);
        assertThat(tickets.workFor("runa")).extracting(Tickets.WorkItem::name).containsExactly("Look at the gate");
        assertThat(tickets.workFor("teo")).isEmpty();
        toTheCall(ticket);
        assertThat(tickets.workFor("runa")).isEmpty();
        assertThat(tickets.workFor("teo")).isEmpty();
        assertThat(tickets.workFor("priya")).isEmpty();
    }

    @Test
    void rowsThatARecentReleaseWritesOtherwiseAreMadeAnewOnceAtOpening() {
        TicketId ticket = raised();
        database.run(session -> session.doWork(c -> {
            Jdbc.update(c, "update work_for set who = 'g:of-old' where visit = ?", ticket + ".1.1");
            Jdbc.update(c, "insert into to_rebuild (ticket) values (?)", ticket.value());
            Jdbc.update(c, "insert into to_rebuild (ticket) values (?)", "I-none");
        }));
        assertThat(new Tickets(database).workFor("runa")).isEmpty();
        database.close();
        database = Stores.in(folder);
        assertThat(new Tickets(database).workFor("runa")).hasSize(1);
        List<String> left = database.read(session ->
                session.doReturningWork(c -> Jdbc.query(c, "select ticket from to_rebuild", r -> r.getString(1))));
        assertThat(left).doesNotContain(ticket.value());
    }

    @Test
    void whatOneIsAskedOneselfIsNotAmongWhatOthersHaveToDo() {
        TicketId ofRuna = raised();
        handle(ofRuna, Actor.of(World.TEO), new Command.EditTicket(Map.of("requester", "runa"), null));
        raised();
        Tickets tickets = new Tickets(database);
        assertThat(tickets.workFor("runa")).hasSize(2);
        assertThat(tickets.waitingFor("runa")).isEmpty();
        assertThat(tickets.waitingFor("jonas"))
                .extracting(Tickets.WorkItem::name)
                .containsExactly("Look at the gate");
    }

    @Test
    void aRunThatCannotGoOnIsOnTheDeskOfItsOwnerUntilItGoesOn() {
        TicketId ticket = raised();
        Tickets tickets = new Tickets(database);
        Run run = tickets.find(ticket).orElseThrow().open().values().iterator().next();
        Organisation organisation = new Organisation(database);
        organisation.putGroup(new Group(World.MANAGERS, "Duty managers", List.of()));
        handle(
                ticket,
                Actor.of(World.RUNA),
                new CompleteTask(new VisitId(ticket + ".1.1"), "Close the lane", Map.of("seen", "bent"), null));
        assertThat(tickets.stalledOf("teo"))
                .extracting(Tickets.RunRow::id)
                .containsExactly(run.id().value());
        assertThat(tickets.stalledOf("runa")).isEmpty();
        organisation.putGroup(new Group(World.MANAGERS, "Duty managers", List.of(World.TEO, World.PRIYA)));
        handle(
                ticket,
                Actor.of(World.TEO),
                new Command.Intervene(run.id(), new VisitId(ticket + ".1.2"), Intervention.RETRY, null, "Teo is back"));
        assertThat(tickets.stalledOf("teo")).isEmpty();
        assertThat(tickets.workFor("priya")).hasSize(1);
    }

    /**
     * A commit writes, for each tree that was touched, all pages from the changed leaf to the root; so their number says what a
     * change costs (K6). The aim is nine. An update of a ticket's row touches all its indexes, also those of which nothing is
     * different; what changes with every change would have to stand in a table of its own. Until then it must not become more.
     */
    @Test
    void aUsualChangeTouchesNoMoreTreesThanItDid() {
        assumeThat(Stores.onServer()).as("trees are of the built-in database").isFalse();
        TicketId ticket = raised();
        VisitId task = new VisitId(ticket + ".1.1");
        int claim = trees(() -> handle(ticket, Actor.of(World.RUNA), new ClaimTask(task)));
        int note = trees(() -> handle(ticket, Actor.of(World.RUNA), new Command.AddNote("On my way", false)));
        int done = trees(() -> toTheCall(ticket));
        System.out.printf("trees touched: claim %d, note %d, task done and decided %d%n", claim, note, done);
        assertThat(claim).isLessThanOrEqualTo(9);
        assertThat(note).isLessThanOrEqualTo(6);
        assertThat(done).isLessThanOrEqualTo(20);
    }

    private int trees(Runnable change) {
        Map<String, String> before = database.file().roots();
        change.run();
        Map<String, String> after = database.file().roots();
        return (int) after.entrySet().stream()
                .filter(root -> !root.getValue().equals(before.get(root.getKey())))
                .count();
    }

    @Test
    void aCommandIsAnsweredFromItsLastEntryWhenItComesAgain() {
        TicketId ticket = raised();
        Optional<Long> known = cases.onTicket(ticket, work -> work.answered("command-1"));
        Optional<Long> unknown = cases.onTicket(ticket, work -> work.answered("command-9"));
        assertThat(known).hasValue((long) records().of(ticket).size());
        assertThat(unknown).isEmpty();
    }

    @Test
    void anOutgoingCallIsTakenOnceAndAgainOnlyWhenItsLeaseRanOut() {
        TicketId ticket = raised();
        toTheCall(ticket);
        List<Outbox.Taken> first = outbox.take("call", 10, now, Duration.ofMinutes(1), "w1");
        assertThat(first).hasSize(1);
        assertThat(first.getFirst().call().key()).isEqualTo(ticket + ".1.3.1");
        assertThat(first.getFirst().tries()).isEqualTo(1);
        assertThat(outbox.take("call", 10, now, Duration.ofMinutes(1), "w2")).isEmpty();
        List<String> ids = List.of(first.getFirst().id());
        assertThat(outbox.extend("w1", ids, Duration.ofMinutes(-1))).isEmpty();
        List<Outbox.Taken> second = outbox.take("call", 10, now, Duration.ofMinutes(1), "w2");
        assertThat(second.getFirst().tries()).isEqualTo(2);
        assertThat(second.getFirst().call().key())
                .isEqualTo(first.getFirst().call().key());
        assertThat(outbox.extend("w1", ids, Duration.ofMinutes(1)))
                .as("the first worker has lost it")
                .isEqualTo(Set.copyOf(ids));
        answerTheCall(ticket);
        assertThat(outbox.take("call", 10, now, Duration.ofMinutes(-1), "w3"))
                .as("its result is in")
                .isEmpty();
        assertThat(outbox.take("mail", 10, now, Duration.ofMinutes(1), "w3"))
                .extracting(t -> t.purpose() + " " + t.mail().person())
                .containsExactlyInAnyOrder("decision " + World.PRIYA, "decision " + World.TEO, "notice " + World.JONAS);
    }

    @Test
    void alarmsRingWhenDueAndAreLeased() {
        raised();
        assertThat(outbox.dueAlarms(now.plusSeconds(599), 10, Duration.ofMinutes(1)))
                .isEmpty();
        assertThat(outbox.dueAlarms(now.plusSeconds(600), 10, Duration.ofMinutes(1)))
                .hasSize(1);
        assertThat(outbox.dueAlarms(now.plusSeconds(600), 10, Duration.ofMinutes(1)))
                .isEmpty();
    }

    /** D6: what was missed while the application was down waits five minutes more, and the row knows until when. */
    @Test
    void anAlarmThatWaitsOutItsGraceIsNotRungMeanwhile() {
        TicketId ticket = raised();
        handle(
                ticket,
                Actor.of(World.RUNA),
                new CompleteTask(new VisitId(ticket + ".1.1"), "Close the lane", Map.of("seen", "bent"), null));
        now = NOW.plus(Duration.ofDays(1));
        upSince = now;
        assertThat(outbox.overdueAlarms(now)).isEqualTo(1);

        Decision nothing = handle(ticket, Actor.CLOCK, new Command.Tick());

        assertThat(nothing).isInstanceOfSatisfying(Decision.Accepted.class, a -> assertThat(a.events())
                .isEmpty());
        assertThat(outbox.overdueAlarms(now.plusSeconds(299))).isZero();
        assertThat(outbox.overdueAlarms(now.plusSeconds(300))).isEqualTo(1);
    }

    @Test
    void changedPeopleCountAtOnce() {
        TicketId ticket = raised();
        new Organisation(database).putGroup(new Group(World.TECHNICIANS, "Pier technicians", List.of(World.SEM)));
        assertThat(handle(ticket, Actor.of(World.RUNA), new ClaimTask(new VisitId(ticket + ".1.1"))))
                .isInstanceOf(Decision.Refused.class);
        assertThat(handle(ticket, Actor.of(World.SEM), new ClaimTask(new VisitId(ticket + ".1.1"))))
                .isInstanceOf(Decision.Accepted.class);
    }

    @Test
    void listsPageWithoutGapsOrDoubles() {
        for (int i = 0; i < 60; i++) {
            now = now.plusSeconds(i % 3);
            raised();
        }
        Tickets tickets = new Tickets(database);
        for (Boolean open : new Boolean[] {true, null}) {
            Page<Tickets.Row> first = tickets.list(filter(open, null));
            Page<Tickets.Row> second = tickets.list(
                    filter(open, new TicketId(first.items().getLast().number())));
            assertThat(first.more()).isTrue();
            assertThat(second.more()).isFalse();
            Set<String> all = new java.util.HashSet<>();
            first.items().forEach(t -> all.add(t.number()));
            second.items().forEach(t -> all.add(t.number()));
            assertThat(all)
                    .hasSize(60)
                    .hasSize(first.items().size() + second.items().size());
        }
    }

    private static TicketFilter filter(Boolean open, TicketId after) {
        return TicketFilter.all().open(open).after(after).build();
    }

    @Test
    void redactedContentIsGoneAndTheSealStaysWhole() {
        TicketId ticket = new TicketId("R-" + ++tickets);
        handle(
                ticket,
                Actor.of(World.RUNA),
                new Command.RaiseTicket(
                        TicketKind.REQUEST,
                        Map.of("title", "A drawing", "description", "my passport is X123", "requester", "runa"),
                        null));
        handle(ticket, Actor.of(World.RUNA), new Command.EditTicket(Map.of("title", "Another drawing"), null));
        stop(ticket);

        handle(ticket, Actor.of(ADMINISTRATOR), new Command.Redact(1, "a passport number was typed"));

        List<Entry> entries = records().of(ticket);
        assertThat(entries.getFirst().content()).isNull();
        assertThat(entries.getFirst().salt()).isNull();
        assertThat(Seal.check(entries)).isEmpty();
        Case stored = new Tickets(database).find(ticket).orElseThrow();
        assertThat(stored.fields()).doesNotContainKey("description").containsEntry("title", "Another drawing");
        assertThat(stored).isEqualTo(folded(ticket));
        assertThat(snapshot(ticket).body).contains("Another drawing").doesNotContain("X123");
    }

    @Test
    void anEntryThatAnOpenRunMayUseIsNotRedacted() {
        TicketId ticket = new TicketId("I-" + ++tickets);
        handle(
                ticket,
                Actor.of(World.RUNA),
                new Command.RaiseTicket(
                        TicketKind.INCIDENT, Map.of("title", "Stuck", "ci", "ALD-G1", "requester", "runa"), null));

        Decision decision = handle(ticket, Actor.of(ADMINISTRATOR), new Command.Redact(1, "why not"));

        assertThat(((Decision.Refused) decision).refusal().code()).isEqualTo(Refusal.Code.INVALID);
        assertThat(records().of(ticket).getFirst().content()).isNotNull();
    }

    private void stop(TicketId ticket) {
        new Tickets(database)
                .find(ticket)
                .orElseThrow()
                .open()
                .keySet()
                .forEach(run -> handle(
                        ticket,
                        Actor.of(World.TEO),
                        new Command.Intervene(run, null, dastur.core.run.Intervention.STOP_RUN, null, "not needed")));
    }
}
