package dastur.store;

import dastur.core.json.Json;
import dastur.core.people.PersonId;
import dastur.core.ticket.TicketId;
import jakarta.persistence.Column;
import jakarta.persistence.Entity;
import jakarta.persistence.Id;
import jakarta.persistence.Table;
import java.time.Instant;
import java.util.List;
import java.util.Optional;
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
                Json.read(r.payload, Outbox.MailPayload.class).subject(),
                r.why,
                r.failedAt);
    }
}
