package dastur.server.api;

import dastur.core.run.Case;
import dastur.core.run.Command;
import dastur.core.run.VisitId;
import dastur.core.ticket.TicketId;
import dastur.core.ticket.TicketKind;
import dastur.server.http.Problem;
import dastur.server.http.Request;
import dastur.server.work.CommandService;
import dastur.store.Records;
import dastur.store.Tickets;
import java.util.function.Function;

/** What routes do on tickets: find the one that is meant, if its asker may know of it, and give it a command. */
final class OnTickets {
    private final CommandService commands;
    private final Tickets tickets;
    private final Records records;
    private final Sight sight;
    private final Covering covering;

    OnTickets(CommandService commands, Tickets tickets, Records records, Sight sight, Covering covering) {
        this.commands = commands;
        this.tickets = tickets;
        this.records = records;
        this.sight = sight;
        this.covering = covering;
    }

    /** The ticket of the path's {@code number}. */
    TicketId visible(Request q) {
        TicketId ticket = q.path("number", TicketId::new);
        sight.mustSee(q.person(), ticket);
        return ticket;
    }

    Case found(Request q) {
        TicketId ticket = visible(q);
        return tickets.find(ticket).orElseThrow(() -> missing(ticket).end());
    }

    /** One that the log knows was there: somebody deleted it past the application (K11). */
    private Problem missing(TicketId ticket) {
        return records.deleted(ticket)
                ? Problem.gone(
                        "The log knows " + ticket
                                + ", but the database does not: it was deleted past the application. Tell those who run Dastur.")
                : Problem.notFound("There is no ticket " + ticket + ".");
    }

    Object raise(Request q, TicketKind kind, Command.RaiseTicket command) {
        return Answers.of(commands.raise(kind, q.commandId(), q.actor(), command));
    }

    Answers.Accepted ticket(Request q, TicketId ticket, Command command) {
        return Answers.of(commands.handle(ticket, q.commandId(), q.actor(), command));
    }

    /** Whom a task or approval is offered to is decided by the engine; to others it is not told that there is one. */
    Object visit(Request q, Function<VisitId, Command> command) {
        VisitId visit = q.path("id", VisitId::new);
        if (!sight.mayAnswer(q.person(), visit)) {
            throw Problem.notFound("There is nothing called '" + visit + "'.").end();
        }
        return Answers.of(
                commands.handle(visit.ticket(), q.commandId(), covering.actor(q, visit), command.apply(visit)));
    }
}
