package dastur.server.api;

import dastur.core.people.Person;
import dastur.core.people.Right;
import dastur.core.record.Seal;
import dastur.core.run.VisitId;
import dastur.core.ticket.TicketId;
import dastur.server.http.Problem;
import dastur.store.Organisation;
import dastur.store.Records;
import dastur.store.Tickets;
import java.time.InstantSource;

/** Who may know of a ticket: those who may see all, its requester, and whoever is or was asked something on it. */
public final class Sight {
    private final Tickets tickets;
    private final Records records;
    private final Organisation organisation;
    private final InstantSource clock;

    public Sight(Tickets tickets, Records records, Organisation organisation, InstantSource clock) {
        this.tickets = tickets;
        this.records = records;
        this.organisation = organisation;
        this.clock = clock;
    }

    /** Being asked gives the right to see what is needed for the answer, also when it is asked of somebody one covers. */
    public boolean maySee(Person person, TicketId ticket) {
        return Right.SEE.of(person)
                || isRequester(person, ticket)
                || tickets.concerns(person.id().value(), ticket)
                || organisation.coveredBy(person.id(), clock.instant()).stream()
                        .anyMatch(cover -> tickets.workNamed(cover.person().value()).stream()
                                .anyMatch(
                                        w -> w.ticket().equals(ticket.value()) && Covering.takesOver(cover, w.kind())));
    }

    /** Whether a person may be told what became of an answer: whoever was ever asked, also when it is over for them. */
    boolean mayAnswer(Person person, VisitId visit) {
        return maySee(person, visit.ticket())
                || new WhoWasAsked(organisation, person.id())
                        .isAmong(
                                records.of(visit.ticket()).stream()
                                        .map(Seal::open)
                                        .toList(),
                                visit.value());
    }

    boolean isRequester(Person person, TicketId ticket) {
        return tickets.row(ticket)
                .filter(t -> person.id().value().equals(t.requester()))
                .isPresent();
    }

    /** Ends the request as not found when the person may not know of the ticket: its existence is not told. */
    void mustSee(Person person, TicketId ticket) {
        if (!maySee(person, ticket)) {
            throw Problem.notFound("There is no ticket " + ticket + ".").end();
        }
    }
}
