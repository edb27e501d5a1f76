package dastur.server.api;

import dastur.core.people.Right;
import dastur.core.run.Case;
import dastur.core.run.Run;
import dastur.core.run.Visit;
import dastur.core.run.VisitId;
import dastur.core.step.calling.CallUnderWay;
import dastur.core.ticket.TicketId;
import dastur.core.workflow.ActionKey;
import dastur.core.workflow.Connection;
import dastur.core.workflow.Step;
import dastur.server.http.Problem;
import dastur.server.http.Request;
import dastur.server.http.Route;
import dastur.server.work.Breakers;
import dastur.store.CallsMade;
import dastur.store.Workflows;
import java.time.Instant;
import java.util.ArrayList;
import java.util.List;
import java.util.OptionalLong;
import java.util.stream.Stream;
import org.jspecify.annotations.Nullable;

/** What the calls of a ticket's steps say while they go on (M7). */
final class CallRoutes {
    /** @param text from the part that was asked for on, or the last of it where that is much @param next the part to ask for then */
    record SaidSoFar(String text, int next) {
        /** Whoever looks each second sees a megabyte a second. */
        private static final int MOST_PARTS = 16;

        static SaidSoFar of(CallsMade made, String call, int from) {
            List<CallsMade.Part> parts = made.last(call, from, MOST_PARTS);
            StringBuilder text = new StringBuilder();
            if (!parts.isEmpty() && parts.getFirst().number() > from) {
                text.append("… earlier lines are not shown here …\n");
            }
            parts.forEach(p -> text.append(p.text()));
            return new SaidSoFar(
                    text.toString(), parts.isEmpty() ? from : parts.getLast().number() + 1);
        }
    }

    /**
     * A call that is under way.
     *
     * @param step the step's name
     * @param usually how long such a call took of late, in milliseconds; null where none was answered
     * @param over the connection's name, and since when calls over it wait; null where they do not
     */
    record CallLine(
            VisitId visit,
            int attempt,
            String step,
            ActionKey action,
            Instant since,
            @Nullable Long usually,
            @Nullable Waits over) {}

    /** Calls over a connection wait. */
    record Waits(String connection, Breakers.Held held) {}

    private final OnTickets on;
    private final CallsMade made;
    private final Workflows workflows;
    private final Breakers breakers;

    private CallRoutes(OnTickets on, CallsMade made, Workflows workflows, Breakers breakers) {
        this.on = on;
        this.made = made;
        this.workflows = workflows;
        this.breakers = breakers;
    }

    static Stream<Route> of(OnTickets on, CallsMade made, Workflows workflows, Breakers breakers) {
        CallRoutes r = new CallRoutes(on, made, workflows, breakers);
        return Stream.of(
                Route.list(
                        "/api/tickets/{number}/calls",
                        Right.SEE,
                        "The calls of a ticket's steps that are under way",
                        CallLine.class,
                        r::underWay),
                Route.get(
                        "/api/tickets/{number}/calls/{visit}/{attempt}",
                        Right.SEE,
                        "What a call said so far, from a part on",
                        SaidSoFar.class,
                        r::said,
                        "from"));
    }

    private Object underWay(Request q) {
        Case c = on.found(q);
        List<CallLine> lines = new ArrayList<>();
        c.open().values().forEach(run -> run.open().values().forEach(visit -> {
            if (visit.waiting() instanceof CallUnderWay call
                    && call.toCall(visit.id()).isPresent()) {
                lines.add(line(run, visit, call));
            }
        }));
        return lines;
    }

    private CallLine line(Run run, Visit visit, CallUnderWay call) {
        OptionalLong usually = made.usually(call.action());
        return new CallLine(
                visit.id(),
                call.attempt(),
                workflows
                        .version(run.workflow(), run.version())
                        .flatMap(v -> v.find(visit.step()))
                        .map(Step::name)
                        .orElse(visit.step().value()),
                call.action(),
                call.startedAt(),
                usually.isPresent() ? usually.getAsLong() : null,
                waits(call));
    }

    private @Nullable Waits waits(CallUnderWay call) {
        String over = call.call() == null ? "" : call.call().connection();
        Breakers.Held held = breakers.held().get(over);
        return held == null
                ? null
                : new Waits(workflows.connection(over).map(Connection::name).orElse(over), held);
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
