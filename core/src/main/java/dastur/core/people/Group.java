package dastur.core.people;

import java.util.List;

/** A group with its members in the order of their ids. */
public record Group(GroupId id, String name, List<PersonId> members) {
    public Group {
        members = members.stream().sorted().toList();
    }
}
