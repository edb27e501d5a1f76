package dastur.server.api;

import dastur.core.people.Right;
import dastur.core.run.Command;
import dastur.core.ticket.TicketId;
import dastur.server.http.Problem;
import dastur.server.http.Request;
import dastur.server.http.Route;
import dastur.server.work.CommandService;
import dastur.server.work.CommandService.Outcome;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.stream.Stream;
import org.jspecify.annotations.Nullable;

/**
 * Doing one thing to several tickets, where that is safe: giving them to somebody, and writing a note. Each is a command
 * and a transaction of its own; what one refuses hurts none of the others.
 */
final class BulkRoutes {
    /** What may be set for many at once. Outcomes, decisions and ends are given one by one. */
    private static final Set<String> SAFE = Set.of("group", "assignee", "service", "category");

    private static final int MOST = 100;

    /** @param fields values by field; null clears @param note for all of them; null for none */
    record BulkBody(
            List<String> tickets,
            @Nullable Map<String, @Nullable Object> fields,
            @Nullable String note,
            @Nullable String reason) {}

    /** What became of one. @param problem why it was left as it was; null when it was done */
    record Done(String ticket, @Nullable String problem) {}

    private final CommandService commands;

    private BulkRoutes(CommandService commands) {
        this.commands = commands;
    }

    static Stream<Route> of(CommandService commands) {
        BulkRoutes r = new BulkRoutes(commands);
        return Stream.of(Route.post(
                "/api/bulk",
                Right.WORK,
                "Give several tickets to somebody, or write a note on them",
                BulkBody.class,
                BulkView.class,
                r::bulk));
    }

    record BulkView(List<Done> done) {}

    private Object bulk(Request q) {
        BulkBody body = q.body(BulkBody.class);
        List<String> tickets =
                Request.needed(body.tickets(), "tickets").stream().distinct().toList();
        if (tickets.isEmpty() || tickets.size() > MOST) {
            throw Problem.invalid("tickets", "Name 1 to " + MOST + " tickets.").end();
        }
        Map<String, @Nullable Object> fields = body.fields() == null ? Map.of() : body.fields();
        fields.keySet().stream().filter(f -> !SAFE.contains(f)).findFirst().ifPresent(f -> {
            throw Problem.invalid(
                            "fields." + dastur.core.json.Texts.clip(f, 40),
                            "Only " + String.join(", ", SAFE.stream().sorted().toList())
                                    + " are set for several tickets at once.")
                    .end();
        });
        boolean notes = body.note() != null && !body.note().isBlank();
        if (fields.isEmpty() && !notes) {
            throw Problem.invalid("fields", "Say what is to be done: a field or a note.")
                    .end();
        }
        List<Done> done = new ArrayList<>();
        for (String number : tickets) {
            TicketId ticket = TicketRoutes.id("tickets", number, TicketId::new);
            @Nullable String problem = fields.isEmpty()
                    ? null
                    : handle(q, ticket, "fields", new Command.EditTicket(fields, body.reason()));
            if (problem == null && notes) {
                problem = handle(q, ticket, "note", new Command.AddNote(Request.needed(body.note(), "note"), false));
            }
            done.add(new Done(number, problem));
        }
        return new BulkView(done);
    }

    private @Nullable String handle(Request q, TicketId ticket, String what, Command command) {
        Outcome outcome = commands.handle(ticket, q.commandId() + "." + what + "." + ticket, q.actor(), command);
        return outcome instanceof Outcome.Refused r ? r.refusal().message() : null;
    }
}
