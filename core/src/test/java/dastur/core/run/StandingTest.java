package dastur.core.run;

import static org.assertj.core.api.Assertions.assertThat;

import dastur.core.notation.Names;
import dastur.core.notation.Notation;
import dastur.core.people.Actor;
import dastur.core.step.approval.ApprovalCommands.AnswerBack;
import dastur.core.step.approval.ApprovalCommands.AskBack;
import dastur.core.step.calling.CallUnderWay;
import dastur.core.step.calling.CallingCommands.CallOutcome;
import dastur.core.step.calling.CallingCommands.CallResult;
import dastur.core.step.task.TaskCommands.ClaimTask;
import dastur.core.ticket.Service;
import dastur.core.time.Span;
import dastur.core.workflow.ApprovalRule;
import dastur.core.workflow.Trigger;
import dastur.core.workflow.TriggerId;
import dastur.core.workflow.WorkflowVersion;
import java.time.Duration;
import java.time.Instant;
import java.util.List;
import java.util.Map;
import java.util.TreeMap;
import org.jspecify.annotations.Nullable;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.Test;

/** What stands beside a record, for lists, desks and workers (K5): the same whether told bit by bit or all at once. */
class StandingTest {
    private static final Actor RUNA = Actor.of(World.RUNA);
    private static final Actor TEO = Actor.of(World.TEO);

    private final World world = new World();

    /** What stands there, by its id. */
    private static final class Rows implements Standing.Changes {
        private final Map<String, Standing.RunLine> runs = new TreeMap<>();
        private final Map<String, Standing.Item> items = new TreeMap<>();
        private final Map<String, Standing.Wait> waits = new TreeMap<>();
        private final Map<String, Standing.Call> calls = new TreeMap<>();

        private static <T> void put(
                Map<String, T> all, @Nullable String was, @Nullable T before, @Nullable String is, @Nullable T after) {
            if (was != null) {
                assertThat(all.remove(was)).isEqualTo(before);
            }
            if (is != null && after != null) {
                assertThat(all.put(is, after)).isNull();
            }
        }

        @Override
        public void run(Standing.@Nullable RunLine b, Standing.@Nullable RunLine a) {
            put(runs, b == null ? null : b.id().value(), b, a == null ? null : a.id().value(), a);
        }

        @Override
        public void item(Standing.@Nullable Item b, Standing.@Nullable Item a) {
            put(items, b == null ? null : b.id(), b, a == null ? null : a.id(), a);
        }

        @Override
        public void wait(Standing.@Nullable Wait b, Standing.@Nullable Wait a) {
            put(
                    waits,
                    b == null ? null : b.visit().value(),
                    b,
                    a == null ? null : a.visit().value(),
                    a);
        }

        @Override
        public void call(Standing.@Nullable Call b, Standing.@Nullable Call a) {
            put(calls, b == null ? null : b.id(), b, a == null ? null : a.id(), a);
        }

        private List<Map<String, ?>> all() {
            return List.of(runs, items, waits, calls);
        }
    }

    private static Rows of(Case c) {
        Rows rows = new Rows();
        Standing.changes(Case.none(World.TICKET), c, rows);
        return rows;
    }

    private Rows now() {
        return of(world.ticket);
    }

    /** The law, for each entry of each of these stories. */
    @AfterEach
    void bitByBitItComesToTheSame() {
        Case c = Case.none(World.TICKET);
        Rows rows = new Rows();
        for (Recorded r : world.record) {
            Case next = Engine.apply(c, r);
            Standing.changes(c, next, rows);
            c = next;
            assertThat(rows.all()).as("after " + r.event()).isEqualTo(of(c).all());
        }
    }

    private void gate(ApprovalRule rule) {
        world.publish(
                World.gateWorkflow(rule),
                new Trigger(new TriggerId("t"), true, new Trigger.Created(null), List.of(), null));
        world.raise();
    }

    private void publish(String steps, Trigger.Mode mode) {
        Notation.Read read = Notation.read("workflow w \"W\" for incident\n  owner teo\n" + steps, 1, Names.NONE);
        assertThat(read.problems()).isEmpty();
        WorkflowVersion version = read.version();
        world.publish(version, new Trigger(new TriggerId("t"), true, new Trigger.Created(null), List.of(), null, mode));
    }

    private Standing.Item item(String kind) {
        return now().items.values().stream()
                .filter(i -> i.kind().equals(kind))
                .findFirst()
                .orElseThrow();
    }

    @Test
    void aTaskStandsBeforeThoseWhoAreAskedAndSaysWhoHasIt() {
        gate(new ApprovalRule.AnyOne());
        Standing.Item task = item("task");
        assertThat(task.who()).containsExactly("g:technicians");
        assertThat(task.claimedBy()).isNull();
        assertThat(task.id()).isEqualTo(world.open().id().value());
        assertThat(task.openedAt()).isEqualTo(world.now);
        world.accepted(RUNA, new ClaimTask(world.open().id()));
        assertThat(item("task").claimedBy()).isEqualTo(World.RUNA);
    }

    @Test
    void aRunSaysHowItIs() {
        gate(new ApprovalRule.AnyOne());
        Standing.RunLine line = now().runs.values().iterator().next();
        assertThat(line.status()).isEqualTo("under way");
        assertThat(line.trigger()).isEqualTo(new TriggerId("t"));
        assertThat(line.stalledSince()).isNull();
        world.accepted(TEO, new Command.Intervene(line.id(), null, Intervention.HOLD, null, "Wait for it"));
        assertThat(now().runs.values()).extracting(Standing.RunLine::status).containsExactly("held");
    }

    @Test
    void whoAsksBackIsWaitedForByThoseWhoHaveTheTicket() {
        gate(new ApprovalRule.AnyOne());
        world.accepted(RUNA, new Command.EditTicket(Map.of("group", "technicians", "assignee", "sem"), null));
        world.lookDone("Close the lane");
        VisitId visit = world.open().id();
        world.accepted(TEO, new AskBack(visit, "Which lane?"));
        Standing.Item question = item("question");
        assertThat(question.id()).isEqualTo(visit + "?question");
        assertThat(question.who()).containsExactly("g:technicians", "p:jonas", "p:sem");
        // It is put to whom the ticket's fields name now.
        world.accepted(RUNA, new Command.EditTicket(Map.of("assignee", "runa"), null));
        assertThat(item("question").who()).containsExactly("g:technicians", "p:jonas", "p:runa");
        world.accepted(RUNA, new AnswerBack(visit, "The first."));
        assertThat(now().items.values()).extracting(Standing.Item::kind).containsExactly("approval");
    }

    @Test
    void aCallStandsThereUntilItsAnswerCame() {
        gate(new ApprovalRule.AnyOne());
        world.lookDone("Close the lane");
        world.accepted(TEO, world.vote(true, null));
        CallUnderWay call = (CallUnderWay) world.open().waiting();
        assertThat(now().calls).containsOnlyKeys(world.open().id() + "." + call.attempt());
        world.callDone();
        assertThat(now().calls).isEmpty();
    }

    @Test
    void whatIsStalledIsNotCalledAndSaysSinceWhen() {
        gate(new ApprovalRule.AnyOne());
        world.lookDone("Close the lane");
        world.accepted(TEO, world.vote(true, null));
        CallUnderWay call = (CallUnderWay) world.open().waiting();
        world.accepted(
                new Actor.OfAction(call.action()),
                new CallResult(world.open().id(), call.attempt(), new CallOutcome.Fault("It is broken.", false)));
        Instant since = world.now;
        Standing.RunLine line = now().runs.values().iterator().next();
        assertThat(line.status()).isEqualTo("stalled");
        assertThat(line.stalledSince()).isEqualTo(since);
        assertThat(now().calls).isEmpty();
    }

    @Test
    void aSignalIsWaitedForByNameAndKey() {
        publish("w: wait for signal paid with key ticket.number within 1 h\nend: done \"x\"\n", Trigger.Mode.STARTS);
        world.raise();
        Standing.Wait wait = now().waits.values().iterator().next();
        assertThat(wait.signal()).isEqualTo("paid");
        assertThat(wait.key()).isEqualTo(World.TICKET.value());
        assertThat(wait.since()).isEqualTo(world.now);
    }

    @Test
    void whatATriggerProposesStandsBeforeThoseWhoAreAskedOrOnTheTicketOnly() {
        publish("end: done \"x\"\n", Trigger.Mode.ASKS);
        world.raise();
        Standing.Item start = item("start");
        assertThat(start.id()).isEqualTo(World.TICKET + "/t");
        assertThat(start.name()).isEqualTo("Start “W”?");
        assertThat(start.who()).isNotEmpty();
        world.accepted(RUNA, new Command.AnswerOffer(new TriggerId("t"), false, Map.of(), null));
        assertThat(now().items).isEmpty();
    }

    @Test
    void whatIsOnlyOfferedStandsBeforeNobody() {
        publish("end: done \"x\"\n", Trigger.Mode.OFFERS);
        world.raise();
        assertThat(world.ticket.offers()).isNotEmpty();
        assertThat(now().items).isEmpty();
    }

    @Test
    void aListSaysTheNextPromiseThatIsNotKept() {
        world.promises(Map.of("P2", new Service.Promise(Span.parse("15 min"), Span.parse("4 h"))));
        world.put(new LookupKey.LiveTriggers(), new Lookups.TriggerList(List.of()));
        Instant raised = world.now;
        world.raise();
        assertThat(listed().target().word()).isEqualTo("respond");
        assertThat(listed().targetDue()).isEqualTo(raised.plus(Duration.ofMinutes(15)));
        assertThat(listed().targetMissed()).isFalse();
        world.pass(Duration.ofMinutes(20));
        assertThat(listed().targetMissed()).isTrue();
        world.accepted(RUNA, new Command.EditTicket(Map.of("assignee", "runa"), null));
        assertThat(listed().target().word()).isEqualTo("restore");
        assertThat(listed().assignee()).isEqualTo("runa");
        assertThat(listed().targetMissed()).isFalse();
        world.accepted(RUNA, new Command.EditTicket(Map.of("state", "restored"), null));
        assertThat(listed().target()).isNull();
        assertThat(listed().ended()).isFalse();
    }

    private Standing.Listed listed() {
        return Standing.Listed.of(world.ticket);
    }
}
