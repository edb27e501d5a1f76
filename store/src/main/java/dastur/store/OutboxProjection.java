package dastur.store;

import dastur.core.json.Json;
import dastur.core.people.PersonId;
import dastur.core.run.Event;
import dastur.core.run.Recorded;
import dastur.core.ticket.LinkKind;
import dastur.core.ticket.TicketId;
import dastur.core.workflow.Action;
import dastur.core.workflow.ActionKey;
import org.hibernate.StatelessSession;
import org.jspecify.annotations.Nullable;

/** What is to be done outside follows from events: rows that workers take, and that go when what they were for is over. */
final class OutboxProjection {
    private final StatelessSession session;
    private final TicketId ticket;

    OutboxProjection(StatelessSession session, TicketId ticket) {
        this.session = session;
        this.ticket = ticket;
    }

    void linked(Recorded r, TicketId other, LinkKind as, boolean mirrors, boolean made) {
        if (!mirrors) {
            errand(r, new Errand.Link(other, as, r.actor(), made));
        }
    }

    void errand(Recorded r, Errand errand) {
        // A withdrawn step takes what it sent back as long as nobody has taken it.
        String of = errand instanceof Errand.Send ? text(r.visit()) : ticket.value();
        Rows.OutboxRow row = outgoing(r, of + ".errand-" + r.seq(), "errand", "errand", "errand:" + ticket);
        row.payload = Json.write(errand);
        session.insert(row);
    }

    void outgoingCall(
            Recorded r, int attempt, ActionKey action, Action.Repeat repeat, String key, Event.@Nullable Call call) {
        if (call != null) {
            Rows.OutboxRow row = outgoing(r, r.visit() + "." + attempt, "call", "call", text(r.visit()));
            row.payload = Json.write(new Outbox.CallPayload(action.value(), attempt, key, repeat, call));
            session.insert(row);
        }
    }

    /** Taken ones too: a worker that is out brings its result back, and nobody shall take the row after it. */
    void dropCalls(Recorded r) {
        session.createMutationQuery("delete OutboxRow where id like ?1")
                .setParameter(1, text(r.visit()) + ".%")
                .executeUpdate();
    }

    void dropCall(Recorded r, int attempt) {
        Straight.execute(session, "delete from outbox where id = ?", text(r.visit()) + "." + attempt);
    }

    void dropMessage(String message, PersonId person) {
        Straight.execute(session, "delete from outbox where id = ?", message + "." + person);
    }

    void messages(Recorded r, Event.MessageQueued e) {
        for (PersonId person : e.people()) {
            Rows.OutboxRow row = outgoing(r, e.message() + "." + person, "mail", e.purpose(), "mail:" + person);
            row.payload = Json.write(new Outbox.MailPayload(
                    e.message(), person, e.subject() == null ? "" : e.subject(), e.text() == null ? "" : e.text()));
            session.insert(row);
        }
    }

    /** Not under the visit's own id: what is said stays to be said when the run goes on. */
    void room(Recorded r, Event.RoomTold e) {
        Rows.OutboxRow row = outgoing(r, "room." + e.message(), "room", "room", "room:" + ticket);
        row.payload = Json.write(new Outbox.RoomPayload(
                e.message(),
                e.name() == null ? ticket.value() : e.name(),
                e.keepsAll(),
                e.invited(),
                e.text() == null ? "" : e.text()));
        session.insert(row);
    }

    private Rows.OutboxRow outgoing(Recorded r, String id, String kind, String purpose, String queue) {
        Rows.OutboxRow row = new Rows.OutboxRow();
        row.id = id;
        row.ticket = ticket.value();
        row.visit = r.visit() == null ? null : r.visit().value();
        row.kind = kind;
        row.purpose = purpose;
        row.queue = queue;
        row.createdAt = r.at();
        row.due = r.at();
        return row;
    }

    private static String text(@Nullable Object id) {
        return id == null ? "" : id.toString();
    }
}
