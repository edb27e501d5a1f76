package dastur.server.partners;

import dastur.core.json.Texts;
import dastur.core.partner.Partner;
import dastur.core.partner.Theirs;
import dastur.core.partner.ThreeWay;
import dastur.core.partner.ThreeWay.Memory;
import dastur.core.partner.Verdict;
import dastur.core.run.Case;
import dastur.core.run.Command;
import dastur.core.ticket.TicketId;
import dastur.core.ticket.TicketKind;
import dastur.server.work.CommandService.Outcome;
import dastur.store.Matters;
import dastur.store.Partners.Known;
import dastur.store.Partners.State;
import java.time.Duration;
import java.time.Instant;
import java.util.List;
import java.util.Map;
import java.util.Optional;

/** Which ticket of ours one of theirs is: the one that raised it, or the one that the signal of it has opened. */
final class Meeting {
    /** So often it is looked for what becomes of the signal of a new ticket. */
    private static final int LOOKS_FOR_TICKET = 30;

    private static final Duration LOOKS_AGAIN = Duration.ofSeconds(1);

    private final Exchange.Uses means;
    private final Raised raised;
    private final Saying saying;

    Meeting(Exchange.Uses means, Saying saying) {
        this.means = means;
        this.raised = new Raised(means.tickets(), means.records());
        this.saying = saying;
    }

    void meet(Partner partner, Known known, Theirs theirs) {
        Optional<TicketId> ours = raised.by(partner, theirs);
        Optional<TicketId> fromThem = ours.isPresent()
                ? Optional.empty()
                : means.matters()
                        .find(partner.matter(theirs.id()))
                        .map(Matters.Held::matter)
                        .flatMap(m -> Optional.ofNullable(m.ticket()))
                        .or(() -> takenOver(partner, theirs));
        Optional<TicketId> ticket = ours.or(() -> fromThem);
        if (ticket.isPresent()) {
            join(partner, known, theirs, ticket.get(), ours.isEmpty());
            return;
        }
        String signal = theirs.signal(partner, new ThreeWay(means.fields().get()).meant(partner, theirs));
        means.intake()
                .keep(
                        partner.key().source(),
                        means.clock().instant(),
                        "partner " + theirs.id() + " " + known.hash(),
                        signal);
        boolean first = known.state() == State.NEW || known.failures() == 0;
        if (first) {
            saying.log(partner, known, "in", "told", known.body(), signal, null, null);
        }
        String problem = theirs.reference() == null || known.state() == State.TOLD
                ? known.problem()
                : "It names " + Texts.clip(theirs.reference(), 40)
                        + ", which did not raise it there: it counts as theirs.";
        // What becomes of a signal shows a moment later.
        boolean waits = known.failures() < LOOKS_FOR_TICKET;
        means.partners()
                .compared(known.with(
                        State.TOLD,
                        null,
                        known.memory(),
                        0,
                        0,
                        waits,
                        now().plus(LOOKS_AGAIN),
                        waits ? known.failures() + 1 : 0,
                        problem));
    }

    /** One that was taken over, as long as it has not ended: what comes after that is a matter of its own. */
    private Optional<TicketId> takenOver(Partner partner, Theirs theirs) {
        return means.commands().raisedBy(TakingOver.id(partner, theirs.id())).filter(ticket -> means.tickets()
                .find(ticket)
                .filter(c -> !TicketKind.ended(c.state()))
                .isPresent());
    }

    private void join(Partner partner, Known known, Theirs theirs, TicketId ticket, boolean fromThem) {
        Outcome outcome = means.commands()
                .handle(
                        ticket,
                        Comparing.id("join", partner, theirs.id(), ticket.value() + known.ours()),
                        Comparing.by(partner),
                        new Command.JoinPartner(partner.key(), theirs.id(), theirs.link(), fromThem));
        switch (outcome) {
            case Outcome.Done done -> {
                Case c = means.tickets().find(ticket).orElseThrow();
                Memory memory = fromThem ? asOurs(partner, c) : asBoth(partner, c, theirs);
                saying.log(partner, known, "in", "joined", known.body(), null, ticket, null);
                means.partners()
                        .compared(known.with(
                                State.FOLLOWED, ticket, memory, done.seq() - 1, done.seq(), true, now(), 0, null));
            }
            case Outcome.Refused refused ->
                means.partners().compared(known.settled(now(), refused.refusal().message()));
        }
    }

    /** A ticket that was opened for theirs says nothing of its own yet. */
    static Memory asOurs(Partner partner, Case c) {
        Memory memory = Memory.NONE;
        for (Map.Entry<String, String> e : ThreeWay.ours(partner, c.fields()).entrySet()) {
            memory = memory.agreed(e.getKey(), e.getValue());
        }
        return memory;
    }

    /** What both say as they begin is what they agree on. */
    private Memory asBoth(Partner partner, Case c, Theirs theirs) {
        ThreeWay threeWay = new ThreeWay(means.fields().get());
        List<Verdict> verdicts = threeWay.judge(
                partner, Memory.NONE, ThreeWay.ours(partner, c.fields()), theirs, now(), ThreeWay.Later.UNKNOWN);
        return Comparing.Sorted.of(threeWay, verdicts, Memory.NONE).memory();
    }

    private Instant now() {
        return means.clock().instant();
    }
}
