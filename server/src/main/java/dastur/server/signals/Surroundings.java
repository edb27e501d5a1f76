package dastur.server.signals;

import dastur.core.expression.Expressions;
import dastur.core.expression.Scope;
import dastur.core.run.Case;
import dastur.core.run.Target;
import dastur.core.signal.Aside;
import dastur.core.signal.Matter;
import dastur.core.signal.Signal;
import dastur.core.signal.Source;
import dastur.core.signal.Turn;
import dastur.core.start.Around;
import dastur.core.start.Dependence;
import dastur.core.start.Routing;
import dastur.core.ticket.Promised;
import dastur.core.ticket.TicketId;
import dastur.core.ticket.TicketKind;
import dastur.core.workflow.Trigger;
import dastur.store.Matters;
import dastur.store.Neighbours;
import dastur.store.Organisation;
import dastur.store.Tickets;
import java.time.Instant;
import java.util.List;
import java.util.Optional;
import org.jspecify.annotations.Nullable;

/** Reads what routing is to know besides the signal: what its conditions read, and what goes on around it. */
final class Surroundings {
    private final Understanding understanding;
    private final Organisation organisation;
    private final Matters matters;
    private final Neighbours neighbours;
    private final Tickets tickets;

    Surroundings(
            Understanding understanding,
            Organisation organisation,
            Matters matters,
            Neighbours neighbours,
            Tickets tickets) {
        this.understanding = understanding;
        this.organisation = organisation;
        this.matters = matters;
        this.neighbours = neighbours;
        this.tickets = tickets;
    }

    /** A matter as it stands, with the ticket that is about it: what was about a ticket that is over is over, too. */
    record Standing(Matter matter, Routing.@Nullable Stands ticket) {}

    Standing standing(Matter read) {
        TicketId ticket = read.ticket();
        Optional<Case> on =
                ticket == null ? Optional.empty() : tickets.find(ticket).filter(c -> c.kind() != null);
        if (on.isEmpty()) {
            return new Standing(read, null);
        }
        Case c = on.get();
        Matter now = read.isClear() || read.aside() != null
                ? read
                : overSince(c).map(read::ended).orElse(read);
        return new Standing(now, new Routing.Stands(c.id(), c.kind(), c.state()));
    }

    /** Since when a ticket is restored or has ended: what is said to be so again after that begins anew. */
    static Optional<Instant> overSince(Case c) {
        if (TicketKind.ended(c.state())) {
            return Optional.ofNullable(c.lastAt());
        }
        boolean solved = c.kind() != null && c.state().equals(c.kind().solvedState());
        if (!solved) {
            return Optional.empty();
        }
        Target restore = c.targets().get(Promised.RESTORE);
        return Optional.ofNullable(restore == null || restore.metAt() == null ? c.lastAt() : restore.metAt());
    }

    Routing.Facts facts(
            Source source,
            Signal signal,
            @Nullable Matter before,
            Matter.@Nullable Turned turned,
            Routing.@Nullable Stands ticket,
            @Nullable String again,
            List<Trigger.Live> triggers,
            Instant now) {
        return new Routing.Facts(
                source,
                before,
                turned,
                ticket,
                before == null || before.aside() == null
                        ? null
                        : stands(before.aside().under()),
                mayBeExplained(turned) ? around(signal) : Around.NOTHING,
                again,
                triggers,
                // Its own values alone: another source may call something else by the same name.
                expressions(source),
                scope(signal, now),
                now);
    }

    Expressions expressions(Source source) {
        return understanding.expressions(source.mapping().own());
    }

    Scope scope(Signal signal, Instant now) {
        return understanding.scope(signal, now);
    }

    private Routing.@Nullable Stands stands(TicketId ticket) {
        return tickets.find(ticket)
                .filter(c -> c.kind() != null)
                .map(c -> new Routing.Stands(c.id(), c.kind(), c.state()))
                .orElse(null);
    }

    /** Only what is in fault, and turns, is asked about. */
    private static boolean mayBeExplained(Matter.@Nullable Turned turned) {
        return turned != null && !turned.matter().isClear() && turned.turn() != Turn.NEWS;
    }

    private Around around(Signal signal) {
        return new Around(
                neighbours.planned(signal.ci(), signal.service()),
                signal.ci() == null
                        ? List.of()
                        : matters.inFaultOn(Dependence.of(signal.ci(), organisation::relationsAt)));
    }

    /** Whether what has explained a fault still does. */
    boolean explains(Aside aside, Instant now) {
        return switch (aside.because()) {
            case PLANNED_WORK ->
                neighbours
                        .planned(aside.under())
                        .filter(work -> work.goesOn(now))
                        .isPresent();
            case CONSEQUENCE -> isInFault(tickets.find(aside.under()), aside.under());
        };
    }

    private boolean isInFault(Optional<Case> cause, TicketId ticket) {
        boolean open = cause.filter(c -> !TicketKind.ended(c.state()))
                .filter(c -> c.kind() != null && !c.state().equals(c.kind().solvedState()))
                .isPresent();
        return open && matters.of(ticket).stream().anyMatch(m -> !m.isClear());
    }
}
