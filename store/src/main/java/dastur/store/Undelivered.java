package dastur.store;

import dastur.core.people.PersonId;
import dastur.core.run.Event;
import dastur.core.run.Recorded;
import dastur.core.ticket.TicketId;
import jakarta.persistence.Column;
import jakarta.persistence.Entity;
import jakarta.persistence.Id;
import jakarta.persistence.Table;
import java.time.Instant;
import java.util.List;
import java.util.Optional;
import org.hibernate.StatelessSession;
import org.jspecify.annotations.Nullable;

/** Messages that were given up, until somebody sends them again (N60, N84). */
public final class Undelivered {
    private static final int MOST = 200;

    /** @param why what the mail server or the connector said last */
    public record Message(
            String id,
            TicketId ticket,
            String message,
            PersonId person,
            String purpose,
            String subject,
            @Nullable String why,
            Instant failedAt) {}

    @Entity(name = "UndeliveredRow")
    @Table(name = "undelivered")
    static class Row {
        @Id
        String id;

        String ticket;

        @Nullable String visit;

        String message;

        String person;

        String purpose;

        String subject;

        String payload;

        @Nullable String why;

        @Column(name = "failed_at")
        Instant failedAt;
    }

    private final Database database;

    public Undelivered(Database database) {
        this.database = database;
    }

    /** Newest first. */
    public List<Message> all() {
        return database.read(session -> session
                .createSelectionQuery("from UndeliveredRow order by failedAt desc", Row.class)
                .setMaxResults(MOST)
                .getResultList()
                .stream()
                .map(Undelivered::message)
                .toList());
    }

    public Optional<Message> find(String id) {
        return database.read(
                session -> Optional.ofNullable(session.get(Row.class, id)).map(Undelivered::message));
    }

    public long count() {
        return database.read(session -> session.createSelectionQuery("select count(*) from UndeliveredRow", Long.class)
                .getSingleResult());
    }

    private static Message message(Row r) {
        return new Message(
                r.id,
                new TicketId(r.ticket),
                r.message,
                new PersonId(r.person),
                r.purpose,
                r.subject,
                r.why,
                r.failedAt);
    }

    /** Moves a message from the outbox to those that were given up. */
    static void keep(StatelessSession session, Recorded r, Event.MessageFailed e) {
        String id = e.message() + "." + e.person();
        Rows.OutboxRow out = session.get(Rows.OutboxRow.class, id);
        if (out == null) {
            return;
        }
        Row row = new Row();
        row.id = id;
        row.ticket = out.ticket;
        row.visit = out.visit;
        row.message = e.message();
        row.person = e.person().value();
        row.purpose = out.purpose;
        row.subject = dastur.core.json.Json.read(out.payload, Outbox.MailPayload.class)
                .subject();
        row.payload = out.payload;
        row.why = e.why() == null ? null : dastur.core.json.Texts.clip(e.why(), 1000);
        row.failedAt = r.at();
        session.upsert(row);
        session.delete(out);
    }

    /** Puts it back into the outbox. */
    static void sendAgain(StatelessSession session, Recorded r, Event.MessageResent e) {
        Row row = session.get(Row.class, e.message() + "." + e.person());
        if (row == null) {
            return;
        }
        Rows.OutboxRow out = new Rows.OutboxRow();
        out.id = row.id;
        out.ticket = row.ticket;
        out.visit = row.visit;
        out.kind = "mail";
        out.purpose = row.purpose;
        out.queue = "mail:" + row.person;
        out.payload = row.payload;
        out.createdAt = r.at();
        out.due = r.at();
        session.insert(out);
        session.delete(row);
    }
}
