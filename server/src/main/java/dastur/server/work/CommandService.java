package dastur.server.work;

import dastur.core.people.Actor;
import dastur.core.run.Case;
import dastur.core.run.Command;
import dastur.core.run.Context;
import dastur.core.run.Decision;
import dastur.core.run.Engine;
import dastur.core.run.LookupKey;
import dastur.core.run.Lookups;
import dastur.core.run.Recorded;
import dastur.core.run.Refusal;
import dastur.core.ticket.TicketId;
import dastur.core.ticket.TicketKind;
import dastur.store.Busy;
import dastur.store.Cases;
import dastur.store.Settlement;
import dastur.store.Work;
import java.time.Instant;
import java.time.InstantSource;
import java.util.ArrayDeque;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.concurrent.CompletableFuture;
import java.util.concurrent.CompletionException;
import java.util.concurrent.ConcurrentHashMap;
import org.jspecify.annotations.Nullable;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;

/**
 * The one way of every command: load the case, decide, have it written, and when it is, tell those who listen and answer.
 * Nothing outside is called while deciding, and the database is not held while waiting (K1).
 *
 * <p>Commands of one ticket queue in this process: up to {@value #TOGETHER} that wait are decided one after the other, become
 * one change, and are answered when it is kept.
 */
public final class CommandService {
    private static final Logger LOG = LoggerFactory.getLogger(CommandService.class);
    private static final int TOGETHER = 32;
    /** A decision names one missing value at a time; nearly all are remembered, so one or two rounds are usual. */
    private static final int MAX_LOOKUP_ROUNDS = 64;

    /** What became of a command. */
    public sealed interface Outcome {
        /** Accepted, now or when it came first. */
        record Done(String ticket, long seq) implements Outcome {}

        record Refused(Refusal refusal) implements Outcome {}
    }

    /** Hears of events after their commit. What it throws is logged and hurts nobody. */
    public interface Listener {
        /** @param before the case as it was, and {@code after} as it is with these events */
        void committed(Case before, List<Recorded> events, Case after);
    }

    /**
     * A command with its id and actor.
     *
     * @param keep whether its answer is kept for a repetition under the same id
     * @param settles what becomes of signals with it where it is accepted; null for nothing
     */
    private record Order(
            String id,
            Actor actor,
            Command command,
            boolean keep,
            @Nullable Settlement settles,
            CompletableFuture<Outcome> answer) {
        Order(String id, Actor actor, Command command, boolean keep) {
            this(id, actor, command, keep, null, new CompletableFuture<>());
        }
    }

    private record Treated(Case before, Outcome outcome, List<Recorded> events, Case after) {
        void tell(CommandService service) {
            service.tell(before, events, after);
        }
    }

    private final Cases cases;
    private final Engine engine;
    private final InstantSource clock;
    private final Instant upSince;
    private final Listener listener;
    private final Map<TicketId, ArrayDeque<Order>> queues = new ConcurrentHashMap<>();

    public CommandService(Cases cases, Engine engine, InstantSource clock, Instant upSince, Listener listener) {
        this.cases = cases;
        this.engine = engine;
        this.clock = clock;
        this.upSince = upSince;
        this.listener = listener;
    }

    /** Since when the application has been up. */
    public Instant upSince() {
        return upSince;
    }

    public Instant now() {
        return clock.instant();
    }

    /**
     * Raises a ticket under a number of its own.
     *
     * @param id the command's id; the same id of the same actor gives the ticket it gave before
     */
    public Outcome raise(TicketKind kind, String id, Actor actor, Command command) {
        return raise(kind, id, actor, command, null);
    }

    /** The ticket that a command of this id has raised. */
    public Optional<TicketId> raisedBy(String id) {
        return cases.raisedBy(id);
    }

    /** The same. @param settles what becomes of signals with it, or does not; null for nothing */
    public Outcome raise(TicketKind kind, String id, Actor actor, Command command, @Nullable Settlement settles) {
        Order order = new Order(id, actor, command, true, settles, new CompletableFuture<>());
        Optional<TicketId> before = cases.raisedBy(id);
        if (before.isEmpty()) {
            Optional<Treated> raised = cases.onNewTicket(kind, id, work -> treat(work, order));
            if (raised.isPresent()) {
                raised.get().tell(this);
                return raised.get().outcome();
            }
            before = cases.raisedBy(id);
        }
        return handle(before.orElseThrow(), id, actor, command);
    }

    /** Treats a person's command; a repetition under the same id gets the kept answer. */
    public Outcome handle(TicketId ticket, String id, Actor actor, Command command) {
        return submit(ticket, new Order(id, actor, command, true));
    }

    /** The same. @param settles what becomes of signals with the change that follows, or does not */
    public Outcome handle(TicketId ticket, String id, Actor actor, Command command, Settlement settles) {
        return submit(ticket, new Order(id, actor, command, true, settles, new CompletableFuture<>()));
    }

    /** Treats a command whose repetition does no harm: of the clock and of workers. */
    public Outcome handleRepeatable(TicketId ticket, String id, Actor actor, Command command) {
        return submit(ticket, new Order(id, actor, command, false));
    }

    private Outcome submit(TicketId ticket, Order order) {
        boolean[] first = {false};
        queues.compute(ticket, (t, queue) -> {
            ArrayDeque<Order> waiting = queue == null ? new ArrayDeque<>() : queue;
            first[0] = queue == null;
            waiting.add(order);
            return waiting;
        });
        if (first[0]) {
            drain(ticket, order);
        }
        try {
            return order.answer().join();
        } catch (CompletionException e) {
            throw e.getCause() instanceof RuntimeException cause ? cause : new IllegalStateException(e.getCause());
        }
    }

    /** The first to come treats what waits; when its own command is done, the rest goes on elsewhere. */
    private void drain(TicketId ticket, Order own) {
        List<Order> batch = next(ticket);
        while (!batch.isEmpty()) {
            if (own.answer().isDone()) {
                List<Order> rest = batch;
                Thread.ofVirtual().start(() -> {
                    treat(ticket, rest);
                    drainRest(ticket);
                });
                return;
            }
            treat(ticket, batch);
            batch = next(ticket);
        }
    }

    private void drainRest(TicketId ticket) {
        List<Order> batch = next(ticket);
        while (!batch.isEmpty()) {
            treat(ticket, batch);
            batch = next(ticket);
        }
    }

    /** Up to {@value #TOGETHER} waiting commands; an empty list has given the ticket up. */
    private List<Order> next(TicketId ticket) {
        List<Order> batch = new ArrayList<>();
        queues.compute(ticket, (t, queue) -> {
            while (queue != null && !queue.isEmpty() && batch.size() < TOGETHER) {
                batch.add(queue.poll());
            }
            return batch.isEmpty() ? null : queue;
        });
        return batch;
    }

    private void treat(TicketId ticket, List<Order> batch) {
        List<Treated> treated;
        try {
            treated = cases.onTicket(
                    ticket,
                    work -> batch.stream().map(order -> treat(work, order)).toList());
        } catch (Busy e) {
            // None of them hurt the others, and none was accepted.
            batch.forEach(order -> order.answer().completeExceptionally(e));
            return;
        } catch (RuntimeException | Error e) {
            if (batch.size() > 1) {
                // One of them hurt the others: each gets a transaction of its own, so only the one fails.
                batch.forEach(order -> treat(ticket, List.of(order)));
            } else {
                batch.getFirst().answer().completeExceptionally(e);
            }
            return;
        }
        for (int i = 0; i < batch.size(); i++) {
            treated.get(i).tell(this);
            batch.get(i).answer().complete(treated.get(i).outcome());
        }
    }

    private void tell(Case before, List<Recorded> events, Case after) {
        if (events.isEmpty()) {
            return;
        }
        try {
            listener.committed(before, events, after);
        } catch (RuntimeException e) {
            LOG.warn("a listener failed for {}", after.id(), e);
        }
    }

    private Treated treat(Work work, Order order) {
        if (order.keep()) {
            Optional<Long> answered = work.answered(order.id());
            if (answered.isPresent()) {
                return new Treated(
                        work.current(),
                        new Outcome.Done(work.current().id().value(), answered.get()),
                        List.of(),
                        work.current());
            }
        }
        Case before = work.current();
        return switch (decide(work, order)) {
            case Decision.Accepted accepted -> {
                work.save(accepted.events(), accepted.after(), upSince, order.keep() ? order.id() : null);
                if (order.command().raises()) {
                    work.raisedBy(order.id(), clock.instant());
                }
                if (order.settles() != null) {
                    work.settles(order.settles());
                }
                Outcome.Done done = new Outcome.Done(
                        accepted.after().id().value(), accepted.after().seq());
                yield new Treated(before, done, accepted.events(), accepted.after());
            }
            case Decision.Refused refused -> {
                work.save(refused.events(), refused.after(), upSince, null);
                yield new Treated(before, new Outcome.Refused(refused.refusal()), refused.events(), refused.after());
            }
            case Decision.Needs needs ->
                throw new IllegalStateException(
                        "still needs " + needs.keys().size() + " values after " + MAX_LOOKUP_ROUNDS + " rounds");
        };
    }

    private Decision decide(Work work, Order order) {
        Map<LookupKey, Optional<?>> remembered = work.remembered();
        Map<LookupKey, Optional<?>> loaded = new HashMap<>();
        Decision decision = new Decision.Needs(java.util.Set.of());
        Instant now = clock.instant();
        for (int round = 0; round < MAX_LOOKUP_ROUNDS && decision instanceof Decision.Needs needs; round++) {
            loaded.putAll(work.look(needs.keys()));
            decision = engine.decide(
                    work.current(),
                    order.id(),
                    order.actor(),
                    order.command(),
                    new Context(now, upSince, new Lookups(remembered, loaded)));
        }
        return decision;
    }
}
