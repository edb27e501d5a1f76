package dastur.core.run;

import java.util.Optional;

/** Links between tickets. Each stands on both: the other side follows through the outbox (D11). */
final class Links {
    private static final int MOST = 200;

    private final Deciding d;

    Links(Deciding d) {
        this.d = d;
    }

    Optional<Refusal> link(Command.LinkTicket c) {
        if (c.other().equals(d.now().id())) {
            return Optional.of(Refusal.invalid("other", "A ticket is not linked with itself."));
        }
        if (!c.as().byHand()) {
            return Optional.of(Refusal.invalid("as", "'" + c.as().word() + "' follows from what workflows do."));
        }
        if (d.now().links().contains(new Case.Link(c.other(), c.as()))) {
            return c.mirrors()
                    ? Optional.empty()
                    : Optional.of(
                            Refusal.invalid("other", "It is already linked: " + c.as().word() + " " + c.other() + "."));
        }
        if (d.now().links().size() >= MOST) {
            return Optional.of(Refusal.invalid("other", "A ticket has at most " + MOST + " links."));
        }
        d.emitTicket(new Event.TicketLinked(c.other(), c.as(), c.mirrors()));
        return Optional.empty();
    }

    Optional<Refusal> unlink(Command.UnlinkTicket c) {
        if (!c.as().byHand()) {
            return Optional.of(
                    Refusal.invalid("as", "What workflows do stays on the record: this link cannot be taken away."));
        }
        if (d.now().links().contains(new Case.Link(c.other(), c.as()))) {
            d.emitTicket(new Event.TicketUnlinked(c.other(), c.as(), c.mirrors()));
        } else if (!c.mirrors()) {
            return Optional.of(new Refusal(
                    Refusal.Code.NOT_FOUND, "It is not linked: " + c.as().word() + " " + c.other() + ".", "other"));
        }
        return Optional.empty();
    }
}
