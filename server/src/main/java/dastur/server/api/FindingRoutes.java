package dastur.server.api;

import dastur.core.json.Texts;
import dastur.core.people.Right;
import dastur.core.run.Command;
import dastur.server.api.Answers.Accepted;
import dastur.server.auth.Secrets;
import dastur.server.http.Problem;
import dastur.server.http.Request;
import dastur.server.http.Route;
import dastur.server.work.CommandService;
import dastur.store.SavedViews;
import dastur.store.Tickets;
import dastur.store.Undelivered;
import java.util.List;
import java.util.stream.Stream;
import org.jspecify.annotations.Nullable;

/** Narrowing lists down, searches to come back to, further lists of the Desk, and what could not be delivered. */
final class FindingRoutes {
    private static final int MOST_VIEWS = 50;
    private static final List<String> PLACES = List.of("tickets", "desk");

    /** @param place {@code tickets} (also when absent) or {@code desk} */
    record ViewBody(
            String name,
            String query,
            boolean shared,
            @Nullable String place) {}

    /** @param waiting what others have to do for me. @param done what I did last */
    record FurtherView(List<Tickets.WorkItem> waiting, List<Tickets.WorkItem> done) {}

    private final CommandService commands;
    private final Tickets tickets;
    private final Undelivered undelivered;
    private final SavedViews views;

    private FindingRoutes(CommandService commands, Tickets tickets, Undelivered undelivered, SavedViews views) {
        this.commands = commands;
        this.tickets = tickets;
        this.undelivered = undelivered;
        this.views = views;
    }

    static Stream<Route> of(CommandService commands, Tickets tickets, Undelivered undelivered, SavedViews views) {
        FindingRoutes r = new FindingRoutes(commands, tickets, undelivered, views);
        return Stream.of(
                Route.list(
                        "/api/facets",
                        Right.SIGNED_IN,
                        "What the ticket list can be narrowed to",
                        Tickets.Facet.class,
                        q -> tickets.facets(TicketFilters.of(q)),
                        TicketFilters.NAMES),
                Route.get(
                        "/api/files/tickets",
                        Right.SIGNED_IN,
                        "A list of tickets as CSV (RFC 4180)",
                        String.class,
                        q -> TicketCsv.of(tickets, q),
                        TicketFilters.NAMES),
                Route.list(
                        "/api/views",
                        Right.SIGNED_IN,
                        "My saved views",
                        SavedViews.View.class,
                        q -> views.of(q.person().id())),
                Route.post("/api/views", Right.SIGNED_IN, "Save a view", ViewBody.class, SavedViews.View.class, r::save)
                        .created(),
                Route.delete("/api/views/{id}", Right.SIGNED_IN, "Delete a saved view", r::delete),
                Route.get(
                        "/api/desk/further",
                        Right.SIGNED_IN,
                        "Waiting for others, done by me",
                        FurtherView.class,
                        q -> {
                            String me = q.person().id().value();
                            return new FurtherView(tickets.waitingFor(me), tickets.doneBy(me));
                        }),
                Route.list(
                        "/api/undelivered",
                        Right.SEE,
                        "Messages that could not be delivered",
                        Undelivered.Message.class,
                        q -> undelivered.all()),
                Route.post(
                        "/api/undelivered/{id}/retry",
                        Right.WORK,
                        "Send a message again",
                        null,
                        Accepted.class,
                        r::retry));
    }

    private Object save(Request q) {
        ViewBody body = q.body(ViewBody.class);
        if (Texts.blank(body.name()) || body.name().length() > 100 || !Texts.keepable(body.name())) {
            throw Problem.invalid("name", "A view's name has 1 to 100 characters.")
                    .end();
        }
        String query = Request.needed(body.query(), "query");
        if (query.length() > 1000 || !query.matches("[A-Za-z0-9=&%+._~*-]*")) {
            throw Problem.invalid("query", "The search of a view is a query such as open=true&kind=incident.")
                    .end();
        }
        long own = views.of(q.person().id()).stream()
                .filter(v -> v.person().equals(q.person().id()))
                .count();
        if (own >= MOST_VIEWS) {
            throw Problem.invalid("name", "You have 50 views already. Delete one first.")
                    .end();
        }
        SavedViews.View view = new SavedViews.View(
                "v-" + Secrets.hashToken(Secrets.newToken()).substring(0, 12),
                q.person().id(),
                place(body.place()),
                body.name().strip(),
                query,
                body.shared() && Right.SEE.of(q.person()));
        views.put(view);
        return view;
    }

    private static String place(@Nullable String given) {
        if (given != null && !PLACES.contains(given)) {
            throw Problem.invalid("place", "A view is of: " + String.join(", ", PLACES) + ".")
                    .end();
        }
        return given == null ? PLACES.getFirst() : given;
    }

    private Object delete(Request q) {
        if (!views.delete(q.context().pathParam("id"), q.person().id())) {
            throw Problem.notFound("You have no such view.").end();
        }
        return null;
    }

    private Object retry(Request q) {
        String id = q.context().pathParam("id");
        Undelivered.Message message = undelivered.find(id).orElseThrow(() -> Problem.conflict(
                        "It is on its way again already, or was never given up.")
                .end());
        return Answers.of(commands.handle(
                message.ticket(), q.commandId(), q.actor(), new Command.Resend(message.message(), message.person())));
    }
}
