package dastur.server.partners;

import com.fasterxml.jackson.core.JsonProcessingException;
import dastur.core.json.Json;
import dastur.core.partner.Partner;
import dastur.core.partner.PartnerKey;
import dastur.core.partner.Shared;
import dastur.core.partner.Theirs;
import dastur.core.partner.ThreeWay;
import dastur.core.run.Case;
import dastur.core.run.Command;
import dastur.core.ticket.TicketId;
import dastur.core.ticket.TicketKind;
import dastur.server.work.CommandService.Outcome;
import dastur.store.Partners.Known;
import dastur.store.Partners.State;
import dastur.store.Takeovers.Counts;
import dastur.store.Takeovers.Takeover;
import java.time.Duration;
import java.time.Instant;
import java.util.Map;
import java.util.Optional;
import java.util.TreeMap;
import java.util.concurrent.ConcurrentHashMap;
import java.util.function.BooleanSupplier;

/**
 * Takes over what was open at a partner's desk before it was joined (I15): read in full, then one by one, quietly and slowly. What has ended there stays there; what came since the desks are joined came by itself.
 */
public final class TakingOver {
    /** More than that are not taken over at once. */
    public static final int MOST = 10_000;

    private static final int A_SECOND = 5;
    /** So long it waits where they could not be read: it may be much that they are asked for. */
    private static final Duration READS_AGAIN_AFTER = Duration.ofSeconds(30);

    private final Exchange.Uses means;
    private final Listing listing;
    private final Raised raised;
    private final Saying saying;
    private final BooleanSupplier wanted;
    private final Map<PartnerKey, Instant> took = new ConcurrentHashMap<>();
    private final Map<PartnerKey, Instant> unread = new ConcurrentHashMap<>();

    TakingOver(Exchange.Uses means, Listing listing, Saying saying, BooleanSupplier wanted) {
        this.means = means;
        this.listing = listing;
        this.raised = new Raised(means.tickets(), means.records());
        this.saying = saying;
        this.wanted = wanted;
    }

    /** The same for one of theirs whenever it is taken over: it is one ticket here. */
    static String id(Partner partner, String theirs) {
        return Comparing.id("takeover", partner, theirs, "");
    }

    private boolean ended(Partner partner, Theirs theirs) {
        return threeWay().ended(partner, theirs).orElse(false);
    }

    private ThreeWay threeWay() {
        return new ThreeWay(means.fields().get());
    }

    private Instant now() {
        return means.clock().instant();
    }

    void work(Partner partner) {
        Takeover under = means.takeovers().find(partner.key()).orElse(null);
        if (under == null || !under.state().underWay()) {
            return;
        }
        if (under.state() == dastur.store.Takeovers.State.READING) {
            Instant failed = unread.get(partner.key());
            if (failed == null
                    || failed.isBefore(under.at())
                    || !failed.plus(READS_AGAIN_AFTER).isAfter(now())) {
                read(partner, under);
            }
        } else {
            take(partner);
        }
    }

    private void read(Partner partner, Takeover under) {
        Backlog backlog = new Backlog(partner, threeWay(), means.takeovers());
        boolean[] stopped = {false};
        int[] waiting = {0};
        Listing.Ended how = listing.read(
                partner,
                under.since(),
                Backlog.SHEETS,
                () -> wanted.getAsBoolean() && !stopped[0] && waiting[0] <= MOST,
                sheet -> means.takeovers()
                        .keep(partner.key(), backlog.open(sheet).came(), now())
                        .ifPresentOrElse(n -> waiting[0] = n, () -> stopped[0] = true));
        if (waiting[0] > MOST) {
            means.takeovers()
                    .fail(
                            partner.key(),
                            "More than " + MOST
                                    + " are open there since then. Nothing was taken over; choose a later day.");
        } else if (how.problem() == null) {
            means.takeovers().read(partner.key(), backlog.ended(), backlog.unread());
        } else if (wanted.getAsBoolean() && !stopped[0]) {
            unread.put(partner.key(), now());
            means.takeovers().problem(partner.key(), how.problem());
        }
        // Else it was ended early: it goes on after the next start, or not at all.
    }

    /** So few at once that whoever works here hardly notices. */
    private void take(Partner partner) {
        Instant now = now();
        Instant last = took.getOrDefault(partner.key(), now.minusSeconds(1));
        long may = Math.clamp(Duration.between(last, now).toMillis() * A_SECOND / 1_000, 0, A_SECOND);
        if (may == 0) {
            return;
        }
        took.put(partner.key(), now);
        for (Known one : means.takeovers().next(partner.key(), (int) may)) {
            if (!wanted.getAsBoolean()) {
                return;
            }
            take(partner, one);
        }
        means.takeovers().end(partner.key());
    }

    private void take(Partner partner, Known one) {
        Theirs theirs;
        try {
            theirs = Theirs.read(partner, Json.parse(one.body()));
        } catch (Theirs.Unreadable e) {
            refuse(one, e.why());
            return;
        } catch (JsonProcessingException e) {
            throw new IllegalStateException("what was kept is no JSON", e);
        }
        if (ended(partner, theirs)) {
            means.takeovers().leave(one);
        } else if (raised.by(partner, theirs).isPresent()) {
            // It is one of ours already: it is met as any other.
            means.takeovers().done(one.with(State.NEW, null, one.memory(), 0, 0, true, now(), 0, null), Counts.TAKEN);
        } else {
            open(partner, one, theirs);
        }
    }

    private void open(Partner partner, Known one, Theirs theirs) {
        ThreeWay threeWay = threeWay();
        Optional<Map<String, Object>> fields =
                means.opened().apply(partner, theirs.signal(partner, threeWay.meant(partner, theirs)));
        if (fields.isEmpty()) {
            refuse(one, "It could not be understood.");
            return;
        }
        Outcome outcome = means.commands()
                .raise(
                        TicketKind.INCIDENT,
                        id(partner, theirs.id()),
                        Comparing.by(partner),
                        new Command.TakeOver(
                                new Command.JoinPartner(partner.key(), theirs.id(), theirs.link(), true),
                                fields.get(),
                                takes(partner, threeWay, theirs),
                                threeWay.unknown(partner, theirs)));
        switch (outcome) {
            case Outcome.Done done -> {
                TicketId ticket = new TicketId(done.ticket());
                Case c = means.tickets().find(ticket).orElseThrow();
                saying.log(partner, one, "in", "brought", one.body(), null, ticket, null);
                means.takeovers()
                        .done(
                                // Due: what was said there before is heard at the next comparison.
                                one.with(
                                        State.FOLLOWED,
                                        ticket,
                                        Meeting.asOurs(partner, c),
                                        done.seq(),
                                        done.seq(),
                                        true,
                                        now(),
                                        0,
                                        null),
                                Counts.TAKEN);
            }
            case Outcome.Refused refused -> refuse(one, refused.refusal().message());
        }
    }

    private static Map<String, Command.Taken> takes(Partner partner, ThreeWay threeWay, Theirs theirs) {
        Map<String, Command.Taken> takes = new TreeMap<>();
        for (Shared s : partner.shared()) {
            String word = theirs.says().get(s.ours());
            if (word != null) {
                threeWay.meaning(s, word)
                        .flatMap(v -> threeWay.value(s.ours(), v))
                        .ifPresent(v -> takes.put(s.ours(), new Command.Taken(word, v)));
            }
        }
        return takes;
    }

    private void refuse(Known one, String why) {
        means.takeovers()
                .done(
                        one.with(
                                State.TOLD,
                                null,
                                one.memory(),
                                0,
                                0,
                                false,
                                now(),
                                0,
                                "It could not be taken over: " + why),
                        Counts.REFUSED);
    }
}
