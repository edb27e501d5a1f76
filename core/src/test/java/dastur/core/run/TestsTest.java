package dastur.core.run;

import static org.assertj.core.api.Assertions.assertThat;

import dastur.core.notation.Generated;
import dastur.core.notation.Names;
import dastur.core.notation.Notation;
import dastur.core.people.Actor;
import dastur.core.people.Person;
import dastur.core.people.PersonId;
import dastur.core.people.Role;
import dastur.core.signal.Severity;
import dastur.core.signal.Sort;
import dastur.core.signal.SourceKey;
import dastur.core.signal.Turn;
import dastur.core.step.calling.CallUnderWay;
import dastur.core.step.calling.CallingEvents.CallRequested;
import dastur.core.step.task.OpenTask;
import dastur.core.step.task.TaskCommands.CompleteTask;
import dastur.core.step.task.TaskEvents.HelpAsked;
import dastur.core.step.update.Updated;
import dastur.core.ticket.CiId;
import dastur.core.ticket.TicketKind;
import dastur.core.workflow.ApprovalRule;
import dastur.core.workflow.Trigger;
import dastur.core.workflow.TriggerId;
import dastur.core.workflow.WorkflowVersion;
import java.time.Duration;
import java.util.List;
import java.util.Map;
import java.util.Random;
import java.util.Set;
import net.jqwik.api.ForAll;
import net.jqwik.api.Property;
import net.jqwik.api.constraints.IntRange;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.EnumSource;

/** A ticket that is a test asks and tells one person alone, changes nothing elsewhere unless they say so, and ends by itself (I4). */
class TestsTest extends WrittenWorkflows {
    private static final Actor TEO = Actor.of(World.TEO);
    private static final Assigned TEO_ALONE = new Assigned(List.of(), List.of(World.TEO));
    private static final TriggerId BY_SIGNAL = new TriggerId("by-signal");
    private static final String STEPS = """
            look: ask group technicians "Look" within 1 h: "Done"
            decide: approve "Close it?" by one from each of group technicians, group managers
            close: run close-lane "Close the lane"
              with gate = ci.id
            mark: update "Note it"
              set ci.lane = "closed"
              set ticket.lockNumber = "L-7"
            tell: tell group technicians "Closed"
              say "It is closed."
            end: done "done"
            """;

    private static Command.RaiseTest test(World world, Trigger.Live live) {
        Event.SignalsHeard heard = new Event.SignalsHeard(
                new SourceKey("gates"),
                Turn.BEGINS,
                1,
                world.now,
                world.now,
                "sample",
                Severity.MINOR,
                new CiId("ALD-G1"),
                null,
                "ald-g1/stuck",
                "Gate 1 is stuck",
                null,
                null,
                Map.of());
        return new Command.RaiseTest(new Command.RaiseBySignal(
                TicketKind.INCIDENT,
                Map.of("title", "Gate 1 is stuck", "ci", "ALD-G1", "impact", 1L, "urgency", 1L, "group", "technicians"),
                heard,
                List.of(new Event.Look(BY_SIGNAL, World.GATE, "W", true, null, "a signal came", null)),
                List.of(live),
                true));
    }

    private static Trigger.Live bySignal(World world, WorkflowVersion version, Trigger... more) {
        Trigger[] all = new Trigger[more.length + 1];
        all[0] = new Trigger(
                BY_SIGNAL,
                true,
                new Trigger.SignalComes(null, new SourceKey("gates"), Sort.FAULT, null, null),
                List.of(),
                null);
        System.arraycopy(more, 0, all, 1, more.length);
        world.publish(version, all);
        owns(world, World.TEO);
        return world.lookups().liveTriggers().getFirst();
    }

    private static void owns(World world, PersonId who) {
        world.put(
                new LookupKey.OfPerson(who),
                new Person(who, "Teo Marchetti", "teo@kestrel.example", Set.of(Role.PROCESS_OWNER), true));
    }

    private void begin(String steps, Trigger... more) {
        String text = "workflow gate \"W\" for incident\n  owner priya\n" + steps;
        Notation.Read read = Notation.read(text, 1, Names.NONE);
        assertThat(read.problems()).isEmpty();
        world.accepted(TEO, test(world, bySignal(world, read.version(), more)));
    }

    private void intervene(Visit visit, Intervention kind, String exit) {
        world.accepted(TEO, new Command.Intervene(visit.id().run(), visit.id(), kind, exit, "a test"));
    }

    private void goToTheCall() {
        begin(STEPS);
        world.accepted(TEO, new CompleteTask(open("look").getFirst().id(), "Done", Map.of(), null));
        world.accepted(TEO, world.vote(true, null));
    }

    @Test
    void whoeverTriesItIsEverybodyWhoIsAskedAndTold() {
        begin(STEPS);
        assertThat(world.ticket.test()).isEqualTo(new Case.Test(World.TEO, world.now.plus(Tests.LASTS)));
        assertThat(run().owner()).isEqualTo(World.TEO);
        assertThat(((OpenTask) open("look").getFirst().waiting()).to()).isEqualTo(TEO_ALONE);
        assertThat(all(Event.MessageQueued.class)).allSatisfy(m -> {
            assertThat(m.people()).containsExactly(World.TEO);
            assertThat(m.subject()).startsWith("Test: ");
        });
        assertThat(all(Event.MessageQueued.class)).isNotEmpty();
        assertThat(world.ticket.targets()).isEmpty();
        assertThat(world.ticket.matters()).isEmpty();
    }

    /** Each of two groups would have to say yes: one person stands for both. */
    @Test
    void theyDecideAlone() {
        goToTheCall();
        assertThat(open("decide")).isEmpty();
        assertThat(open("close")).hasSize(1);
    }

    @Test
    void whatChangesSomethingElsewhereIsWithheldAndSaid() {
        goToTheCall();
        Visit close = open("close").getFirst();
        assertThat(close.stall().code()).isEqualTo(Visit.Stall.WITHHELD);
        assertThat(close.stall().why()).contains("Close a lane", "gate ALD-G1");
        assertThat(all(CallRequested.class)).isEmpty();

        intervene(close, Intervention.TAKE_EXIT, "ok");
        Visit mark = open("mark").getFirst();
        assertThat(mark.stall().why()).contains("set ci.lane");
        intervene(mark, Intervention.TAKE_EXIT, "done");
        assertThat(all(Updated.class)).isEmpty();
        assertThat(last(Event.MessageQueued.class).orElseThrow().people()).containsExactly(World.TEO);
        assertThat(last(Event.RunEnded.class).orElseThrow().result()).isEqualTo("done");
    }

    @Test
    void itIsDoneInEarnestWhereTheySaySo() {
        goToTheCall();
        intervene(open("close").getFirst(), Intervention.RETRY, null);
        assertThat(open("close").getFirst().waiting()).isInstanceOf(CallUnderWay.class);
        answer(open("close").getFirst(), ok("L-7"));
        intervene(open("mark").getFirst(), Intervention.RETRY, null);
        assertThat(last(Updated.class).orElseThrow().ciChanges()).containsKey("lane");
    }

    @Test
    void whereNobodyWouldBeAskedItIsSaid() {
        world.group(World.TECHNICIANS, "Pier technicians");
        begin("look: ask group technicians \"Look\": \"Done\"\nend: done \"done\"\n");
        assertThat(open("look").getFirst().stall()).isNotNull();
        assertThat(open("look").getFirst().stall().code()).isNotEqualTo(Visit.Stall.WITHHELD);
    }

    @Test
    void itSetsOffNothingButWhatItWasBegunFor() {
        begin(
                "look: ask group technicians \"Look\": \"Done\"\nend: done \"done\"\n",
                new Trigger(new TriggerId("raised"), true, new Trigger.Created(TicketKind.INCIDENT), List.of(), null));
        assertThat(world.ticket.open()).hasSize(1);
        assertThat(run().trigger()).isEqualTo(BY_SIGNAL);
    }

    /** A signal is taken by the one step that waits for it: one that only tries must not take it from those who need it. */
    @Test
    void itTakesNoSignalFromOthers() {
        String waits = "wait: wait for signal \"board.up\" as \"Wait\"\nend: done \"came\"\n";
        world.put(
                new LookupKey.KeptSignal("board.up", null, world.now),
                new Lookups.KeptSignal("s9", Map.of("from", "monitor")));
        begin(waits);
        assertThat(open("wait")).hasSize(1);
        assertThat(world.waits()).isEmpty();
        intervene(open("wait").getFirst(), Intervention.SKIP, "done");
        assertThat(last(Event.RunEnded.class).orElseThrow().result()).isEqualTo("came");
    }

    @Test
    void aDayLaterItIsOverWithAllThatRuns() {
        begin(STEPS);
        world.pass(Tests.LASTS.minusSeconds(1));
        assertThat(world.ticket.open()).isNotEmpty();
        assertThat(Engine.nextAlarm(world.ticket, world.upSince)).contains(world.now.plusSeconds(1));
        world.pass(Duration.ofSeconds(1));
        assertThat(world.ticket.open()).isEmpty();
        assertThat(world.ticket.state()).isEqualTo("cancelled");
        assertThat(Engine.nextAlarm(world.ticket, world.upSince)).isEmpty();
    }

    /** Also a change that is being carried out, which cannot be cancelled any more. */
    @ParameterizedTest
    @EnumSource(TicketKind.class)
    void everyStateThatIsNoEndHasOneThatATestEndsIn(TicketKind kind) {
        kind.states().stream().filter(s -> !TicketKind.ended(s)).forEach(state -> assertThat(Tests.end(kind, state))
                .hasValueSatisfying(end -> assertThat(kind.movesFrom(state)).contains(end)));
    }

    @Test
    void onlyWhoDesignsMayTry() {
        world.publish(World.gateWorkflow(new ApprovalRule.AnyOne()));
        Trigger.Live live = bySignal(world, World.gateWorkflow(new ApprovalRule.AnyOne()));
        assertThat(world.refused(RUNA, test(world, live)).code()).isEqualTo(Refusal.Code.NOT_YOURS);
    }

    /** Whatever people answer and however long it lasts, nobody else hears of it and nothing is done elsewhere. */
    @Property(tries = 150)
    void nothingLeavesATest(@ForAll long seed, @ForAll @IntRange(min = 5, max = 40) int length) {
        Random random = new Random(seed);
        World tried = new World();
        WorkflowVersion generated = Generated.workflow(random, random.nextBoolean());
        Trigger.Live live = bySignal(
                tried,
                new WorkflowVersion(
                        World.GATE, 1, "G", null, World.PRIYA, null, List.of(), generated.vars(), generated.body()));
        tried.handle(TEO, test(tried, live));
        for (int i = 0; i < length; i++) {
            EngineLawsTest.time(tried, random);
            Command command = EngineLawsTest.command(tried, random);
            boolean inEarnest = command instanceof Command.Intervene c && c.kind() != Intervention.TAKE_EXIT;
            if (!inEarnest) {
                tried.handle(TEO, command);
            }
        }
        assertThat(tried.ticket.test()).isNotNull();
        boolean helped = tried.record.stream().anyMatch(r -> r.event() instanceof HelpAsked);
        assertThat(helped).isFalse();
        assertThat(tried.record).noneMatch(r -> reachesOut(r.event()));
        assertThat(tried.items()).allSatisfy(i -> assertThat(i.who()).isSubsetOf("p:teo", "op:teo"));
    }

    private static boolean reachesOut(Event event) {
        return event instanceof Event.MessageQueued m && !List.of(World.TEO).containsAll(m.people())
                || event instanceof CallRequested c && c.changesWorld()
                || event instanceof Updated u && u.ci() != null
                || event instanceof Event.RoomTold
                || event instanceof Event.WorkflowSent;
    }
}
