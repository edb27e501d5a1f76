package dastur.core.step.approval;

import static org.assertj.core.api.Assertions.assertThat;

import dastur.core.people.PersonId;
import java.util.ArrayList;
import java.util.List;
import java.util.Set;
import java.util.TreeSet;
import net.jqwik.api.ForAll;
import net.jqwik.api.Property;
import net.jqwik.api.constraints.IntRange;
import net.jqwik.api.constraints.Size;
import org.junit.jupiter.api.Test;

/** One from each: each set a person of its own (D20). */
class MatchingTest {
    private static PersonId person(int number) {
        return new PersonId("p" + number);
    }

    /** Tries every way to give people to sets. */
    private static boolean byTryingAll(List<List<PersonId>> sets, Set<PersonId> free) {
        if (sets.isEmpty()) {
            return true;
        }
        for (PersonId person : sets.getFirst()) {
            if (free.contains(person)) {
                Set<PersonId> others = new TreeSet<>(free);
                others.remove(person);
                if (byTryingAll(sets.subList(1, sets.size()), others)) {
                    return true;
                }
            }
        }
        return false;
    }

    @Property(tries = 500)
    void itFindsWhatTryingAllWaysFinds(
            @ForAll @Size(max = 5) List<@Size(max = 4) List<@IntRange(max = 5) Integer>> numbers,
            @ForAll @Size(max = 6) Set<@IntRange(max = 5) Integer> saying) {
        List<List<PersonId>> sets = new ArrayList<>();
        numbers.forEach(set -> sets.add(set.stream().map(MatchingTest::person).toList()));
        Set<PersonId> people = new TreeSet<>();
        saying.forEach(n -> people.add(person(n)));
        assertThat(Matching.covers(sets, people)).isEqualTo(byTryingAll(sets, people));
    }

    @Test
    void somebodyInTwoSetsCountsForOneOfThem() {
        List<PersonId> both = List.of(person(1));
        assertThat(Matching.covers(List.of(both, both), both)).isFalse();
        // Whoever was given to the first set gives way when the second has nobody else.
        assertThat(Matching.covers(
                        List.of(List.of(person(1), person(2)), List.of(person(1))), List.of(person(1), person(2))))
                .isTrue();
    }
}
