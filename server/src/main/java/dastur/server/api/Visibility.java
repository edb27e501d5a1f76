package dastur.server.api;

import dastur.core.people.Person;
import dastur.core.ticket.TicketId;
import dastur.server.App;
import dastur.server.auth.Right;

/** Who may know of a ticket: those who may see all, and its requester. */
public final class Visibility {
    private Visibility() {}

    public static boolean maySee(App app, Person person, TicketId ticket) {
        if (Right.SEE.of(person)) {
            return true;
        }
        return app.tickets()
                .row(ticket)
                .filter(t -> person.id().value().equals(t.requester()))
                .isPresent();
    }
}
