package dastur.core.start;

import dastur.core.signal.Severity;
import dastur.core.ticket.CiId;
import dastur.core.ticket.TicketId;
import java.time.Instant;
import java.util.List;
import org.jspecify.annotations.Nullable;

/**
 * What goes on around what a signal speaks of, that may explain it (I21, I22).
 *
 * @param planned changes that list its CI, or that list no CI and its service
 * @param upstream open incidents of what its CI depends on, that are in fault
 */
public record Around(List<PlannedWork> planned, List<Upstream> upstream) {
    public static final Around NOTHING = new Around(List.of(), List.of());

    public Around {
        planned = List.copyOf(planned);
        upstream = List.copyOf(upstream);
    }

    /** A change that is scheduled or implementing. @param from its planned start @param until its planned end */
    public record PlannedWork(
            TicketId change,
            String state,
            @Nullable Instant from,
            @Nullable Instant until) {
        /** Whether work goes on: it is implementing, or scheduled and inside its window. */
        public boolean goesOn(Instant now) {
            return switch (state) {
                case "implementing" -> true;
                case "scheduled" -> from != null && until != null && !now.isBefore(from) && now.isBefore(until);
                default -> false;
            };
        }
    }

    /**
     * The incident of something it depends on.
     *
     * @param name of the CI
     * @param since when that came to be in fault
     * @param away how many relations lie between
     */
    public record Upstream(TicketId ticket, CiId ci, String name, Severity worst, Instant since, int away) {}
}
