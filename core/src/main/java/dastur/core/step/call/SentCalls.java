package dastur.core.step.call;

import dastur.core.expression.Outcome;
import dastur.core.people.Actor;
import dastur.core.run.CannotOpen;
import dastur.core.run.Event;
import dastur.core.run.Here;
import dastur.core.run.Refusal;
import dastur.core.run.Visit;
import dastur.core.run.VisitId;
import dastur.core.run.Waiting;
import dastur.core.step.call.CallCommands.SentBegan;
import dastur.core.step.call.CallCommands.SentEnded;
import dastur.core.step.call.CallCommands.SentRefused;
import dastur.core.step.call.CallEvents.SentRunBegan;
import dastur.core.step.call.CallEvents.SentRunEnded;
import dastur.core.ticket.LinkKind;
import dastur.core.ticket.TicketId;
import dastur.core.workflow.WorkflowVersion;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.TreeMap;

/**
 * Workflows that run on another ticket than the one that called them (D11). A decision changes one ticket: what concerns
 * the other goes out through the outbox, and comes back as a command.
 */
final class SentCalls {
    /** What a new ticket takes over from the one it is raised for. */
    private static final List<String> TAKEN_OVER = List.of("requester", "service", "ci");

    private final Here here;

    SentCalls(Here here) {
        this.here = here;
    }

    void send(VisitId visit, Call step, Elsewhere on, WorkflowVersion version, Map<String, Object> inputs) {
        Event sent =
                switch (on) {
                    case NewTicket n ->
                        new Event.WorkflowSent(
                                version.key(),
                                version.number(),
                                version.name(),
                                n.raises(),
                                null,
                                here.run().depth() + 1,
                                fields(step, n),
                                inputs);
                    case KnownTicket k ->
                        new Event.WorkflowSent(
                                version.key(),
                                version.number(),
                                version.name(),
                                null,
                                known(k),
                                here.run().depth() + 1,
                                null,
                                inputs);
                };
        here.emit(Actor.SYSTEM, step.id(), visit, sent);
    }

    private Map<String, Object> fields(Call step, NewTicket on) {
        Map<String, Object> fields = new TreeMap<>();
        TAKEN_OVER.forEach(name -> here.ticket().text(name).ifPresent(v -> fields.put(name, v)));
        fields.put("title", step.name());
        on.fields().forEach((name, expression) -> {
            switch (here.evaluate(expression)) {
                case Outcome.Value v -> fields.put(name, v.value());
                case Outcome.Absent a -> fields.remove(name);
                case Outcome.Failed f ->
                    throw new CannotOpen(
                            "cannot compute", "'" + name + "' of the new ticket cannot be computed: " + f.why());
            }
        });
        return fields;
    }

    private TicketId known(KnownTicket on) {
        Outcome outcome = here.evaluate(on.number());
        if (outcome instanceof Outcome.Value v && v.value() instanceof String number && number.matches("[A-Z]-\\d+")) {
            TicketId ticket = new TicketId(number);
            if (ticket.equals(here.ticket().id())) {
                throw new CannotOpen("same ticket", "'" + on.number() + "' is this ticket itself.");
            }
            return ticket;
        }
        throw new CannotOpen("no ticket", "'" + on.number() + "' gives no ticket's number.");
    }

    Optional<Refusal> began(SentBegan c) {
        Optional<Visit> visit = here.visit(c.visit());
        if (visit.isEmpty()) {
            // Withdrawn while it was on its way: nobody waits for that run any more.
            here.emit(
                    Actor.SYSTEM,
                    c.visit().run(),
                    c.visit(),
                    new Event.SentRunRecalled(c.run(), "the step that called it is over"));
        } else if (visit.get().waiting() instanceof Waiting.Sent) {
            here.emit(Actor.SYSTEM, visit.get(), new SentRunBegan(c.run()));
            here.link(c.run().ticket(), LinkKind.SENT_TO);
        }
        return Optional.empty();
    }

    Optional<Refusal> refused(SentRefused c) {
        here.visit(c.visit())
                .filter(v -> v.waiting() instanceof Waiting.Sent)
                .ifPresent(v -> here.stall(Actor.SYSTEM, v, "not taken", c.why()));
        return Optional.empty();
    }

    Optional<Refusal> ended(SentEnded c) {
        Optional<Visit> visit = here.visit(c.visit());
        boolean waits = visit.isPresent()
                && (visit.get().waiting() instanceof Waiting.Sent
                        || visit.get().waiting() instanceof Waiting.Called called
                                && called.run().equals(c.run())
                                && !called.ended());
        if (waits) {
            here.link(c.run().ticket(), LinkKind.SENT_TO);
            here.emit(
                    here.actor(),
                    visit.get(),
                    new SentRunEnded(
                            c.run(), c.result(), c.stopped(), c.results().isEmpty() ? null : c.results()));
        }
        return Optional.empty();
    }
}
