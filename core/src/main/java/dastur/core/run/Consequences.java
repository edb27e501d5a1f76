package dastur.core.run;

import dastur.core.ticket.LinkKind;
import dastur.core.ticket.TicketId;
import dastur.core.ticket.TicketKind;
import java.util.Optional;

/**
 * Incidents whose cause came to light after them (I22): linked with it, and folded under it where no person is at them yet. They
 * are never merged: their runs go on, and they come out again.
 */
final class Consequences {
    private final Deciding d;

    Consequences(Deciding d) {
        this.d = d;
    }

    Optional<Refusal> find(Command.FindCause c) {
        Case now = d.now();
        if (now.kind() != TicketKind.INCIDENT || !stands(now) || now.matters().isEmpty()) {
            return Optional.of(new Refusal(Refusal.Code.TOO_LATE, "Nothing is to be explained here any more.", null));
        }
        if (c.cause().equals(now.id())) {
            return Optional.of(Refusal.invalid("cause", "No incident explains itself."));
        }
        if (now.under() != null) {
            return Optional.of(new Refusal(Refusal.Code.TOO_LATE, now.under() + " explains it already.", "cause"));
        }
        boolean folds = !now.ticket().touched();
        d.emitTicket(new Event.CauseFound(c.cause(), folds));
        if (folds && c.links() && now.links().stream().noneMatch(l -> isAbout(l, c.cause()))) {
            d.emitTicket(new Event.TicketLinked(c.cause(), LinkKind.CAUSED_BY, false));
        }
        return Optional.empty();
    }

    private static boolean isAbout(Case.Link link, TicketId cause) {
        return link.other().equals(cause) && link.kind() == LinkKind.CAUSED_BY;
    }

    private static boolean stands(Case c) {
        return !TicketKind.ended(c.state())
                && c.kind() != null
                && !c.state().equals(c.kind().solvedState());
    }

    Optional<Refusal> standByItself() {
        TicketId under = d.now().under();
        if (under == null) {
            return Optional.of(new Refusal(Refusal.Code.TOO_LATE, "It stands by itself already.", null));
        }
        d.emitTicket(new Event.StandsByItself(under));
        return Optional.empty();
    }
}
