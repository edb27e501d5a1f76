package dastur.core.ticket;

import dastur.core.people.GroupId;
import dastur.core.time.CalendarKey;
import org.jspecify.annotations.Nullable;

/**
 * Something offered to people (N5).
 *
 * @param passengers whether passengers meet it directly
 * @param calendar the hours in which working durations count for it
 */
public record Service(
        ServiceId id,
        String name,
        boolean passengers,
        @Nullable GroupId owner,
        @Nullable CalendarKey calendar) {}
