package dastur.server.signals;

import dastur.core.json.Json;
import dastur.core.people.Actor;
import dastur.core.run.Case;
import dastur.core.run.Command;
import dastur.core.run.Event;
import dastur.core.signal.Aside;
import dastur.core.signal.Matter;
import dastur.core.signal.Signal;
import dastur.core.signal.Source;
import dastur.core.signal.Turn;
import dastur.core.start.Routed;
import dastur.core.start.Routing;
import dastur.core.ticket.TicketId;
import dastur.core.ticket.TicketKind;
import dastur.server.work.CommandService;
import dastur.store.Cases;
import dastur.store.Matters;
import dastur.store.Settlement;
import java.time.Instant;
import java.util.List;
import java.util.Optional;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;

/** Looks again at matters whose time has come: to enter what repeats, and to tell a ticket that it has recovered (I7, I24). */
final class Judging {
    private static final Logger LOG = LoggerFactory.getLogger(Judging.class);
    private static final int TOGETHER = 500;

    private final Router.Uses means;
    private final Settling settling;

    Judging(Router.Uses means) {
        this.means = means;
        this.settling = new Settling(means.commands(), means.matters(), means.folding());
    }

    /** Looks again at matters whose time has come. Returns whether there were any. */
    boolean judge() {
        Instant now = means.clock().instant();
        List<Matters.Held> due = means.matters().toJudge(now, TOGETHER);
        Router.atOnce(due, held -> {
            try {
                judge(held, now);
            } catch (Cases.Contended e) {
                LOG.debug("the matter {} was settled elsewhere", held.matter().key());
            }
        });
        return !due.isEmpty();
    }

    private void judge(Matters.Held read, Instant now) {
        Matter m = read.matter();
        if (m.turns().unsteadyUntil() != null && !m.isUnsteady(now)) {
            m = m.steady();
        }
        if (m.aside() != null) {
            m = m.asideLooked(means.surroundings().explains(m.aside(), now), now);
            if (m.outlasts(now)) {
                judgeByItself(read, m, now);
                return;
            }
        }
        TicketId ticket = m.ticket();
        Optional<Case> on = ticket == null ? Optional.empty() : means.tickets().find(ticket);
        if (ticket == null || on.isEmpty() || TicketKind.ended(on.get().state())) {
            // What its ticket was about is over with that; what another ticket explains is not.
            boolean over = m.aside() == null && on.isPresent() && on.get().lastAt() != null;
            claim(read, (over ? m.ended(on.get().lastAt()) : m).judged());
        } else if (m.enterAt().filter(at -> !at.isAfter(now)).isPresent()) {
            enterWaiting(read, m, ticket, now);
        } else if (m.recoveredAt().filter(at -> !at.isAfter(now)).isPresent() && allClear(ticket)) {
            recover(read, m, ticket);
        } else {
            claim(read, allClearLater(m, now));
        }
    }

    /** It has outlasted what explained it: it is judged as if it had begun now (I21, I22). */
    private void judgeByItself(Matters.Held read, Matter m, Instant now) {
        Aside aside = m.aside();
        Matter alone = m.onItsOwn();
        Optional<Signal> last = means.incoming().lastFaultOf(m.key()).map(body -> Json.read(body, Signal.class));
        Optional<Source> source = last.flatMap(s -> means.sources().find(s.source()));
        if (aside == null || last.isEmpty() || source.isEmpty()) {
            // Nobody can say any more what it was: it stands among what needs somebody.
            claim(read, alone.judged());
            return;
        }
        String again = "it is still in fault ten minutes after " + aside.under() + " explained it: "
                + aside.because().word();
        Matter.Turned turned = new Matter.Turned(Turn.BEGINS, alone);
        Routed routed = Routing.route(
                last.get(),
                means.surroundings()
                        .facts(
                                source.get(),
                                last.get(),
                                m,
                                turned,
                                null,
                                again,
                                means.workflows().liveTriggers(),
                                now));
        settling.decided(last.get(), source.get(), routed, read, alone, now);
    }

    /** Another matter of the ticket is still in fault: looked at again when that has turned, at the latest in a minute. */
    private static Matter allClearLater(Matter m, Instant now) {
        Matter judged = m.judged();
        boolean past = judged.judgeAt() != null && !judged.judgeAt().isAfter(now);
        return past ? judged.judgedAt(now.plusSeconds(60)) : judged;
    }

    private boolean allClear(TicketId ticket) {
        return means.matters().of(ticket).stream().allMatch(Matter::isClear);
    }

    private void claim(Matters.Held read, Matter after) {
        settling.settle(new Settlement(List.of(), read, after, false, null), null);
    }

    private void enterWaiting(Matters.Held read, Matter m, TicketId ticket, Instant now) {
        Optional<Signal> last = means.incoming().lastOf(m.key()).map(body -> Json.read(body, Signal.class));
        Matter after = m.entered(now).judged();
        Settlement settlement = new Settlement(List.of(), read, after, false, null);
        if (last.isEmpty()) {
            claim(read, after);
            return;
        }
        Event.SignalsHeard heard = Settling.heard(last.get(), Turn.REPEATS, m);
        settling.hear(
                ticket,
                "joined." + ticket + "." + last.get().id() + ".late",
                last.get().source(),
                heard,
                Routed.none(),
                true,
                settlement);
    }

    private void recover(Matters.Held read, Matter m, TicketId ticket) {
        Matter after = m.recoveryTold().judged();
        Matter.About about = m.about();
        if (about == null) {
            return;
        }
        Settlement settlement = new Settlement(List.of(), read, after, false, null);
        CommandService.Outcome outcome = means.commands()
                .handle(
                        ticket,
                        "recovered." + ticket + "." + m.standing().since().toEpochMilli(),
                        Actor.SYSTEM,
                        new Command.Recover(about.recovery(), m.standing().since()),
                        settlement);
        if (outcome instanceof CommandService.Outcome.Refused) {
            // It is restored already, by somebody or by its run: there is nothing to tell.
            claim(read, after);
        }
    }
}
