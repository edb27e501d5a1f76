package dastur.server.partners;

import dastur.core.partner.Partner;
import dastur.core.partner.Theirs;
import dastur.core.record.Entry;
import dastur.core.record.Seal;
import dastur.core.run.Event;
import dastur.core.run.Recorded;
import dastur.core.run.VisitId;
import dastur.core.step.calling.CallingEvents.CallDone;
import dastur.core.step.calling.CallingEvents.CallRequested;
import dastur.core.ticket.TicketId;
import dastur.store.Records;
import dastur.store.Tickets;
import java.util.HashSet;
import java.util.Optional;
import java.util.Set;

/**
 * Whether one of their tickets was raised by one of ours. That theirs names ours proves nothing: our record must tell of the call, and
 * where its answer is known, it must have named this ticket of theirs.
 */
final class Raised {
    private final Tickets tickets;
    private final Records records;

    Raised(Tickets tickets, Records records) {
        this.tickets = tickets;
        this.records = records;
    }

    Optional<TicketId> by(Partner partner, Theirs theirs) {
        if (partner.raise() == null || theirs.reference() == null) {
            return Optional.empty();
        }
        TicketId ticket;
        try {
            ticket = new TicketId(theirs.reference());
        } catch (IllegalArgumentException e) {
            return Optional.empty();
        }
        return tickets.find(ticket).isPresent() && tells(partner, theirs, ticket)
                ? Optional.of(ticket)
                : Optional.empty();
    }

    private boolean tells(Partner partner, Theirs theirs, TicketId ticket) {
        Set<VisitId> unanswered = new HashSet<>();
        for (Entry entry : records.of(ticket)) {
            Recorded r = Seal.open(entry);
            Event event = r.event();
            if (event instanceof CallRequested c && c.action().equals(partner.raise())) {
                unanswered.add(r.visit());
            } else if (event instanceof CallDone c && unanswered.remove(r.visit())) {
                boolean names = c.outputs() != null
                        && c.outputs().values().stream()
                                .anyMatch(v -> theirs.id().equals(String.valueOf(v)));
                if (names) {
                    return true;
                }
            }
        }
        return !unanswered.isEmpty();
    }
}
