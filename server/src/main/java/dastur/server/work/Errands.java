package dastur.server.work;

import dastur.core.people.Actor;
import dastur.core.run.Command;
import dastur.core.run.Event;
import dastur.core.run.Refusal;
import dastur.core.run.RunId;
import dastur.core.run.VisitId;
import dastur.core.step.call.CallCommands.SentBegan;
import dastur.core.step.call.CallCommands.SentEnded;
import dastur.core.step.call.CallCommands.SentRefused;
import dastur.core.ticket.TicketId;
import dastur.server.work.CommandService.Outcome;
import dastur.store.Errand;
import dastur.store.Outbox;
import dastur.store.Tickets;
import java.util.Map;
import java.util.Objects;

/**
 * Carries what one ticket has to tell another (D11): each errand becomes a command on the other ticket, under an id of
 * its own, so that one carried twice changes nothing.
 */
final class Errands {
    private final CommandService commands;
    private final Tickets tickets;

    Errands(CommandService commands, Tickets tickets) {
        this.commands = commands;
        this.tickets = tickets;
    }

    void carry(Outbox.Taken taken) {
        switch (taken.errand()) {
            case Errand.Send send -> send(taken, send);
            case Errand.Answer a ->
                told(
                        taken,
                        a.to().ticket(),
                        Actor.SYSTEM,
                        new SentEnded(a.to(), a.run(), a.result(), a.stopped(), a.results()));
            case Errand.Recall r ->
                told(taken, r.run().ticket(), Actor.SYSTEM, new Command.RecallSent(r.run(), r.why()));
            case Errand.Link l ->
                told(
                        taken,
                        l.other(),
                        l.by(),
                        l.made()
                                ? new Command.LinkTicket(taken.ticket(), l.as().back(), true)
                                : new Command.UnlinkTicket(taken.ticket(), l.as().back(), true));
        }
    }

    private Outcome told(Outbox.Taken taken, TicketId other, Actor by, Command command) {
        return commands.handle(other, "errand." + taken.id(), by, command);
    }

    private void send(Outbox.Taken taken, Errand.Send errand) {
        Event.WorkflowSent sent = errand.sent();
        Outcome ticket = sent.raises() == null ? there(sent.ticket()) : raised(errand);
        Outcome begun =
                switch (ticket) {
                    case Outcome.Refused r -> r;
                    case Outcome.Done d ->
                        told(
                                taken,
                                new TicketId(d.ticket()),
                                Actor.SYSTEM,
                                new Command.StartSent(
                                        sent.workflow(),
                                        sent.version(),
                                        errand.from(),
                                        sent.depth(),
                                        sent.inputs() == null ? Map.of() : sent.inputs()));
                };
        switch (begun) {
            case Outcome.Refused r ->
                tell(
                        errand.from(),
                        taken,
                        new SentRefused(errand.from(), r.refusal().message()));
            case Outcome.Done d -> began(taken, errand.from());
        }
    }

    private Outcome raised(Errand.Send errand) {
        Event.WorkflowSent sent = errand.sent();
        return commands.raise(
                Objects.requireNonNull(sent.raises()),
                "sent." + errand.from(),
                Actor.SYSTEM,
                new Command.RaiseTicket(
                        Objects.requireNonNull(sent.raises()),
                        sent.fields() == null ? Map.of() : sent.fields(),
                        "Asked for by a workflow of " + errand.from().ticket() + "."));
    }

    private Outcome there(@org.jspecify.annotations.Nullable TicketId ticket) {
        TicketId other = Objects.requireNonNull(ticket);
        return tickets.row(other).isPresent()
                ? new Outcome.Done(other.value(), 0)
                : new Outcome.Refused(new Refusal(Refusal.Code.NOT_FOUND, "There is no ticket " + other + ".", null));
    }

    /** A run that has ended meanwhile has sent its answer; that it began says nothing new then. */
    private void began(Outbox.Taken taken, VisitId from) {
        RunId run = tickets.calledBy(from).orElseThrow(() -> new IllegalStateException("no run called by " + from));
        boolean open = tickets.find(run.ticket())
                .filter(c -> c.open().containsKey(run))
                .isPresent();
        if (open) {
            tell(from, taken, new SentBegan(from, run));
        }
    }

    private void tell(VisitId from, Outbox.Taken taken, Command command) {
        commands.handle(from.ticket(), "errand-told." + taken.id(), Actor.SYSTEM, command);
    }
}
