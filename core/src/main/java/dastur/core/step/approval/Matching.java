package dastur.core.step.approval;

import dastur.core.people.PersonId;
import java.util.Collection;
import java.util.HashMap;
import java.util.HashSet;
import java.util.List;
import java.util.Map;
import java.util.Set;

/**
 * Whether each set can be given a person of its own: a matching in the sense of Berge, found by augmenting paths. It is
 * what "one from each" means when somebody belongs to several sets (D20).
 */
public final class Matching {
    private Matching() {}

    /** Whether every set has one of the people to itself. */
    public static boolean covers(List<List<PersonId>> sets, Collection<PersonId> people) {
        Map<PersonId, Integer> given = new HashMap<>();
        for (int set = 0; set < sets.size(); set++) {
            if (!give(sets, set, people, given, new HashSet<>())) {
                return false;
            }
        }
        return true;
    }

    private static boolean give(
            List<List<PersonId>> sets,
            int set,
            Collection<PersonId> people,
            Map<PersonId, Integer> given,
            Set<PersonId> tried) {
        for (PersonId person : sets.get(set)) {
            if (people.contains(person) && tried.add(person)) {
                Integer other = given.get(person);
                if (other == null || give(sets, other, people, given, tried)) {
                    given.put(person, set);
                    return true;
                }
            }
        }
        return false;
    }
}
