package dastur.core.run;

import static org.assertj.core.api.Assertions.assertThat;

import dastur.core.people.Actor;
import dastur.core.step.approval.ApprovalCommands.AskBack;
import dastur.core.step.task.OpenTask;
import dastur.core.step.task.TaskCommands.ClaimTask;
import dastur.core.step.task.TaskCommands.TakeBack;
import dastur.core.step.task.TaskEvents.TaskTakenBack;
import dastur.core.workflow.ApprovalRule;
import dastur.core.workflow.Trigger;
import dastur.core.workflow.TriggerId;
import java.time.Duration;
import java.util.List;
import java.util.Map;
import java.util.function.Consumer;
import org.junit.jupiter.api.Test;

/** An outcome given by mistake is taken back, shortly after and while nothing has followed from it (D29). */
class TakingBackTest {
    private static final Actor RUNA = Actor.of(World.RUNA);

    private final World world = new World();
    private VisitId look;

    private void done(String outcome) {
        world.publish(
                World.gateWorkflow(new ApprovalRule.AnyOne()),
                new Trigger(new TriggerId("t"), true, new Trigger.Created(null), List.of(), null));
        world.raise();
        look = world.open().id();
        world.accepted(RUNA, new ClaimTask(look));
        world.lookDone(outcome);
    }

    @Test
    void theTaskIsOpenAsBeforeAndTheApprovalIsNoLongerAsked() {
        done("Close the lane");
        VisitId approval = world.open().id();
        world.now = world.now.plus(Duration.ofSeconds(9));
        world.accepted(RUNA, new TakeBack(look));
        assertThat(world.open().id()).isEqualTo(look);
        assertThat(((OpenTask) world.open().waiting()).claimedBy()).isEqualTo(World.RUNA);
        assertThat(world.open().alarms()).isNotEmpty();
        assertThat(world.ticket.open().firstEntry().getValue().steps()).doesNotContainKey("look");
        assertThat(world.ticket.visit(approval)).isEmpty();
        assertThat(world.record.getLast().event()).isEqualTo(new TaskTakenBack(World.RUNA, "Close the lane"));
        world.lookDone("Cleared on the spot");
        assertThat(world.ticket.open()).isEmpty();
        assertThat(Engine.fold(World.TICKET, world.record)).isEqualTo(world.ticket);
    }

    private void refused(String why, String outcome, Consumer<World> meanwhile, Actor by) {
        done(outcome);
        meanwhile.accept(world);
        assertThat(world.refused(by, new TakeBack(look)).message()).contains(why);
    }

    @Test
    void afterTenSecondsItIsTooLate() {
        refused("10 seconds", "Close the lane", w -> w.now = w.now.plus(Duration.ofSeconds(11)), RUNA);
    }

    @Test
    void onlyWhoGaveItTakesItBack() {
        refused("Only who gave", "Close the lane", w -> {}, Actor.of(World.SEM));
    }

    @Test
    void whatHasBeenVotedOnIsNotTakenBack() {
        refused(
                "something has followed",
                "Close the lane",
                w -> w.accepted(Actor.of(World.TEO), new AskBack(w.open().id(), "Which lane?")),
                RUNA);
    }

    @Test
    void anOutcomeThatEndedTheRunIsNotTakenBack() {
        refused("something has followed", "Cleared on the spot", w -> {}, RUNA);
    }

    @Test
    void itIsTakenBackOnce() {
        done("Close the lane");
        world.accepted(RUNA, new TakeBack(look));
        assertThat(world.refused(RUNA, new TakeBack(look)).code()).isEqualTo(Refusal.Code.TOO_LATE);
        assertThat(Map.copyOf(world.ticket.fields())).containsKey("title");
    }
}
