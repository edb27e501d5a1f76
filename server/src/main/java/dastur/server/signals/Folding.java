package dastur.server.signals;

import dastur.core.people.Actor;
import dastur.core.run.Case;
import dastur.core.run.Command;
import dastur.core.signal.Severity;
import dastur.core.start.Dependence;
import dastur.core.ticket.CiId;
import dastur.core.ticket.TicketId;
import dastur.server.work.CommandService;
import dastur.store.Busy;
import dastur.store.Consequences;
import dastur.store.Database;
import dastur.store.Organisation;
import dastur.store.Tickets;
import java.time.Duration;
import java.time.Instant;
import java.time.InstantSource;
import java.util.List;
import java.util.Optional;
import java.util.Queue;
import java.util.concurrent.ConcurrentLinkedQueue;
import org.jspecify.annotations.Nullable;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;

/**
 * Folds incidents under one whose fault explains them and came to light after them, and takes them out again (I22). What came
 * before the cause is looked for once, when that turns; what comes after it is routed there.
 */
final class Folding {
    private static final Logger LOG = LoggerFactory.getLogger(Folding.class);
    /** So long before its cause a consequence may have come to light. */
    private static final Duration BEFORE = Duration.ofMinutes(5);

    /** So long after its cause is restored a consequence may still be in fault before it stands by itself. */
    private static final Duration AFTER = Duration.ofMinutes(10);

    private static final Duration EVERY = Duration.ofSeconds(15);
    /** Of more below one cause the rest is folded, but not linked: a ticket has room for 200 links. */
    private static final int LINKED = 100;

    /** A fault that may explain others. */
    private record Cause(TicketId ticket, CiId ci, Severity severity) {}

    private final Consequences consequences;
    private final Organisation organisation;
    private final Tickets tickets;
    private final CommandService commands;
    private final InstantSource clock;
    private final Queue<Cause> turned = new ConcurrentLinkedQueue<>();
    private @Nullable Instant lastLooked;

    Folding(
            Consequences consequences,
            Organisation organisation,
            Tickets tickets,
            CommandService commands,
            InstantSource clock) {
        this.consequences = consequences;
        this.organisation = organisation;
        this.tickets = tickets;
        this.commands = commands;
        this.clock = clock;
    }

    /** An incident was opened by a fault, or its fault got worse: what is below it is looked at when there is time. */
    void turned(TicketId ticket, CiId ci, Severity severity) {
        if (severity.atLeast(Severity.MAJOR)) {
            turned.add(new Cause(ticket, ci, severity));
        }
    }

    /**
     * Looks below what has turned, and now and then whether what explains others still does. The first time it looks below all
     * that is young: what had turned when the process was killed is looked below, too.
     */
    void look() {
        Instant now = clock.instant();
        if (lastLooked == null) {
            consequences.young(now.minus(BEFORE)).forEach(y -> turned(y.ticket(), y.ci(), y.worst()));
        }
        Cause cause = turned.peek();
        while (cause != null) {
            lookBelow(cause);
            // Only then: what could not be looked at, since the database was away, is looked at again.
            turned.poll();
            cause = turned.peek();
        }
        if (lastLooked == null || !lastLooked.plus(EVERY).isAfter(now) || lastLooked.isAfter(now)) {
            lastLooked = now;
            consequences.folded().forEach((ticket, folded) -> {
                if (isOver(tickets.find(ticket), now)) {
                    folded.forEach(one -> standsByItself(one, ticket));
                }
            });
        }
    }

    /** One that hurts keeps the others from nothing: its consequences stand by themselves, as they would without this. */
    private void lookBelow(Cause cause) {
        try {
            below(cause);
        } catch (RuntimeException e) {
            if (e instanceof Busy || Database.isUnreachable(e)) {
                throw e;
            }
            LOG.warn("what follows from {} could not be looked for", cause.ticket(), e);
        }
    }

    private void below(Cause cause) {
        if (!explains(tickets.find(cause.ticket()))) {
            return;
        }
        List<Consequences.Young> young = consequences
                .youngOn(
                        Dependence.on(cause.ci(), organisation::relationsAt).keySet(),
                        clock.instant().minus(BEFORE))
                .stream()
                .filter(y -> !y.ticket().equals(cause.ticket()) && !y.worst().worseThan(cause.severity()))
                .toList();
        long there = young.isEmpty() ? 0 : consequences.under(cause.ticket());
        for (Consequences.Young one : young) {
            CommandService.Outcome outcome = commands.handle(
                    one.ticket(),
                    "cause." + one.ticket() + "." + cause.ticket(),
                    Actor.SYSTEM,
                    new Command.FindCause(cause.ticket(), there < LINKED));
            there++;
            if (outcome instanceof CommandService.Outcome.Refused r) {
                LOG.debug(
                        "{} is not folded under {}: {}",
                        one.ticket(),
                        cause.ticket(),
                        r.refusal().message());
            }
        }
    }

    private static boolean explains(Optional<Case> cause) {
        return cause.isPresent()
                && cause.get().under() == null
                && Surroundings.overSince(cause.get()).isEmpty();
    }

    /** Whether what was folded under it stands by itself: it is over for long enough. */
    private static boolean isOver(Optional<Case> cause, Instant now) {
        return cause.isEmpty()
                || Surroundings.overSince(cause.get())
                        .filter(since -> !since.plus(AFTER).isAfter(now))
                        .isPresent();
    }

    private void standsByItself(TicketId ticket, TicketId cause) {
        commands.handle(
                ticket,
                "by-itself." + ticket + "." + cause + "." + clock.instant().toEpochMilli(),
                Actor.SYSTEM,
                new Command.StandByItself());
    }
}
