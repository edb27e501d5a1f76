package dastur.core.people;

import java.util.Collections;
import java.util.Set;
import java.util.TreeSet;

/**
 * A natural person who takes part.
 *
 * @param mail the address for mail; empty when the person cannot be reached that way
 * @param active whether the person may sign in and be asked
 */
public record Person(PersonId id, String name, String mail, Set<Role> roles, boolean active) {
    public Person {
        roles = Collections.unmodifiableSet(new TreeSet<>(roles));
    }

    public boolean has(Role role) {
        return roles.contains(role);
    }
}
