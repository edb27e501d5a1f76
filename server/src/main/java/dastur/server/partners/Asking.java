package dastur.server.partners;

import dastur.core.json.Json;
import dastur.core.partner.Partner;
import dastur.core.partner.Theirs;
import dastur.core.run.Case;
import dastur.core.run.Command;
import dastur.core.step.calling.CallingCommands.CallOutcome;
import dastur.core.ticket.TicketKind;
import dastur.server.work.OwnCalls;
import dastur.store.Partners;
import dastur.store.Partners.State;
import dastur.store.Partners.ToAsk;
import java.time.Duration;
import java.time.Instant;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.function.BooleanSupplier;
import org.jspecify.annotations.Nullable;

/**
 * Asks for theirs one by one, where they have not come for long: a list of what has changed tells of nothing that is gone (I15). Only
 * their own word, said twice, counts as gone; that one cannot be read says nothing of it.
 */
final class Asking {
    private static final Duration ASKS_AGAIN_AFTER = Duration.ofSeconds(10);
    private static final int AT_ONE_LOOK = 10;
    /** After so long no further one is asked for at a look: what has come is not kept waiting by a desk that is slow. */
    private static final Duration LONGEST = Duration.ofSeconds(10);

    private final Exchange.Uses means;
    private final Saying saying;
    private final BooleanSupplier wanted;

    Asking(Exchange.Uses means, Saying saying, BooleanSupplier wanted) {
        this.means = means;
        this.saying = saying;
        this.wanted = wanted;
    }

    /** @return why one could not be asked for, so that the others were not; null where all were */
    @Nullable String ask(Partner partner) {
        if (partner.read() == null) {
            return null;
        }
        Instant latest = now().plus(LONGEST);
        for (ToAsk one : means.partners().toAsk(partner.key(), now(), AT_ONE_LOOK)) {
            if (!wanted.getAsBoolean() || now().isAfter(latest)) {
                return null;
            }
            String problem = ask(partner, one);
            if (problem != null) {
                return "'" + one.id() + "' could not be read by itself: " + problem;
            }
        }
        return null;
    }

    private @Nullable String ask(Partner partner, ToAsk one) {
        if (!matters(one)) {
            means.partners().asked(one, null, one.gone());
            return null;
        }
        CallOutcome outcome = means.calls()
                .call(
                        partner.read(),
                        Map.of(Partner.ID, one.id()),
                        Comparing.id("ask", partner, one.id(), String.valueOf(now().toEpochMilli())),
                        wanted);
        if (!(outcome instanceof CallOutcome.Done done)) {
            return cannotSay(partner, one, OwnCalls.why(outcome));
        }
        if (done.exit().equals(Partner.GONE)) {
            gone(partner, one);
            return null;
        }
        return came(partner, one, done.outputs().get(Partner.TICKET));
    }

    /** Of what has ended here nobody wants to know whether it is gone there. */
    private boolean matters(ToAsk one) {
        Optional<Case> ours =
                one.ticket() == null ? Optional.empty() : means.tickets().find(one.ticket());
        return (one.state() == State.FOLLOWED || one.gone() != null)
                && ours.filter(c -> !TicketKind.ended(c.state())).isPresent();
    }

    private @Nullable String came(Partner partner, ToAsk asked, @Nullable Object said) {
        try {
            Object one = said instanceof List<?> list && list.size() == 1 ? list.getFirst() : said;
            Theirs theirs = Theirs.read(partner, Json.tree(one == null ? Map.of() : one));
            if (!theirs.id().equals(asked.id())) {
                return cannotSay(partner, asked, "The answer is about '" + theirs.id() + "'.");
            }
            if (theirs.raw().length() > Partners.LONGEST) {
                return cannotSay(partner, asked, "It is too large to be kept.");
            }
            means.partners().came(partner.key(), new Listing.Sheet(List.of(theirs), null).came(), now());
            if (asked.state() == State.FOLLOWED) {
                means.partners().asked(asked, now().plus(Partners.ASKED_AFTER), null);
            }
            return null;
        } catch (Theirs.Unreadable e) {
            return cannotSay(partner, asked, e.why());
        }
    }

    /** What was not read is neither there nor gone: it is asked for again in its time. */
    private String cannotSay(Partner partner, ToAsk one, String why) {
        boolean followed = one.state() == State.FOLLOWED;
        means.partners().asked(one, followed ? now().plus(Partners.ASKED_AFTER) : null, followed ? null : one.gone());
        return why;
    }

    private void gone(Partner partner, ToAsk one) {
        if (one.state() != State.FOLLOWED) {
            means.partners().asked(one, null, one.gone());
            return;
        }
        Instant first = one.gone() == null ? now() : one.gone();
        if (first.plus(ASKS_AGAIN_AFTER).isAfter(now())) {
            // It may be that they have only lost sight of it for a moment.
            means.partners().asked(one, first.plus(ASKS_AGAIN_AFTER), first);
            return;
        }
        String why = "'" + one.id() + "' is gone there: they know it no longer.";
        means.commands()
                .handle(
                        one.ticket(),
                        Comparing.id("gone", partner, one.id(), String.valueOf(one.gone())),
                        Comparing.by(partner),
                        new Command.LeavePartner(partner.key(), why));
        means.partners().known(partner.key(), one.id()).ifPresent(known -> {
            saying.log(partner, known, "in", "gone", "", null, one.ticket(), why);
            means.partners().gone(partner.key(), one.id(), why);
        });
    }

    private Instant now() {
        return means.clock().instant();
    }
}
