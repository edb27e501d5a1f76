package dastur.server.api;

import dastur.core.people.Right;
import dastur.core.run.VisitId;
import dastur.core.ticket.TicketId;
import dastur.server.http.Problem;
import dastur.server.http.Request;
import dastur.server.http.Route;
import dastur.store.CallsMade;
import java.util.List;
import java.util.stream.Stream;

/** What the calls of a ticket's steps say while they go on (M7). */
final class CallRoutes {
    /** @param text from the part that was asked for on @param next the part to ask for then */
    record SaidSoFar(String text, int next) {
        static SaidSoFar of(CallsMade made, String call, int from) {
            List<CallsMade.Part> parts = made.said(call, from);
            StringBuilder text = new StringBuilder();
            parts.forEach(p -> text.append(p.text()));
            return new SaidSoFar(text.toString(), from + parts.size());
        }
    }

    private final OnTickets on;
    private final CallsMade made;

    private CallRoutes(OnTickets on, CallsMade made) {
        this.on = on;
        this.made = made;
    }

    static Stream<Route> of(OnTickets on, CallsMade made) {
        return Stream.of(Route.get(
                "/api/tickets/{number}/calls/{visit}/{attempt}",
                Right.SEE,
                "What a call said so far, from a part on",
                SaidSoFar.class,
                new CallRoutes(on, made)::said,
                "from"));
    }

    /** The number of a part to go on from. */
    static int from(Request q) {
        String from = q.query("from").orElse("0");
        if (!from.matches("\\d{1,6}")) {
            throw Problem.malformed("from", "'from' is the number of a part, from 0.")
                    .end();
        }
        return Integer.parseInt(from);
    }

    private Object said(Request q) {
        TicketId ticket = on.visible(q);
        VisitId visit = q.path("visit", VisitId::new);
        String attempt = q.context().pathParam("attempt");
        if (!visit.ticket().equals(ticket) || !attempt.matches("[1-9]\\d{0,4}")) {
            throw Problem.notFound("There is no such call.").end();
        }
        return SaidSoFar.of(made, visit + "." + attempt, from(q));
    }
}
