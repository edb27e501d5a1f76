package dastur.core.run;

import static org.assertj.core.api.Assertions.assertThat;

import dastur.core.people.Actor;
import dastur.core.people.PersonId;
import dastur.core.workflow.ApprovalRule;
import dastur.core.workflow.Trigger;
import dastur.core.workflow.TriggerId;
import java.util.Arrays;
import java.util.List;
import java.util.Map;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;

/** Majority, share, one from each, and taking a vote back (N12; D20). */
class ApprovalRulesTest {
    private static final PersonId A = new PersonId("a");
    private static final PersonId B = new PersonId("b");
    private static final PersonId C = new PersonId("c");

    @ParameterizedTest
    @CsvSource({"1, 1", "2, 2", "3, 2", "4, 3", "5, 3"})
    void aMajorityIsMoreThanHalf(int electorate, int needed) {
        assertThat(new ApprovalRule.Majority().needed(electorate)).isEqualTo(needed);
    }

    @ParameterizedTest
    @CsvSource({"60, 5, 3", "50, 3, 2", "1, 4, 1", "100, 4, 4", "34, 3, 2"})
    void aShareIsRoundedUp(int percent, int electorate, int needed) {
        assertThat(new ApprovalRule.Share(percent).needed(electorate)).isEqualTo(needed);
    }

    /** Sets as words of members, the people who say yes, and whether each set has one of its own. */
    @ParameterizedTest
    @CsvSource({
        "a b, ab, true",
        "ab ab, a, false",
        "ab ab, ab, true",
        "ab a, ab, true",
        "a a, ab, false",
        "ab bc c, abc, true",
        "ab ab c, abc, true",
        "ab ab ab, abc, false"
    })
    void oneFromEachNeedsAnotherPersonForEachSet(String sets, String people, boolean covered) {
        List<List<PersonId>> all =
                Arrays.stream(sets.split(" ")).map(ApprovalRulesTest::people).toList();
        assertThat(Matching.covers(all, people(people))).isEqualTo(covered);
    }

    private static List<PersonId> people(String letters) {
        return letters.chars()
                .mapToObj(c -> new PersonId(String.valueOf((char) c)))
                .toList();
    }

    @Test
    void oneFromEachIsApprovedOnlyWhenEachHasSaidYesAndDeclinedWhenOneCannotAnyMore() {
        Waiting.Votes votes = votes(List.of(List.of(A, B), List.of(C)));
        assertThat(votes.enough(List.of(A, B))).isFalse();
        assertThat(votes.enough(List.of(B, C))).isTrue();
        Waiting.Votes refused = votes.with(Map.of(C, false), Map.of(), Map.of());
        assertThat(refused.enough(refused.hopeful())).isFalse();
        Waiting.Votes half = votes.with(Map.of(A, false), Map.of(), Map.of());
        assertThat(half.enough(half.hopeful())).isTrue();
    }

    private static Waiting.Votes votes(List<List<PersonId>> sets) {
        return new Waiting.Votes(
                1,
                "Go?",
                null,
                null,
                List.of(A, B, C),
                List.of(),
                "one from each",
                sets.size(),
                List.of(),
                Map.of(),
                "d",
                false,
                null,
                sets,
                Map.of(),
                Map.of(),
                null,
                null,
                null);
    }

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
        assertThat(world.handle(teo, new Command.WithdrawVote(visit))).isInstanceOf(Decision.Refused.class);
        world.handle(teo, world.vote(true, null));
        assertThat(world.votes().cast()).containsOnlyKeys(World.TEO);
        world.handle(teo, new Command.WithdrawVote(visit));
        assertThat(world.votes().cast()).isEmpty();
        assertThat(world.handle(teo, world.vote(true, null))).isInstanceOf(Decision.Accepted.class);
        world.handle(Actor.of(World.PRIYA), world.vote(true, null));
        assertThat(world.kinds()).contains("ApprovalClosed");
        assertThat(world.handle(teo, new Command.WithdrawVote(visit))).isInstanceOf(Decision.Refused.class);
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
                        .filter(r -> r.event() instanceof Event.VoteCast)
                        .map(Recorded::actor))
                .containsExactly(new Actor.OfPerson(World.SEM, World.TEO));
    }
}
