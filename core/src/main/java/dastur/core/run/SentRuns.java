package dastur.core.run;

import dastur.core.json.Texts;
import dastur.core.people.Actor;
import dastur.core.ticket.LinkKind;
import dastur.core.ticket.TicketId;
import dastur.core.workflow.WorkflowVersion;
import java.util.Objects;
import java.util.Optional;
import org.jspecify.annotations.Nullable;

/**
 * Workflows that run on another ticket than the one that called them (D11). A decision changes one ticket: what concerns
 * the other goes out through the outbox, and comes back as a command.
 */
final class SentRuns {
    private final Deciding d;

    SentRuns(Deciding d) {
        this.d = d;
    }

    void link(TicketId other, LinkKind kind) {
        if (!d.now().links().contains(new Case.Link(other, kind))) {
            d.emit(Actor.SYSTEM, null, null, null, new Event.TicketLinked(other, kind, true));
        }
    }

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
