package dastur.server.api;

import dastur.core.people.PersonId;
import dastur.core.run.Assigned;
import dastur.core.run.Event;
import dastur.core.run.Recorded;
import dastur.store.Organisation;
import java.util.List;

/** Whether a person was ever asked something, by what the record says: then they may know what became of it. */
final class WhoWasAsked {
    private final Organisation organisation;
    private final PersonId person;

    WhoWasAsked(Organisation organisation, PersonId person) {
        this.organisation = organisation;
        this.person = person;
    }

    /** @param item as on the Desk: a visit, what stands beside one, or a proposal */
    boolean isAmong(List<Recorded> record, String item) {
        return record.stream()
                .filter(r -> about(r, item))
                .flatMap(r -> r.event().asks().stream())
                .anyMatch(this::isOneOf);
    }

    private static boolean about(Recorded r, String item) {
        if (r.event() instanceof Event.PartnerDiffers e) {
            return item.endsWith("/" + e.partner() + "/" + e.field());
        }
        return r.event() instanceof Event.StartOffered e
                ? item.endsWith("/" + e.trigger())
                : r.visit() != null && (item.equals(r.visit().value()) || item.startsWith(r.visit() + "?"));
    }

    private boolean isOneOf(Assigned assigned) {
        return Covering.isOneOf(organisation, person, assigned);
    }
}
