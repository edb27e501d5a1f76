package dastur.core.feed;

import dastur.core.ticket.TicketKind;
import java.util.Set;
import java.util.TreeSet;
import org.jspecify.annotations.Nullable;

/**
 * Which entries are wanted.
 *
 * @param kinds kinds of entries; empty for all
 * @param tickets kinds of tickets; empty for all
 * @param condition an expression over the ticket as it is now, its CI and service; null for none
 */
public record Wanted(
        Set<String> kinds,
        Set<TicketKind> tickets,
        @Nullable String condition) {
    public Wanted {
        kinds = kinds == null ? Set.of() : java.util.Collections.unmodifiableSet(new TreeSet<>(kinds));
        tickets = tickets == null ? Set.of() : Set.copyOf(tickets);
        condition = condition == null || condition.isBlank() ? null : condition;
    }

    /** Whether an entry is of a wanted kind; the condition is asked apart. */
    public boolean isOfKind(String kind, @Nullable TicketKind ticket) {
        return (kinds.isEmpty() || kinds.contains(kind))
                && (tickets.isEmpty() || ticket != null && tickets.contains(ticket));
    }
}
