package dastur.server.work;

import dastur.core.people.PersonId;
import dastur.core.ticket.TicketId;
import java.time.Duration;
import java.time.Instant;
import java.util.Comparator;
import java.util.HashMap;
import java.util.List;
import java.util.Map;

/**
 * Who has a ticket before them just now (O9), so that two do not do the same. Of interest for a moment: kept in memory, by each node of
 * those whose browsers are at it, and no part of any record.
 */
public final class Onlookers {
    /** How long somebody counts as being there without a sign of it; browsers give one every ten seconds. */
    private static final Duration GONE_AFTER = Duration.ofSeconds(30);
    /** So many tickets are remembered at most: nobody looks at more at once. */
    private static final int MOST_TICKETS = 10_000;

    /** Somebody who looks. @param writes whether they are answering, or writing something on it */
    public record Onlooker(PersonId person, boolean writes, Instant since) {}

    private record Seen(boolean writes, Instant since, Instant last) {}

    private final Map<TicketId, Map<PersonId, Seen>> tickets = new HashMap<>();

    /** Somebody looks at a ticket. @return who else does, those who write first */
    public synchronized List<Onlooker> looks(TicketId ticket, PersonId person, boolean writes, Instant now) {
        if (tickets.size() >= MOST_TICKETS && !tickets.containsKey(ticket)) {
            tickets.values().removeIf(seen -> forgotten(seen, now));
            if (tickets.size() >= MOST_TICKETS) {
                return List.of();
            }
        }
        Map<PersonId, Seen> seen = tickets.computeIfAbsent(ticket, t -> new HashMap<>());
        forgotten(seen, now);
        Seen before = seen.get(person);
        seen.put(person, new Seen(writes, before == null ? now : before.since(), now));
        return seen.entrySet().stream()
                .filter(e -> !e.getKey().equals(person))
                .map(e -> new Onlooker(
                        e.getKey(), e.getValue().writes(), e.getValue().since()))
                .sorted(Comparator.comparing((Onlooker o) -> !o.writes()).thenComparing(Onlooker::since))
                .toList();
    }

    /** Somebody has turned to something else. */
    public synchronized void leaves(TicketId ticket, PersonId person) {
        Map<PersonId, Seen> seen = tickets.get(ticket);
        if (seen != null) {
            seen.remove(person);
            if (seen.isEmpty()) {
                tickets.remove(ticket);
            }
        }
    }

    /** Forgets whoever gave no sign for a while. @return whether nobody is left */
    private static boolean forgotten(Map<PersonId, Seen> seen, Instant now) {
        seen.values().removeIf(s -> s.last().isBefore(now.minus(GONE_AFTER)));
        return seen.isEmpty();
    }
}
