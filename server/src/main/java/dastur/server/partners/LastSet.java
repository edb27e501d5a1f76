package dastur.server.partners;

import dastur.core.record.Entry;
import dastur.core.record.Seal;
import dastur.core.run.Event;
import dastur.core.run.Recorded;
import dastur.core.ticket.TicketId;
import dastur.store.Records;
import java.time.Instant;
import java.util.Map;
import java.util.Optional;
import org.jspecify.annotations.Nullable;

/** When a field of a ticket came to be what it is, by its record. */
final class LastSet {
    private final Records records;

    LastSet(Records records) {
        this.records = records;
    }

    /** Empty where the record does not tell, since nobody has set it or what was set was redacted. */
    Optional<Instant> of(TicketId ticket, String field) {
        Instant last = null;
        for (Entry entry : records.of(ticket)) {
            Recorded r = Seal.open(entry);
            if (sets(r.event(), field)) {
                last = r.at();
            }
        }
        return Optional.ofNullable(last);
    }

    private static boolean sets(Event event, String field) {
        return event instanceof Event.TicketRaised e && (names(e.fields(), field) || names(e.texts(), field))
                || event instanceof Event.TicketChanged c && (names(c.changes(), field) || names(c.texts(), field))
                || event instanceof Event.OfVisit v && v.setsFields().contains(field);
    }

    private static boolean names(@Nullable Map<String, ?> values, String field) {
        return values != null && values.containsKey(field);
    }
}
