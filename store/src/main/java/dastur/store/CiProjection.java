package dastur.store;

import dastur.core.json.Json;
import dastur.core.run.Event;
import dastur.core.run.Recorded;
import dastur.core.ticket.TicketId;
import java.util.Map;
import java.util.TreeMap;
import org.hibernate.StatelessSession;

/** What a ticket's runs change of CIs, and the history of those changes. */
final class CiProjection {
    private final StatelessSession session;
    private final TicketId ticket;

    CiProjection(StatelessSession session, TicketId ticket) {
        this.session = session;
        this.ticket = ticket;
    }

    void updated(Recorded r, Event.Updated e) {
        if (e.ci() != null && e.ciChanges() != null) {
            Rows.CiRow ci = session.get(Rows.CiRow.class, e.ci().value(), org.hibernate.LockMode.PESSIMISTIC_WRITE);
            e.ciChanges().forEach((name, change) -> changeCi(ci, r, name, change));
            session.update(ci);
        }
    }

    private void changeCi(Rows.CiRow ci, Recorded r, String name, Event.Change change) {
        String after = change.after() == null ? null : String.valueOf(change.after());
        switch (name) {
            case "name" -> ci.name = after == null ? ci.name : after;
            case "life" -> ci.life = after == null ? ci.life : after;
            case "site" -> ci.site = after;
            case "address" -> ci.address = after;
            case "owner" -> ci.owner = after;
            default -> {
                Map<String, Object> attributes = new TreeMap<>(Json.readMap(ci.attributes));
                if (change.after() == null) {
                    attributes.remove(name);
                } else {
                    attributes.put(name, change.after());
                }
                ci.attributes = Json.write(attributes);
            }
        }
        Rows.CiChangeRow row = new Rows.CiChangeRow();
        row.key = new Rows.CiChangeKey(ticket.value(), r.seq(), name);
        row.ci = ci.id;
        row.at = r.at();
        row.beforeValue = change.before() == null ? null : String.valueOf(change.before());
        row.afterValue = after;
        session.insert(row);
    }
}
