package dastur.core.people;

import com.fasterxml.jackson.annotation.JsonInclude;
import dastur.core.time.CalendarKey;
import java.util.List;
import org.jspecify.annotations.Nullable;

/**
 * A group with its members in the order of their ids.
 *
 * @param calendar when it works; null where the service's hours count
 */
@JsonInclude(JsonInclude.Include.NON_NULL)
public record Group(
        GroupId id,
        String name,
        List<PersonId> members,
        @Nullable CalendarKey calendar) {
    /** One without hours of its own. */
    public Group(GroupId id, String name, List<PersonId> members) {
        this(id, name, members, null);
    }

    public Group {
        members = members.stream().sorted().toList();
    }
}
