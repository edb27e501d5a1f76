package dastur.core.people;

import java.util.Collections;
import java.util.Set;
import java.util.TreeSet;
import org.jspecify.annotations.Nullable;

/**
 * A natural person who takes part.
 *
 * @param mail the address for mail; empty when the person cannot be reached that way
 * @param active whether the person may sign in and be asked
 * @param manager who decides about what the person asks for; null when nobody is named
 */
public record Person(
        PersonId id,
        String name,
        String mail,
        Set<Role> roles,
        boolean active,
        @Nullable PersonId manager) {
    public Person {
        roles = Collections.unmodifiableSet(new TreeSet<>(roles));
    }

    /** Without a manager. */
    public Person(PersonId id, String name, String mail, Set<Role> roles, boolean active) {
        this(id, name, mail, roles, active, null);
    }

    /** The same with an open account and one more role. */
    public Person mayAlso(Role role) {
        Set<Role> more = new TreeSet<>(roles);
        more.add(role);
        return new Person(id, name, mail, more, true, manager);
    }

    public boolean has(Role role) {
        return roles.contains(role);
    }
}
