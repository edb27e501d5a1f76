package dastur.server.api;

import dastur.core.people.Right;
import dastur.core.run.Command;
import dastur.core.ticket.TicketId;
import dastur.core.workflow.Trigger;
import dastur.core.workflow.TriggerId;
import dastur.server.http.Problem;
import dastur.server.http.Request;
import dastur.server.http.Route;
import dastur.server.work.CommandService;
import dastur.server.work.CommandService.Outcome;
import dastur.store.Tickets;
import dastur.store.Workflows;
import java.time.Instant;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.stream.Stream;
import org.jspecify.annotations.Nullable;

/**
 * Starts that are held back, since their trigger has started so much of late (I27): together, so that a storm puts one thing before
 * people and not a thousand.
 */
final class HeldStartRoutes {
    /** So many are shown, and answered, at a time. */
    private static final int MOST = 100;

    /**
     * What a trigger holds back.
     *
     * @param since when the oldest would have started
     */
    record HeldLine(Trigger.Live live, long count, Instant since) {}

    /** @param tickets those that were seen; whatever is held back on others stays so */
    record AnswerBody(
            Boolean start, List<String> tickets, @Nullable String reason) {}

    /** What became of one. @param problem why it was left as it was; null when it was done */
    record Answered(String ticket, @Nullable String problem) {}

    record AnsweredView(List<Answered> answered) {}

    private final Tickets tickets;
    private final Workflows workflows;
    private final CommandService commands;

    private HeldStartRoutes(Tickets tickets, Workflows workflows, CommandService commands) {
        this.tickets = tickets;
        this.workflows = workflows;
        this.commands = commands;
    }

    static Stream<Route> of(Tickets tickets, Workflows workflows, CommandService commands) {
        HeldStartRoutes r = new HeldStartRoutes(tickets, workflows, commands);
        return Stream.of(
                Route.list(
                        "/api/held-starts",
                        Right.WORK,
                        "Triggers that hold starts back, since they have started so much of late",
                        HeldLine.class,
                        q -> r.lines()),
                Route.list(
                        "/api/held-starts/{trigger}",
                        Right.WORK,
                        "On which tickets a trigger holds starts back, the oldest first, at most 100",
                        Tickets.HeldStart.class,
                        q -> tickets.heldStarts(q.path("trigger", TriggerId::new), MOST)),
                Route.post(
                        "/api/held-starts/{trigger}",
                        Right.WORK,
                        "Start what a trigger holds back on several tickets, or let it be",
                        AnswerBody.class,
                        AnsweredView.class,
                        r::answer));
    }

    private List<HeldLine> lines() {
        List<Trigger.Live> live = workflows.liveTriggers();
        List<HeldLine> lines = new ArrayList<>();
        for (Tickets.HeldStarts held : tickets.heldStarts()) {
            live.stream()
                    .filter(t -> t.trigger().id().equals(held.trigger()))
                    .findFirst()
                    .ifPresent(t -> lines.add(new HeldLine(t, held.count(), held.since())));
        }
        return lines;
    }

    /** Each is a command of its own; what one refuses hurts none of the others. */
    private Object answer(Request q) {
        AnswerBody body = q.body(AnswerBody.class);
        TriggerId trigger = q.path("trigger", TriggerId::new);
        boolean start = Request.needed(body.start(), "start");
        List<String> named =
                Request.needed(body.tickets(), "tickets").stream().distinct().toList();
        if (named.isEmpty() || named.size() > MOST) {
            throw Problem.invalid("tickets", "Name 1 to " + MOST + " tickets.").end();
        }
        List<Answered> answered = new ArrayList<>();
        for (String number : named) {
            TicketId ticket = TicketRoutes.id("tickets", number, TicketId::new);
            Outcome outcome = commands.handle(
                    ticket,
                    q.commandId() + "." + ticket,
                    q.actor(),
                    new Command.AnswerOffer(trigger, start, Map.of(), body.reason()));
            answered.add(new Answered(
                    number, outcome instanceof Outcome.Refused r ? r.refusal().message() : null));
        }
        return new AnsweredView(answered);
    }
}
