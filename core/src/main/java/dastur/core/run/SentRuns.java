package dastur.core.run;

import dastur.core.expression.Outcome;
import dastur.core.json.Texts;
import dastur.core.people.Actor;
import dastur.core.run.Opening.CannotOpen;
import dastur.core.ticket.LinkKind;
import dastur.core.ticket.TicketId;
import dastur.core.workflow.Step;
import dastur.core.workflow.WorkflowVersion;
import java.util.List;
import java.util.Map;
import java.util.Objects;
import java.util.Optional;
import java.util.TreeMap;
import org.jspecify.annotations.Nullable;

/**
 * Workflows that run on another ticket than the one that called them (D11). A decision changes one ticket: what concerns
 * the other goes out through the outbox, and comes back as a command.
 */
final class SentRuns {
    /** What a new ticket takes over from the one it is raised for. */
    private static final List<String> TAKEN_OVER = List.of("requester", "service", "ci");

    private final Deciding d;

    SentRuns(Deciding d) {
        this.d = d;
    }

    // --- at the caller

    void send(
            Site site,
            VisitId visit,
            Step.Call step,
            Step.Elsewhere on,
            WorkflowVersion version,
            Map<String, Object> inputs) {
        Event sent =
                switch (on) {
                    case Step.NewTicket n ->
                        new Event.WorkflowSent(
                                version.key(),
                                version.number(),
                                version.name(),
                                n.raises(),
                                null,
                                site.run().depth() + 1,
                                fields(site, step, n),
                                inputs);
                    case Step.KnownTicket k ->
                        new Event.WorkflowSent(
                                version.key(),
                                version.number(),
                                version.name(),
                                null,
                                known(site, k),
                                site.run().depth() + 1,
                                null,
                                inputs);
                };
        d.emit(Actor.SYSTEM, site.id(), step.id(), visit, sent);
    }

    private Map<String, Object> fields(Site site, Step.Call step, Step.NewTicket on) {
        Map<String, Object> fields = new TreeMap<>();
        TAKEN_OVER.forEach(name -> d.now().text(name).ifPresent(v -> fields.put(name, v)));
        fields.put("title", step.name());
        on.fields().forEach((name, expression) -> {
            switch (Opening.evaluate(d, site, expression)) {
                case Outcome.Value v -> fields.put(name, v.value());
                case Outcome.Absent a -> fields.remove(name);
                case Outcome.Failed f ->
                    throw new CannotOpen(
                            "cannot compute", "'" + name + "' of the new ticket cannot be computed: " + f.why());
            }
        });
        return fields;
    }

    private TicketId known(Site site, Step.KnownTicket on) {
        Outcome outcome = Opening.evaluate(d, site, on.number());
        if (outcome instanceof Outcome.Value v && v.value() instanceof String number && number.matches("[A-Z]-\\d+")) {
            TicketId ticket = new TicketId(number);
            if (ticket.equals(d.now().id())) {
                throw new CannotOpen("same ticket", "'" + on.number() + "' is this ticket itself.");
            }
            return ticket;
        }
        throw new CannotOpen("no ticket", "'" + on.number() + "' gives no ticket's number.");
    }

    Optional<Refusal> began(Command.SentBegan c) {
        Optional<Visit> visit = d.now().visit(c.visit());
        if (visit.isEmpty()) {
            // Withdrawn while it was on its way: nobody waits for that run any more.
            d.emit(
                    Actor.SYSTEM,
                    c.visit().run(),
                    null,
                    c.visit(),
                    new Event.SentRunRecalled(c.run(), "the step that called it is over"));
        } else if (visit.get().waiting() instanceof Waiting.Sent) {
            d.emit(Actor.SYSTEM, visit.get(), new Event.SentRunBegan(c.run()));
            link(c.run().ticket(), LinkKind.SENT_TO);
        }
        return Optional.empty();
    }

    Optional<Refusal> refused(Command.SentRefused c) {
        d.now()
                .visit(c.visit())
                .filter(v -> v.waiting() instanceof Waiting.Sent)
                .ifPresent(v -> d.emit(Actor.SYSTEM, v, new Event.Stalled("not taken", c.why())));
        return Optional.empty();
    }

    Optional<Refusal> ended(Command.SentEnded c) {
        Optional<Visit> visit = d.now().visit(c.visit());
        boolean waits = visit.isPresent()
                && (visit.get().waiting() instanceof Waiting.Sent
                        || visit.get().waiting() instanceof Waiting.Called called
                                && called.run().equals(c.run())
                                && !called.ended());
        if (waits) {
            link(c.run().ticket(), LinkKind.SENT_TO);
            d.emit(
                    d.actor,
                    visit.get(),
                    new Event.SentRunEnded(
                            c.run(), c.result(), c.stopped(), c.results().isEmpty() ? null : c.results()));
        }
        return Optional.empty();
    }

    private void link(TicketId other, LinkKind kind) {
        if (!d.now().links().contains(new Case.Link(other, kind))) {
            d.emit(Actor.SYSTEM, null, null, null, new Event.TicketLinked(other, kind, true));
        }
    }

    // --- at the other ticket

    Optional<Refusal> start(Command.StartSent c) {
        boolean begun = d.now().open().values().stream().anyMatch(r -> c.from().equals(r.parent()));
        if (begun) {
            return Optional.empty();
        }
        Optional<WorkflowVersion> version = d.lookups().version(c.workflow(), c.version());
        if (version.isEmpty()) {
            return Optional.of(new Refusal(
                    Refusal.Code.NOT_FOUND,
                    "There is no version " + c.version() + " of '" + c.workflow() + "'.",
                    null));
        }
        if (dastur.core.ticket.TicketKind.ended(d.now().state())) {
            return Optional.of(Refusal.invalid(
                    "ticket", d.now().id() + " has ended: it is " + d.now().state() + "."));
        }
        if (version.get().kind() != null && version.get().kind() != d.now().kind()) {
            return Optional.of(Refusal.invalid(
                    "ticket",
                    "'" + version.get().name() + "' is for tickets of kind "
                            + version.get().kind().word() + ", and " + d.now().id() + " is of kind "
                            + Objects.requireNonNull(d.now().kind()).word() + "."));
        }
        link(c.from().ticket(), LinkKind.SENT_FROM);
        new Starting(d).start(version.get(), null, c.depth(), c.from(), c.inputs(), Actor.SYSTEM);
        return Optional.empty();
    }

    Optional<Refusal> recalled(Command.RecallSent c) {
        @Nullable Run run = d.now().open().get(c.run());
        if (run != null) {
            String why = Texts.clip(c.why(), 300);
            run.open().values().forEach(v -> d.withdraw(Actor.SYSTEM, v, why));
            Run left = d.run(run.id());
            new RunEnds(d).stopped(Actor.SYSTEM, left, left.offForNow());
        }
        return Optional.empty();
    }
}
