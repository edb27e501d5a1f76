package dastur.server.api;

import dastur.core.people.PersonId;
import dastur.core.people.Right;
import dastur.core.ticket.TicketId;
import dastur.server.http.Problem;
import dastur.server.http.Request;
import dastur.server.http.Route;
import dastur.server.work.Onlookers;
import java.time.InstantSource;
import java.util.List;
import java.util.function.Predicate;
import java.util.stream.Stream;

/** Who else has a ticket before them (O9); among those who see all tickets. */
final class OnlookerRoutes {
    /** @param writes whether they are writing something on it */
    record OnlookerView(PersonId person, boolean writes) {}

    /** @param writes whether one is writing something on it @param leaves whether one has turned away */
    record LookBody(boolean writes, boolean leaves) {}

    record OnlookersView(List<OnlookerView> others) {}

    private final Onlookers onlookers = new Onlookers();
    private final Predicate<TicketId> isThere;
    private final InstantSource real;

    private OnlookerRoutes(Predicate<TicketId> isThere, InstantSource real) {
        this.isThere = isThere;
        this.real = real;
    }

    /** @param isThere whether there is such a ticket @param real the clock on the wall: people look in their own time */
    static Stream<Route> of(Predicate<TicketId> isThere, InstantSource real) {
        OnlookerRoutes r = new OnlookerRoutes(isThere, real);
        return Stream.of(Route.post(
                "/api/tickets/{number}/onlookers",
                Right.SEE,
                "Say that one looks at a ticket, and learn who else does",
                LookBody.class,
                OnlookersView.class,
                r::look));
    }

    private Object look(Request q) {
        TicketId ticket = q.path("number", TicketId::new);
        LookBody body = q.body(LookBody.class);
        PersonId person = q.person().id();
        if (body.leaves()) {
            onlookers.leaves(ticket, person);
            return new OnlookersView(List.of());
        }
        if (!isThere.test(ticket)) {
            throw Problem.notFound("There is no ticket " + ticket + ".").end();
        }
        return new OnlookersView(onlookers.looks(ticket, person, body.writes(), real.instant()).stream()
                .map(o -> new OnlookerView(o.person(), o.writes()))
                .toList());
    }
}
