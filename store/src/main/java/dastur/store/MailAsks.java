package dastur.store;

import dastur.core.people.PersonId;
import dastur.core.run.VisitId;
import dastur.core.ticket.TicketId;
import jakarta.persistence.Column;
import jakarta.persistence.Entity;
import jakarta.persistence.Id;
import jakarta.persistence.Table;
import java.time.Instant;
import java.util.Optional;
import org.jspecify.annotations.Nullable;

/** What each mail that went out was about, so that its answer is understood (N41). */
public final class MailAsks {
    /**
     * A mail to one person.
     *
     * @param id the message and the person
     * @param visit what it asks about; null where it only tells
     * @param round of the approval, and {@code digest} of what was shown; 0 and empty for others
     */
    public record Asked(
            String id,
            TicketId ticket,
            @Nullable VisitId visit,
            PersonId person,
            String purpose,
            int round,
            String digest) {}

    @Entity(name = "MailAskRow")
    @Table(name = "mail_ask")
    static class Row {
        @Id
        String id;

        String ticket;

        @Nullable String visit;

        String person;

        String purpose;

        @Column(name = "round_number")
        int round;

        String digest;

        Instant at;
    }

    private final Database database;

    public MailAsks(Database database) {
        this.database = database;
    }

    public void keep(Asked asked, Instant at) {
        database.run(session -> {
            Row row = new Row();
            row.id = asked.id();
            row.ticket = asked.ticket().value();
            row.visit = asked.visit() == null ? null : asked.visit().value();
            row.person = asked.person().value();
            row.purpose = asked.purpose();
            row.round = asked.round();
            row.digest = asked.digest();
            row.at = at;
            session.upsert(row);
        });
    }

    public Optional<Asked> find(String id) {
        return database.read(session -> Optional.ofNullable(session.get(Row.class, id)))
                .map(r -> new Asked(
                        r.id,
                        new TicketId(r.ticket),
                        r.visit == null ? null : new VisitId(r.visit),
                        new PersonId(r.person),
                        r.purpose,
                        r.round,
                        r.digest));
    }

    /** Forgets mails that went out before a moment; who answers those later is told to use the application. */
    public void forgetBefore(Instant moment) {
        database.run(session -> session.createMutationQuery("delete MailAskRow where at < ?1")
                .setParameter(1, moment)
                .executeUpdate());
    }
}
