package dastur.server.signals;

import dastur.core.run.Event;
import dastur.core.signal.Matter;
import dastur.core.signal.Matter.Turned;
import dastur.core.signal.Reading;
import dastur.core.signal.Signal;
import dastur.core.signal.Source;
import dastur.core.signal.SourceKey;
import dastur.core.signal.Turn;
import dastur.core.start.Routed;
import dastur.core.start.Routing;
import dastur.core.ticket.TicketId;
import dastur.core.ticket.TicketKind;
import dastur.core.workflow.Trigger;
import dastur.server.work.CommandService;
import dastur.store.Busy;
import dastur.store.Cases;
import dastur.store.Database;
import dastur.store.Incoming;
import dastur.store.Incoming.Due;
import dastur.store.Matters;
import dastur.store.Settlement;
import dastur.store.Sources;
import dastur.store.Tickets;
import dastur.store.Workflows;
import java.time.Instant;
import java.time.InstantSource;
import java.util.ArrayList;
import java.util.Collection;
import java.util.Collections;
import java.util.HashMap;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.concurrent.CompletableFuture;
import java.util.concurrent.CompletionException;
import java.util.function.Consumer;
import org.jspecify.annotations.Nullable;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;

/**
 * Says what becomes of signals, in the order in which they came (I5). What repeats is folded in memory: in a storm the matter's row changes once a batch. One node does this at a time; what is
 * written is claimed all the same, so that one which only thinks it does loses.
 */
final class Router {
    private static final Logger LOG = LoggerFactory.getLogger(Router.class);
    private static final int TOGETHER = 500;
    private static final int TRIES = 3;

    /** What routing works with. */
    record Uses(
            Incoming incoming,
            Matters matters,
            Sources sources,
            Workflows workflows,
            Tickets tickets,
            CommandService commands,
            Understanding understanding,
            Surroundings surroundings,
            Delivering delivering,
            Folding folding,
            InstantSource clock) {}

    private final Uses means;
    /** How often a signal could not be routed, while it could not. */
    private final Map<String, Integer> failures = new HashMap<>();

    private final Settling settling;
    private final Surroundings surroundings;

    Router(Uses means) {
        this.means = means;
        this.surroundings = means.surroundings();
        this.settling = new Settling(means.commands(), means.matters(), means.folding());
    }

    /** A matter within a batch: as it was read, as it is now, and what is not written yet. */
    private static final class Held {
        private Matters.Held read;
        private Matter now;
        private final List<Settlement.Routed> signals = new ArrayList<>();
        /** The last signal that repeats, for the record. */
        private @Nullable Signal last;

        private Routing.@Nullable Stands ticket;

        Held(Matters.Held read) {
            this.read = read;
            this.now = read.matter();
        }
    }

    /** What was read once for a batch. */
    private record Batch(
            Map<SourceKey, Optional<Source>> sources, List<Trigger.Live> triggers, Map<String, Held> matters) {}

    /** Routes what waits. Returns whether there was anything. */
    boolean route() {
        List<Due> due = means.incoming().due(TOGETHER);
        if (due.isEmpty()) {
            return false;
        }
        Batch batch = new Batch(new HashMap<>(), means.workflows().liveTriggers(), new LinkedHashMap<>());
        for (Due one : due) {
            try {
                route(one, batch);
                failures.remove(one.id());
            } catch (Cases.Contended e) {
                // Somebody else has settled it, or its matter. It and all after it are read anew: none overtakes
                // another.
                LOG.debug("signal {} is looked at again", one.id());
                return true;
            } catch (RuntimeException e) {
                failed(one, e);
                return true;
            }
        }
        List<Matters.Of> quiet = Collections.synchronizedList(new ArrayList<>());
        // Each on its ticket: entered at once they are one commit, one after the other they would be as many.
        atOnce(batch.matters().values(), held -> {
            try {
                flush(held, quiet);
            } catch (Cases.Contended e) {
                LOG.debug("the matter {} was settled elsewhere; its signals are looked at again", held.now.key());
            }
        });
        List<Matters.Of> lost = means.matters().settle(quiet);
        if (!lost.isEmpty()) {
            LOG.debug("{} matters were settled elsewhere; their signals are looked at again", lost.size());
        }
        return true;
    }

    /**
     * One that hurts again and again must not keep the others waiting: it stands on its source's page, and can be looked at again.
     * That the database is busy, or away, is no fault of a signal.
     */
    private void failed(Due due, RuntimeException why) {
        if (why instanceof Busy || Database.isUnreachable(why)) {
            throw why;
        }
        int times = failures.merge(due.id(), 1, Integer::sum);
        LOG.warn("signal {} could not be routed, for the {}. time", due.id(), times, why);
        if (times >= TRIES) {
            failures.remove(due.id());
            notUnderstood(due, "It could not be looked at; the server's log says why.");
        }
    }

    private void route(Due due, Batch batch) {
        Optional<Source> source = batch.sources()
                .computeIfAbsent(due.source(), k -> means.sources().find(k));
        if (source.isEmpty()) {
            notUnderstood(due, "Its source is not there any more.");
            return;
        }
        Reading reading = means.understanding().read(source.get(), due.id(), due.cameAt(), due.headers(), due.raw());
        Signal signal = reading.signal();
        if (signal == null) {
            notUnderstood(due, String.valueOf(reading.problem()));
            return;
        }
        if (signal.matter() == null) {
            ofNoMatter(signal, source.get(), batch);
        } else {
            ofMatter(signal, signal.matter(), source.get(), batch);
        }
    }

    private void notUnderstood(Due due, String why) {
        Settlement.Routed routed =
                new Settlement.Routed(due.id(), "not understood", null, null, null, null, null, null, null, why);
        means.matters().settle(new Settlement(List.of(routed), null, null, false, null), null);
    }

    // --- of no matter

    private void ofNoMatter(Signal signal, Source source, Batch batch) {
        if (taken(signal, source)) {
            settling.settle(
                    new Settlement(List.of(Settling.routed(signal, "taken", Turn.NEWS, null)), null, null, false, null),
                    null);
            return;
        }
        Instant now = means.clock().instant();
        Routed routed = Routing.route(
                signal, surroundings.facts(source, signal, null, null, null, null, batch.triggers(), now));
        settling.decided(signal, source, routed, null, null, now);
    }

    /** Whether a step that waits for it has taken it (I5, 2). */
    private boolean taken(Signal signal, Source source) {
        return signal.key() != null
                && Delivering.mayTell(source)
                && means.delivering().taken(signal);
    }

    // --- of a matter

    private void ofMatter(Signal signal, String key, Source source, Batch batch) {
        Held held = batch.matters().get(key);
        if (held == null) {
            held = read(means.matters().hold(Matter.first(signal, key)));
            batch.matters().put(key, held);
        }
        Turned turned = held.now.after(signal);
        if (taken(signal, source)) {
            held.signals.add(Settling.routed(signal, "taken", turned.turn(), null));
            held.now = turned.matter().judged();
            return;
        }
        switch (turned.turn()) {
            case REPEATS, STILL, NOTHING, OUT_OF_ORDER -> counted(held, signal, turned);
            case BEGINS, WORSE, RECOVERED, NEWS, UNSTEADY -> {
                // What came before is written first, so that the record tells it in its order.
                List<Matters.Of> before = new ArrayList<>();
                flush(held, before);
                if (!means.matters().settle(before).isEmpty()) {
                    throw Settling.contended();
                }
                Held fresh = read(means.matters().hold(Matter.first(signal, key)));
                Turned again = fresh.now.after(signal);
                batch.matters().remove(key);
                Instant now = means.clock().instant();
                Routed routed = Routing.route(
                        signal,
                        surroundings.facts(
                                source, signal, fresh.now, again, fresh.ticket, null, batch.triggers(), now));
                settling.decided(signal, source, routed, fresh.read, again.matter(), now);
            }
        }
    }

    private Held read(Matters.Held read) {
        Surroundings.Standing standing = surroundings.standing(read.matter());
        Held held = new Held(read);
        held.now = standing.matter();
        held.ticket = standing.ticket();
        return held;
    }

    private void counted(Held held, Signal signal, Turned turned) {
        boolean joins = held.ticket != null && !TicketKind.ended(held.ticket.state());
        boolean tells = joins && turned.turn() == Turn.REPEATS;
        Matter after = tells ? turned.matter().waitsToBeEntered(signal.cameAt()) : turned.matter();
        held.now = after.judged();
        held.last = tells ? signal : held.last;
        String state = joins ? "joined" : after.aside() != null ? "noted" : "kept";
        held.signals.add(Settling.routed(signal, state, turned.turn(), null));
    }

    /**
     * Writes what was counted where the ticket's record is to tell of it now.
     *
     * @param quiet takes what changes no ticket, to be written together
     */
    private void flush(Held held, List<Matters.Of> quiet) {
        if (held.signals.isEmpty()) {
            return;
        }
        Instant now = means.clock().instant();
        TicketId ticket = held.ticket == null ? null : held.ticket.ticket();
        boolean enters = held.now.enterAt().filter(at -> !at.isAfter(now)).isPresent();
        if (enters && held.last != null && ticket != null) {
            enter(held, held.last, ticket, now);
        } else {
            Settlement counted = new Settlement(List.copyOf(held.signals), held.read, held.now, false, null);
            quiet.add(new Matters.Of(counted, ticket));
        }
    }

    private void enter(Held held, Signal last, TicketId ticket, Instant now) {
        Matter after = held.now.entered(now).judged();
        Settlement settlement = new Settlement(List.copyOf(held.signals), held.read, after, false, null);
        Event.SignalsHeard heard = Settling.heard(last, Turn.REPEATS, held.now);
        settling.hear(
                ticket, "joined." + ticket + "." + last.id(), last.source(), heard, Routed.none(), true, settlement);
    }

    /** Does it for each on a thread of its own, and ends when all are done; the first that failed fails the whole. */
    static <T> void atOnce(Collection<T> all, Consumer<T> work) {
        List<CompletableFuture<Void>> under = all.stream()
                .map(one -> CompletableFuture.runAsync(() -> work.accept(one), Thread::startVirtualThread))
                .toList();
        try {
            CompletableFuture.allOf(under.toArray(CompletableFuture[]::new)).join();
        } catch (CompletionException e) {
            throw e.getCause() instanceof RuntimeException cause ? cause : new IllegalStateException(e.getCause());
        }
    }
}
