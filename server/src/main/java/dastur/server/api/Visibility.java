package dastur.server.api;

import dastur.core.people.Person;
import dastur.core.people.Right;
import dastur.core.record.Seal;
import dastur.core.run.VisitId;
import dastur.core.ticket.TicketId;
import dastur.server.App;

/** Who may know of a ticket: those who may see all, its requester, and whoever is or was asked something on it. */
public final class Visibility {
    private Visibility() {}

    /** Being asked gives the right to see what is needed for the answer, also when it is asked of somebody one covers. */
    public static boolean maySee(App app, Person person, TicketId ticket) {
        return Right.SEE.of(person)
                || isRequester(app, person, ticket)
                || app.tickets().concerns(person.id().value(), ticket)
                || app.organisation().coveredBy(person.id(), app.clock().instant()).stream()
                        .anyMatch(
                                cover -> app.tickets().workNamed(cover.person().value()).stream()
                                        .anyMatch(w -> w.ticket().equals(ticket.value())
                                                && Covering.takesOver(cover, w.kind())));
    }

    /** Whether a person may be told what became of an answer: whoever was ever asked, also when it is over for them. */
    static boolean mayAnswer(App app, Person person, VisitId visit) {
        return maySee(app, person, visit.ticket())
                || new WhoWasAsked(app, person.id())
                        .isAmong(
                                app.records().of(visit.ticket()).stream()
                                        .map(Seal::open)
                                        .toList(),
                                visit.value());
    }

    static boolean isRequester(App app, Person person, TicketId ticket) {
        return app.tickets()
                .row(ticket)
                .filter(t -> person.id().value().equals(t.requester()))
                .isPresent();
    }
}
