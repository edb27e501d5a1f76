package dastur.server.signals;

import dastur.core.json.Json;
import dastur.core.people.Actor;
import dastur.core.run.Case;
import dastur.core.run.Command;
import dastur.core.run.Event;
import dastur.core.signal.Matter;
import dastur.core.signal.Matter.Turned;
import dastur.core.signal.Reading;
import dastur.core.signal.Severity;
import dastur.core.signal.Signal;
import dastur.core.signal.Source;
import dastur.core.signal.SourceKey;
import dastur.core.signal.Turn;
import dastur.core.start.Routed;
import dastur.core.start.Routing;
import dastur.core.ticket.Field;
import dastur.core.ticket.LinkKind;
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
 * Says what becomes of signals, in the order in which they came, and looks again at matters whose time has come (I5, I7, I24).
 * What repeats is folded in memory: in a storm the matter's row changes once a batch. One node does this at a time; what is
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
            Delivering delivering,
            InstantSource clock) {}

    private final Uses means;
    /** How often a signal could not be routed, while it could not. */
    private final Map<String, Integer> failures = new HashMap<>();

    Router(Uses means) {
        this.means = means;
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
            Map<SourceKey, Optional<Source>> sources,
            List<Trigger.Live> triggers,
            List<Field> own,
            Map<String, Held> matters) {}

    /** Routes what waits. Returns whether there was anything. */
    boolean route() {
        List<Due> due = means.incoming().due(TOGETHER);
        if (due.isEmpty()) {
            return false;
        }
        List<Field> own = means.sources().all().stream()
                .flatMap(s -> s.mapping().own().stream())
                .toList();
        Batch batch = new Batch(new HashMap<>(), means.workflows().liveTriggers(), own, new LinkedHashMap<>());
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
        atOnce(batch.matters().values(), held -> flush(held, quiet));
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
        if (taken(signal)) {
            settle(new Settlement(List.of(routed(signal, "taken", Turn.NEWS, null)), null, null, false, null), null);
            return;
        }
        Routed routed = Routing.route(signal, facts(source, null, null, null, signal, batch));
        decided(signal, source, routed, null, null);
    }

    /** Whether a step that waits for it has taken it (I5, 2). */
    private boolean taken(Signal signal) {
        return signal.key() != null && means.delivering().taken(signal);
    }

    // --- of a matter

    private void ofMatter(Signal signal, String key, Source source, Batch batch) {
        Held held = batch.matters().get(key);
        if (held == null) {
            held = read(means.matters().hold(Matter.first(signal, key)));
            batch.matters().put(key, held);
        }
        Turned turned = held.now.after(signal);
        if (taken(signal)) {
            held.signals.add(routed(signal, "taken", turned.turn(), null));
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
                    throw contended();
                }
                Held fresh = read(means.matters().hold(Matter.first(signal, key)));
                Turned again = fresh.now.after(signal);
                batch.matters().remove(key);
                Routed routed =
                        Routing.route(signal, facts(source, fresh.read.matter(), again, fresh.ticket, signal, batch));
                decided(signal, source, routed, fresh, again.matter());
            }
        }
    }

    private Held read(Matters.Held read) {
        Held held = new Held(read);
        TicketId ticket = read.matter().ticket();
        Optional<Case> on = ticket == null ? Optional.empty() : means.tickets().find(ticket);
        if (on.isPresent() && on.get().kind() != null) {
            held.ticket =
                    new Routing.Stands(on.get().id(), on.get().kind(), on.get().state());
            if (TicketKind.ended(on.get().state()) && on.get().lastAt() != null && !held.now.isClear()) {
                held.now = held.now.ended(on.get().lastAt());
            }
        }
        return held;
    }

    private void counted(Held held, Signal signal, Turned turned) {
        boolean joins = held.ticket != null && !TicketKind.ended(held.ticket.state());
        boolean tells = joins && turned.turn() == Turn.REPEATS;
        Matter after = tells ? turned.matter().waitsToBeEntered(signal.cameAt()) : turned.matter();
        held.now = after.judged();
        held.last = tells ? signal : held.last;
        held.signals.add(routed(signal, joins ? "joined" : "kept", turned.turn(), null));
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
        try {
            boolean enters = held.now.enterAt().filter(at -> !at.isAfter(now)).isPresent();
            if (enters && held.last != null && ticket != null) {
                enter(held, held.last, ticket, now);
            } else {
                Settlement counted = new Settlement(List.copyOf(held.signals), held.read, held.now, false, null);
                quiet.add(new Matters.Of(counted, ticket));
            }
        } catch (Cases.Contended e) {
            LOG.debug("the matter {} was settled elsewhere; its signals are looked at again", held.now.key());
        }
        held.signals.clear();
    }

    private void enter(Held held, Signal last, TicketId ticket, Instant now) {
        Matter after = held.now.entered(now).judged();
        Settlement settlement = new Settlement(List.copyOf(held.signals), held.read, after, false, null);
        Event.Heard heard = heard(last, Turn.REPEATS, held.now);
        hear(ticket, "joined." + ticket + "." + last.id(), last.source(), heard, Routed.none(), settlement);
    }

    // --- what was decided

    private void decided(Signal signal, Source source, Routed routed, @Nullable Held held, @Nullable Matter after) {
        Matters.Held read = held == null ? null : held.read;
        String why = Json.write(new Why(routed.told(), routed.looks()));
        switch (routed.way()) {
            case Routed.Way.Joins joins -> {
                Matter then = after == null
                        ? null
                        : after.turnEntered(signal.cameAt()).judged();
                Settlement s =
                        new Settlement(List.of(routed(signal, "joined", routed.turn(), why)), read, then, false, null);
                Event.Heard heard = heard(signal, routed.turn(), after);
                hear(joins.ticket(), "joined." + joins.ticket() + "." + signal.id(), signal.source(), heard, routed, s);
            }
            case Routed.Way.Opens opens -> {
                Settlement s = new Settlement(
                        List.of(routed(signal, "opened", routed.turn(), why)),
                        read,
                        after == null ? null : after.judged(),
                        true,
                        opens.recovery());
                open(signal, source, routed, opens, s, after);
            }
            case Routed.Way.Kept kept -> {
                Settlement.Routed one = routed(signal, "kept", routed.turn(), why);
                settle(new Settlement(List.of(one), read, after == null ? null : after.judged(), false, null), null);
            }
        }
    }

    private void open(
            Signal signal,
            Source source,
            Routed routed,
            Routed.Way.Opens opens,
            Settlement settlement,
            @Nullable Matter after) {
        Command raise = new Command.RaiseBySignal(
                opens.kind(),
                fields(signal, source),
                heard(signal, routed.turn(), after),
                routed.looks(),
                routed.starts());
        Actor by = new Actor.Outside(source.key().value());
        CommandService.Outcome outcome =
                means.commands().raise(opens.kind(), "signal." + signal.id(), by, raise, settlement);
        switch (outcome) {
            case CommandService.Outcome.Done done -> {
                if (opens.follows() != null) {
                    means.commands()
                            .handle(
                                    new TicketId(done.ticket()),
                                    "follows." + signal.id(),
                                    Actor.SYSTEM,
                                    new Command.LinkTicket(opens.follows(), LinkKind.RELATED, false));
                }
            }
            case CommandService.Outcome.Refused refused -> {
                LOG.warn(
                        "no ticket could be opened for signal {}: {}",
                        signal.id(),
                        refused.refusal().message());
                settle(
                        new Settlement(
                                List.of(notOpened(
                                        signal, routed.turn(), refused.refusal().message())),
                                settlement.before(),
                                settlement.after(),
                                false,
                                null),
                        null);
            }
        }
    }

    private static Settlement.Routed notOpened(Signal s, Turn turn, String why) {
        Settlement.Routed kept = routed(s, "kept", turn, null);
        return new Settlement.Routed(
                kept.id(),
                kept.state(),
                turn,
                kept.sort(),
                kept.severity(),
                kept.title(),
                kept.ci(),
                kept.understood(),
                null,
                "No ticket could be opened: " + why);
    }

    private static Map<String, Object> fields(Signal s, Source source) {
        Map<String, Object> fields = new HashMap<>();
        Severity severity = s.severity() == null ? Severity.INDETERMINATE : s.severity();
        fields.put("title", s.title());
        fields.put("impact", severity.impact());
        fields.put("urgency", severity.urgency());
        List<String> words = new ArrayList<>();
        if (s.text() != null) {
            words.add(s.text());
        }
        if (s.link() != null) {
            words.add(s.link());
        }
        if (!words.isEmpty()) {
            fields.put("description", String.join("\n", words));
        }
        if (s.ci() != null) {
            fields.put("ci", s.ci().value());
        }
        if (s.service() != null) {
            fields.put("service", s.service().value());
        }
        if (source.group() != null) {
            fields.put("group", source.group());
        }
        return fields;
    }

    private void hear(
            TicketId ticket, String id, SourceKey source, Event.Heard heard, Routed routed, Settlement settlement) {
        CommandService.Outcome outcome = means.commands()
                .handle(
                        ticket,
                        id,
                        new Actor.Outside(source.value()),
                        new Command.HearSignals(heard, routed.looks(), routed.starts()),
                        settlement);
        if (outcome instanceof CommandService.Outcome.Refused) {
            // It has ended meanwhile: nothing was written, and it is looked at again with that known.
            throw contended();
        }
    }

    private void settle(Settlement settlement, @Nullable TicketId ticket) {
        if (!means.matters().settle(settlement, ticket)) {
            throw contended();
        }
    }

    private static Cases.Contended contended() {
        return Cases.contended("What becomes of signals was settled elsewhere meanwhile.");
    }

    private static Event.Heard heard(Signal s, Turn turn, @Nullable Matter matter) {
        boolean many =
                turn == Turn.REPEATS && matter != null && matter.notEntered().count() > 0;
        return new Event.Heard(
                s.source(),
                turn,
                many ? matter.notEntered().count() : 1,
                many && matter.notEntered().first() != null
                        ? matter.notEntered().first()
                        : s.cameAt(),
                s.cameAt(),
                s.id(),
                s.severity(),
                s.ci(),
                s.matter(),
                s.title(),
                s.text(),
                s.link(),
                s.values());
    }

    private static Settlement.Routed routed(Signal s, String state, Turn turn, @Nullable String why) {
        return new Settlement.Routed(
                s.id(),
                state,
                turn,
                s.sort().word(),
                s.severity() == null ? null : s.severity().word(),
                s.title(),
                s.ci() == null ? null : s.ci().value(),
                Json.write(s),
                why,
                null);
    }

    private Routing.Facts facts(
            Source source,
            @Nullable Matter before,
            @Nullable Turned turned,
            Routing.@Nullable Stands ticket,
            Signal signal,
            Batch batch) {
        Instant now = means.clock().instant();
        return new Routing.Facts(
                source,
                before,
                turned,
                ticket,
                batch.triggers(),
                means.understanding().expressions(batch.own()),
                means.understanding().scope(signal, now),
                now);
    }

    // --- looking again

    /** Looks again at matters whose time has come. Returns whether there were any. */
    boolean judge() {
        Instant now = means.clock().instant();
        List<Matters.Held> due = means.matters().toJudge(now, TOGETHER);
        atOnce(due, held -> {
            try {
                judge(held, now);
            } catch (Cases.Contended e) {
                LOG.debug("the matter {} was settled elsewhere", held.matter().key());
            }
        });
        return !due.isEmpty();
    }

    /** Does it for each on a thread of its own, and ends when all are done; the first that failed fails the whole. */
    private static <T> void atOnce(Collection<T> all, Consumer<T> work) {
        List<CompletableFuture<Void>> under = all.stream()
                .map(one -> CompletableFuture.runAsync(() -> work.accept(one), Thread::startVirtualThread))
                .toList();
        try {
            CompletableFuture.allOf(under.toArray(CompletableFuture[]::new)).join();
        } catch (CompletionException e) {
            throw e.getCause() instanceof RuntimeException cause ? cause : new IllegalStateException(e.getCause());
        }
    }

    private void judge(Matters.Held read, Instant now) {
        Matter m = read.matter();
        if (m.turns().unsteadyUntil() != null && !m.isUnsteady(now)) {
            m = m.steady();
        }
        TicketId ticket = m.ticket();
        Optional<Case> on = ticket == null ? Optional.empty() : means.tickets().find(ticket);
        if (ticket == null || on.isEmpty() || TicketKind.ended(on.get().state())) {
            claim(
                    read,
                    on.flatMap(c -> Optional.ofNullable(c.lastAt()))
                            .map(m::ended)
                            .orElse(m)
                            .judged());
        } else if (m.enterAt().filter(at -> !at.isAfter(now)).isPresent()) {
            enterWaiting(read, m, ticket, now);
        } else if (m.recoveredAt().filter(at -> !at.isAfter(now)).isPresent() && allClear(ticket)) {
            recover(read, m, ticket);
        } else {
            claim(read, allClearLater(m, now));
        }
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
        settle(new Settlement(List.of(), read, after, false, null), null);
    }

    private void enterWaiting(Matters.Held read, Matter m, TicketId ticket, Instant now) {
        Optional<Signal> last = means.incoming().lastOf(m.key()).map(body -> Json.read(body, Signal.class));
        Matter after = m.entered(now).judged();
        Settlement settlement = new Settlement(List.of(), read, after, false, null);
        if (last.isEmpty()) {
            claim(read, after);
            return;
        }
        Event.Heard heard = heard(last.get(), Turn.REPEATS, m);
        hear(
                ticket,
                "joined." + ticket + "." + last.get().id() + ".late",
                last.get().source(),
                heard,
                Routed.none(),
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
