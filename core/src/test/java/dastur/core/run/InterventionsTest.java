package dastur.core.run;

import static org.assertj.core.api.Assertions.assertThat;

import dastur.core.people.Actor;
import dastur.core.step.approval.Votes;
import dastur.core.step.calling.CallingCommands.CallOutcome;
import dastur.core.step.calling.CallingCommands.CallResult;
import dastur.core.step.task.OpenTask;
import dastur.core.step.task.TaskCommands.ClaimTask;
import dastur.core.workflow.ApprovalRule;
import dastur.core.workflow.Level;
import dastur.core.workflow.Step;
import dastur.core.workflow.StepId;
import dastur.core.workflow.WorkflowVersion;
import java.time.Duration;
import java.time.Instant;
import java.util.List;
import java.util.Map;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;

/** What a person may do with a run that is not stalled: hold, resume, skip, run again, move (N51; D17, D29). */
class InterventionsTest {
    private static final Actor TEO = Actor.of(World.TEO);

    private World world;

    @BeforeEach
    void raised() {
        world = new World();
        world.raise();
    }

    private RunId run() {
        return world.ticket.open().firstKey();
    }

    private Decision intervene(Intervention kind, String exit, StepId step, Integer version) {
        VisitId visit = kind == Intervention.SKIP ? world.open().id() : null;
        return world.handle(TEO, new Command.Intervene(run(), visit, kind, exit, "as agreed", step, version));
    }

    private static String refused(Decision decision) {
        return ((Decision.Refused) decision).refusal().message();
    }

    @Test
    void whileItIsHeldClocksStandStillAndAnswersAreRefused() {
        Instant due = ((OpenTask) world.open().waiting()).due();
        world.now = world.now.plus(Duration.ofMinutes(5));
        assertThat(intervene(Intervention.HOLD, null, null, null)).isInstanceOf(Decision.Accepted.class);
        assertThat(Engine.nextAlarm(world.ticket, world.upSince)).isEmpty();
        world.now = world.now.plus(Duration.ofHours(2));
        world.handle(Actor.CLOCK, new Command.Tick());
        assertThat(world.kinds()).doesNotContain("RungFired");

        Decision claim =
                world.handle(Actor.of(World.RUNA), new ClaimTask(world.open().id()));
        assertThat(((Decision.Refused) claim).refusal().code()).isEqualTo(Refusal.Code.HELD);
        assertThat(refused(claim)).contains("on hold").contains("nothing was lost");

        intervene(Intervention.RESUME, null, null, null);
        assertThat(((OpenTask) world.open().waiting()).due()).isEqualTo(due.plus(Duration.ofHours(2)));
        assertThat(world.handle(Actor.of(World.RUNA), new ClaimTask(world.open().id())))
                .isInstanceOf(Decision.Accepted.class);
    }

    @Test
    void aResultThatComesWhileItIsHeldIsEnteredAndMovesOnWhenItIsResumed() {
        world.lookDone("Close the lane");
        world.handle(TEO, world.vote(true, null));
        VisitId call = world.open().id();
        intervene(Intervention.HOLD, null, null, null);
        world.handle(
                Actor.SYSTEM,
                new CallResult(call, 1, new CallOutcome.Done("ok", Map.of("lock", "L-7"), null, null, "", 10, 0)));
        assertThat(world.kinds()).contains("CallDone");
        assertThat(world.ticket.open().get(run()).open()).isEmpty();
        intervene(Intervention.RESUME, null, null, null);
        assertThat(world.ticket.fields()).containsEntry("lockNumber", "L-7");
    }

    @Test
    void aStepIsSkippedByAnExitThatItHas() {
        assertThat(refused(intervene(Intervention.SKIP, "nonsense", null, null)))
                .contains("Close the lane");
        intervene(Intervention.SKIP, "Close the lane", null, null);
        assertThat(world.open().waiting()).isInstanceOf(Votes.class);
        assertThat(world.record.stream()
                        .map(Recorded::event)
                        .filter(Event.Left.class::isInstance)
                        .map(e -> ((Event.Left) e).why()))
                .contains("skipped");
    }

    @Test
    void runAgainFromAStepForgetsWhatCameAfterItAndUndoesNothing() {
        world.lookDone("Close the lane");
        intervene(Intervention.RERUN, null, new StepId("look"), null);
        assertThat(world.open().step()).isEqualTo(new StepId("look"));
        assertThat(world.ticket.open().get(run()).steps()).isEmpty();
        assertThat(world.kinds()).contains("Withdrawn");
        assertThat(refused(intervene(Intervention.RERUN, null, new StepId("gone"), null)))
                .contains("main level");
    }

    @Test
    void aRunMovesToAVersionThatHasTheStepsItStandsOn() {
        WorkflowVersion next = World.gateWorkflow(new ApprovalRule.Everyone()).numbered(2);
        world.put(new LookupKey.OfVersion(World.GATE, 2), next);
        intervene(Intervention.MOVE, null, null, 2);
        assertThat(world.ticket.open().get(run()).version()).isEqualTo(2);
        world.lookDone("Close the lane");
        assertThat(((Votes) world.open().waiting()).needed()).isEqualTo(2);
    }

    @Test
    void aRunStaysWhereTheOtherVersionLacksAStepOrHasAnotherKindOfIt() {
        WorkflowVersion gate = World.gateWorkflow(new ApprovalRule.AnyOne());
        Step look = gate.body().steps().getFirst();
        put(2, gate, gate.body().steps().stream().filter(s -> s != look).toList());
        put(3, gate, List.of(new Step.End(look.id(), "Look", "done", null, Step.Ending.LINE)));
        assertThat(refused(intervene(Intervention.MOVE, null, null, 2)))
                .contains("'" + look.name() + "'")
                .contains("does not have");
        assertThat(refused(intervene(Intervention.MOVE, null, null, 3))).contains("of another kind");
        assertThat(refused(intervene(Intervention.MOVE, null, null, 9))).contains("no version 9");
        assertThat(world.ticket.open().get(run()).version()).isEqualTo(1);
    }

    private void put(int number, WorkflowVersion like, List<Step> steps) {
        world.put(
                new LookupKey.OfVersion(World.GATE, number),
                new WorkflowVersion(
                        like.key(),
                        number,
                        like.name(),
                        null,
                        like.owner(),
                        like.kind(),
                        like.startForm(),
                        like.vars(),
                        new Level(steps)));
    }
}
