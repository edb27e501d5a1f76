package dastur.server.api;

import dastur.core.people.Right;
import dastur.core.run.Command;
import dastur.core.run.VisitId;
import dastur.core.step.approval.ApprovalCommands.AnswerBack;
import dastur.core.step.approval.ApprovalCommands.AskBack;
import dastur.core.step.task.TaskCommands.AskHelp;
import dastur.core.ticket.TicketId;
import dastur.server.api.Answers.Accepted;
import dastur.server.http.Problem;
import dastur.server.http.Request;
import dastur.server.http.Route;
import dastur.server.work.CommandService;
import java.util.stream.Stream;
import org.jspecify.annotations.Nullable;

/** Asking before deciding, asking for help, and looking at what came too late (N12, N40; D15). */
final class AskingRoutes {
    record TextBody(String text) {}

    /** @param group whom; or {@code person}, one of the two */
    record HelpBody(@Nullable String group, @Nullable String person, String text) {}

    record SeenBody(@Nullable String note) {}

    private final OnTickets on;
    private final Sight sight;
    private final CommandService commands;

    private AskingRoutes(OnTickets on, Sight sight, CommandService commands) {
        this.on = on;
        this.sight = sight;
        this.commands = commands;
    }

    static Stream<Route> of(OnTickets on, Sight sight, CommandService commands) {
        AskingRoutes r = new AskingRoutes(on, sight, commands);
        return Stream.of(
                Route.post(
                        "/api/approvals/{id}/question",
                        Right.SIGNED_IN,
                        "Ask before deciding",
                        TextBody.class,
                        Accepted.class,
                        r::askBack),
                Route.post(
                        "/api/approvals/{id}/answer",
                        Right.SIGNED_IN,
                        "Answer what an approver asked",
                        TextBody.class,
                        Accepted.class,
                        r::answer),
                Route.post(
                        "/api/tasks/{id}/help",
                        Right.SIGNED_IN,
                        "Ask others to help",
                        HelpBody.class,
                        Accepted.class,
                        r::help),
                Route.post(
                        "/api/late-results/{id}/seen",
                        Right.WORK,
                        "Say that somebody has looked at a late result",
                        SeenBody.class,
                        Accepted.class,
                        r::seen));
    }

    private Object askBack(Request q) {
        TextBody body = q.body(TextBody.class);
        return on.visit(q, visit -> new AskBack(visit, Request.needed(body.text(), "text")));
    }

    /** The requester answers, or anybody who works on tickets. */
    private Object answer(Request q) {
        TextBody body = q.body(TextBody.class);
        VisitId visit = q.path("id", VisitId::new);
        TicketId ticket = visit.ticket();
        if (!sight.mayAnswer(q.person(), visit)) {
            throw Problem.notFound("There is nothing called '" + visit + "'.").end();
        }
        return Answers.of(commands.handle(
                ticket, q.commandId(), q.actor(), new AnswerBack(visit, Request.needed(body.text(), "text"))));
    }

    private Object help(Request q) {
        HelpBody body = q.body(HelpBody.class);
        var to = TicketRoutes.assigned(body.group(), body.person());
        return on.visit(q, visit -> new AskHelp(visit, to, Request.needed(body.text(), "text")));
    }

    private Object seen(Request q) {
        SeenBody body = q.body(SeenBody.class);
        return on.visit(q, visit -> new Command.SettleLate(visit, body.note()));
    }
}
