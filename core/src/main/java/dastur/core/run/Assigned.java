package dastur.core.run;

import dastur.core.people.GroupId;
import dastur.core.people.PersonId;
import java.util.List;

/** Those to whom something is offered: groups, whose members of the day count, and people by name. */
public record Assigned(List<GroupId> groups, List<PersonId> people) {
    public Assigned {
        groups = groups.stream().distinct().sorted().toList();
        people = people.stream().distinct().sorted().toList();
    }

    public boolean nobody() {
        return groups.isEmpty() && people.isEmpty();
    }
}
