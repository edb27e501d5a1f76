package dastur.server.partners;

import dastur.core.feed.Patience;
import dastur.core.partner.Partner;
import dastur.core.partner.PartnerKey;
import dastur.core.people.Person;
import dastur.core.people.PersonId;
import dastur.core.ticket.FieldCatalogue;
import dastur.server.signals.Intake;
import dastur.server.work.CommandService;
import dastur.server.work.OwnCalls;
import dastur.server.work.Repeatedly;
import dastur.store.Matters;
import dastur.store.Nodes;
import dastur.store.Partners;
import dastur.store.Partners.Known;
import dastur.store.Partners.Stand;
import dastur.store.Records;
import dastur.store.Takeovers;
import dastur.store.Tickets;
import java.time.Duration;
import java.time.Instant;
import java.time.InstantSource;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.concurrent.ConcurrentHashMap;
import java.util.function.BiFunction;
import java.util.function.BooleanSupplier;
import java.util.function.Function;
import java.util.function.Supplier;
import org.jspecify.annotations.Nullable;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;

/**
 * Looks at each partner's desk at its times, and compares what has changed on either side (I15, I16). Each partner on a thread of its own:
 * one that does not answer delays no other. What is read is kept before the mark moves; what is cut off in the middle is compared anew,
 * and comes to the same.
 */
public final class Exchange implements AutoCloseable {
    private static final Logger LOG = LoggerFactory.getLogger(Exchange.class);
    private static final Duration LOOKS_EVERY = Duration.ofMillis(500);
    private static final Duration FORGETS_EVERY = Duration.ofHours(1);
    /** So much earlier than the mark it is read from: clocks differ, and what is written there may show late. */
    static final Duration OVERLAP = Duration.ofMinutes(2);

    private static final Duration LONGEST_PAUSE = Duration.ofMinutes(10);
    private static final int TOGETHER = 100;

    /** What it works with. @param opened what a ticket opened for a signal of theirs would say; empty where it cannot be read @param held whether nothing may go out, since the database was restored */
    public record Uses(
            Partners partners,
            Takeovers takeovers,
            OwnCalls calls,
            Intake intake,
            Matters matters,
            Tickets tickets,
            Records records,
            CommandService commands,
            Supplier<FieldCatalogue> fields,
            BiFunction<Partner, String, Optional<Map<String, Object>>> opened,
            Function<PersonId, Optional<Person>> person,
            Nodes nodes,
            BooleanSupplier held,
            InstantSource clock) {}

    private final Uses means;
    private final Listing listing;
    private final Comparing comparing;
    private final Asking asking;
    private final Counting counting;
    private final TakingOver takingOver;
    private final Set<PartnerKey> underWay = ConcurrentHashMap.newKeySet();
    private final Repeatedly rounds;
    private Instant lastForgot = Instant.MIN;

    public Exchange(Uses means) {
        this.means = means;
        this.listing = new Listing(means.calls(), means.clock());
        this.rounds = new Repeatedly("exchange", LOOKS_EVERY, this::round);
        BooleanSupplier wanted = () -> !rounds.isStopping();
        Saying saying = new Saying(means, wanted);
        this.comparing = new Comparing(means, saying, wanted);
        this.asking = new Asking(means, saying, wanted);
        this.counting = new Counting(means, listing, wanted);
        this.takingOver = new TakingOver(means, listing, saying, wanted);
    }

    /** When it is tried again. @param failures in a row, at least 1 */
    static Instant pause(Instant now, int failures) {
        Instant patient = Patience.next(now, failures, null);
        Instant latest = now.plus(LONGEST_PAUSE);
        return patient.isAfter(latest) ? latest : patient;
    }

    public void start() {
        rounds.start();
    }

    private void round() {
        if (!means.nodes().has(Nodes.Duty.PARTNERS) || means.held().getAsBoolean()) {
            return;
        }
        Instant now = means.clock().instant();
        Map<PartnerKey, Stand> stands = means.partners().stands();
        for (Partner partner : means.partners().all()) {
            if (partner.on() && underWay.add(partner.key())) {
                Stand stand = stands.get(partner.key());
                Thread.ofVirtual().name("partner-" + partner.key()).start(() -> work(partner, stand, now));
            }
        }
        if (lastForgot.isBefore(now.minus(FORGETS_EVERY))) {
            lastForgot = now;
            means.partners().forgetBefore(now.minus(Partners.KEPT));
        }
    }

    private void work(Partner partner, @Nullable Stand stand, Instant now) {
        try {
            Stand after = stand;
            if (stand == null || !stand.next().isAfter(now)) {
                after = look(partner, stand, now);
            }
            if (after != null && after.failures() == 0) {
                compare(partner, after.lookedAt() == null ? now : after.lookedAt(), after.ahead());
                takingOver.work(partner);
            }
        } catch (RuntimeException e) {
            LOG.warn("the partner {} could not be worked with and is tried again", partner.key(), e);
        } finally {
            underWay.remove(partner.key());
        }
    }

    /** One that is new is read from now on: what was there before is not our matter. */
    private Stand look(Partner partner, @Nullable Stand stand, Instant now) {
        Instant mark = stand == null || stand.mark() == null ? now : stand.mark();
        String[] unread = {null};
        Listing.Ended ended =
                listing.read(partner, mark.minus(OVERLAP), Listing.SHEETS, () -> !rounds.isStopping(), s -> {
                    means.partners().came(partner.key(), s.came(), means.clock().instant());
                    unread[0] = s.unread() == null ? unread[0] : s.unread();
                });
        Stand after;
        if (ended.problem() == null) {
            String unasked = asking.ask(partner);
            unread[0] = unread[0] == null ? unasked : unread[0];
            // By their clock where they tell it: ours may be another.
            Instant upto = ended.theirs() == null ? now : ended.theirs();
            after = new Stand(
                    upto,
                    now,
                    now.plusSeconds(partner.every().roughSeconds()),
                    0,
                    null,
                    unread[0],
                    ended.ahead() != null || stand == null ? ended.ahead() : stand.ahead());
        } else {
            int failures = stand == null ? 1 : stand.failures() + 1;
            Instant since = stand == null || stand.failingSince() == null ? now : stand.failingSince();
            after = new Stand(
                    mark,
                    now,
                    pause(now, failures),
                    failures,
                    since,
                    ended.problem(),
                    stand == null ? null : stand.ahead());
        }
        if (!rounds.isStopping()) {
            means.partners().stand(partner.key(), after);
        }
        return after;
    }

    private void compare(Partner partner, Instant looked, @Nullable Duration ahead) {
        means.partners().heed(partner.key(), means.clock().instant());
        List<Known> due = means.partners().due(partner.key(), means.clock().instant(), TOGETHER);
        for (Known one : due) {
            if (rounds.isStopping()) {
                return;
            }
            try {
                comparing.compare(partner, one, looked, ahead);
            } catch (RuntimeException e) {
                LOG.warn("'{}' of {} could not be compared and is tried again", one.id(), partner.key(), e);
                means.partners().compared(comparing.later(one, "It could not be compared; the server's log says why."));
            }
        }
    }

    /** Counts what would be taken over, without any effect. */
    public Counting.Counted count(Partner partner, Instant since) {
        return counting.count(partner, since);
    }

    /** Looks once, without any effect. */
    public Listing.Ended tryOut(Partner partner, Instant since, java.util.function.Consumer<Listing.Sheet> sheets) {
        return listing.read(partner, since, 1, () -> true, sheets);
    }

    /** Goes on without waiting. */
    public void wake() {
        rounds.wake();
    }

    /** Ends what is under way; what was not compared is compared after the next start. */
    @Override
    public void close() {
        rounds.close();
    }
}
