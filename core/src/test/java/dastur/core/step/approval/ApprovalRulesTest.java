package dastur.core.step.approval;

import static org.assertj.core.api.Assertions.assertThat;

import dastur.core.people.PersonId;
import dastur.core.workflow.ApprovalRule;
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
        Votes votes = votes(List.of(List.of(A, B), List.of(C)));
        assertThat(votes.enough(List.of(A, B))).isFalse();
        assertThat(votes.enough(List.of(B, C))).isTrue();
        Votes refused = votes.with(Map.of(C, false), Map.of(), Map.of());
        assertThat(refused.enough(refused.hopeful())).isFalse();
        Votes half = votes.with(Map.of(A, false), Map.of(), Map.of());
        assertThat(half.enough(half.hopeful())).isTrue();
    }

    private static Votes votes(List<List<PersonId>> sets) {
        return new Votes(
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
                null,
                null);
    }
}
