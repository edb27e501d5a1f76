package dastur.core.run;

import static org.assertj.core.api.Assertions.assertThat;

import dastur.core.people.Actor;
import dastur.core.people.PersonId;
import dastur.core.step.approval.ApprovalCommands.WithdrawVote;
import dastur.core.step.approval.ApprovalEvents.VoteCast;
import dastur.core.workflow.ApprovalRule;
import dastur.core.workflow.Trigger;
import dastur.core.workflow.TriggerId;
import java.util.List;
import org.junit.jupiter.api.Test;

/** Asking, voting and asking back, before the engine. */
class VotingTest {
    private static final PersonId A = new PersonId("a");
    private static final PersonId B = new PersonId("b");
    private static final PersonId C = new PersonId("c");

    private static World everyoneIsAsked() {
        World world = new World();
        world.publish(
                World.gateWorkflow(new ApprovalRule.Everyone()),
                new Trigger(new TriggerId("created"), true, new Trigger.Created(null), List.of(), null));
        world.raise();
        world.lookDone("Close the lane");
        return world;
    }

    @Test
    void aVoteIsTakenBackWhileTheDecisionIsOpenAndCanBeCastAnew() {
        World world = everyoneIsAsked();
        Actor teo = Actor.of(World.TEO);
        VisitId visit = world.open().id();
        assertThat(world.handle(teo, new WithdrawVote(visit))).isInstanceOf(Decision.Refused.class);
        world.handle(teo, world.vote(true, null));
        assertThat(world.votes().cast()).containsOnlyKeys(World.TEO);
        world.handle(teo, new WithdrawVote(visit));
        assertThat(world.votes().cast()).isEmpty();
        assertThat(world.handle(teo, world.vote(true, null))).isInstanceOf(Decision.Accepted.class);
        world.handle(Actor.of(World.PRIYA), world.vote(true, null));
        assertThat(world.kinds()).contains("ApprovalClosed");
        assertThat(world.handle(teo, new WithdrawVote(visit))).isInstanceOf(Decision.Refused.class);
    }

    /** N42: who covers votes for the other, both are on the record; excluded by either; once for each natural person. */
    @Test
    void aCoverVotesForAnotherOnceAndNeverWhereEitherIsExcluded() {
        World world = everyoneIsAsked();
        assertThat(world.handle(new Actor.OfPerson(World.JONAS, World.TEO), world.vote(true, null)))
                .as("the requester votes for nobody")
                .isInstanceOf(Decision.Refused.class);
        assertThat(world.handle(new Actor.OfPerson(World.PRIYA, World.TEO), world.vote(true, null)))
                .as("who is asked decides in their own name")
                .isInstanceOf(Decision.Refused.class);
        assertThat(world.handle(new Actor.OfPerson(World.SEM, World.TEO), world.vote(true, null)))
                .isInstanceOf(Decision.Accepted.class);
        assertThat(world.votes().cast()).containsOnlyKeys(World.TEO);
        assertThat(world.handle(new Actor.OfPerson(World.SEM, World.PRIYA), world.vote(true, null)))
                .as("a natural person votes once")
                .isInstanceOf(Decision.Refused.class);
        assertThat(world.record.stream()
                        .filter(r -> r.event() instanceof VoteCast)
                        .map(Recorded::actor))
                .containsExactly(new Actor.OfPerson(World.SEM, World.TEO));
    }
}
