package dastur.core.ticket;

import dastur.core.people.GroupId;
import dastur.core.time.CalendarKey;
import dastur.core.time.Span;
import java.util.Map;
import java.util.TreeMap;
import org.jspecify.annotations.Nullable;

/**
 * Something offered to people (N5).
 *
 * @param passengers whether passengers meet it directly
 * @param calendar the hours in which working durations count for it
 * @param targets by priority, P1 to P4, how soon its tickets are to be responded to and restored
 */
public record Service(
        ServiceId id,
        String name,
        boolean passengers,
        @Nullable GroupId owner,
        @Nullable CalendarKey calendar,
        Map<String, Promise> targets) {
    /** How soon; null where nothing is promised. */
    public record Promise(@Nullable Span respond, @Nullable Span restore) {}

    /** Without targets. */
    public Service(
            ServiceId id, String name, boolean passengers, @Nullable GroupId owner, @Nullable CalendarKey calendar) {
        this(id, name, passengers, owner, calendar, Map.of());
    }

    public Service {
        targets = targets == null ? Map.of() : java.util.Collections.unmodifiableMap(new TreeMap<>(targets));
    }
}
