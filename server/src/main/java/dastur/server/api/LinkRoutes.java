package dastur.server.api;

import dastur.core.people.Right;
import dastur.core.run.Command;
import dastur.core.ticket.LinkKind;
import dastur.core.ticket.TicketId;
import dastur.server.api.Answers.Accepted;
import dastur.server.http.Problem;
import dastur.server.http.Request;
import dastur.server.http.Route;
import dastur.server.work.CommandService;
import dastur.store.Tickets;
import java.util.stream.Stream;

/** Links between tickets (N1). */
final class LinkRoutes {
    record LinkBody(LinkKind as, String other) {}

    private final CommandService commands;
    private final Tickets tickets;
    private final Sight sight;

    private LinkRoutes(CommandService commands, Tickets tickets, Sight sight) {
        this.commands = commands;
        this.tickets = tickets;
        this.sight = sight;
    }

    static Stream<Route> of(CommandService commands, Tickets tickets, Sight sight) {
        LinkRoutes r = new LinkRoutes(commands, tickets, sight);
        return Stream.of(
                Route.post(
                        "/api/tickets/{number}/links",
                        Right.WORK,
                        "Link a ticket with another",
                        LinkBody.class,
                        Accepted.class,
                        r::link),
                Route.post(
                        "/api/tickets/{number}/links/removal",
                        Right.WORK,
                        "Take a link away",
                        LinkBody.class,
                        Accepted.class,
                        r::unlink),
                Route.post(
                        "/api/tickets/{number}/by-itself",
                        Right.WORK,
                        "Take a ticket out from under the one it is folded under",
                        null,
                        Accepted.class,
                        q -> r.handle(q, new Command.StandByItself())));
    }

    private Object link(Request q) {
        LinkBody body = q.body(LinkBody.class);
        TicketId other = other(body);
        if (tickets.row(other).isEmpty()) {
            throw Problem.invalid("other", "There is no ticket " + other + ".").end();
        }
        return handle(q, new Command.LinkTicket(other, Request.needed(body.as(), "as"), false));
    }

    private Object unlink(Request q) {
        LinkBody body = q.body(LinkBody.class);
        return handle(q, new Command.UnlinkTicket(other(body), Request.needed(body.as(), "as"), false));
    }

    private static TicketId other(LinkBody body) {
        return TicketRoutes.id("other", body.other(), text -> new TicketId(text.strip()));
    }

    private Object handle(Request q, Command command) {
        TicketId ticket = q.path("number", TicketId::new);
        sight.mustSee(q.person(), ticket);
        return Answers.of(commands.handle(ticket, q.commandId(), q.actor(), command));
    }
}
