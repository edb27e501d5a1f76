package dastur.server.signals;

import com.fasterxml.jackson.annotation.JsonValue;
import dastur.core.rehearsal.Begins;
import dastur.core.run.Command;
import dastur.core.run.Event;
import dastur.core.signal.Aside;
import dastur.core.signal.Matter;
import dastur.core.signal.Signal;
import dastur.core.signal.Source;
import dastur.core.signal.Turn;
import dastur.core.start.Around;
import dastur.core.start.Routed;
import dastur.core.start.Routing;
import dastur.core.ticket.TicketId;
import dastur.core.ticket.TicketKind;
import dastur.core.workflow.Trigger;
import dastur.store.Matters;
import dastur.store.Signals;
import dastur.store.Workflows;
import java.time.Instant;
import java.time.InstantSource;
import java.util.List;
import java.util.Optional;
import org.jspecify.annotations.Nullable;

/** Says what would become of a signal if it came now, by the rules that hold for those which do; nothing is written (I4). */
public final class Foreseeing {
    /** What would become of it. */
    public enum Does {
        TAKEN("taken"),
        JOINED("joined"),
        NOTED("noted"),
        OPENED("opened"),
        KEPT("kept");

        private final String word;

        Does(String word) {
            this.word = word;
        }

        @JsonValue
        public String word() {
            return word;
        }
    }

    /**
     * What would become of it.
     *
     * @param turn what it would do to its matter
     * @param ticket that it would join, be noted on, or whose step would take it; null for none
     * @param kind of the ticket that it would open; null for none
     * @param because why it would be noted; null where it would not
     * @param why it would be kept; null where it would not
     */
    public record Foreseen(
            Does does,
            Turn turn,
            @Nullable TicketId ticket,
            @Nullable TicketKind kind,
            Aside.@Nullable Because because,
            @Nullable String why,
            List<Routed.Told> told,
            List<Event.Look> looks) {}

    /** What a signal does where it is only tried. */
    public sealed interface Test {
        record Opens(Command.RaiseTest raise) implements Test {}

        /** @param why completes "it opens no ticket: …" */
        record Nothing(String why) implements Test {}
    }

    private final Surroundings surroundings;
    private final Matters matters;
    private final Signals signals;
    private final Workflows workflows;
    private final InstantSource clock;

    Foreseeing(Surroundings surroundings, Matters matters, Signals signals, Workflows workflows, InstantSource clock) {
        this.surroundings = surroundings;
        this.matters = matters;
        this.signals = signals;
        this.workflows = workflows;
        this.clock = clock;
    }

    /** @param signal as it would be read if it came now */
    public Foreseen foresee(Source source, Signal signal) {
        Instant now = clock.instant();
        Surroundings.Standing standing = signal.matter() == null
                ? null
                : surroundings.standing(matters.find(signal.matter())
                        .map(Matters.Held::matter)
                        .orElseGet(() -> Matter.first(signal, signal.matter())));
        Matter before = standing == null ? null : standing.matter();
        Matter.Turned turned = before == null ? null : before.after(signal);
        Optional<TicketId> waits = signal.key() == null || !Delivering.mayTell(source)
                ? Optional.empty()
                : signals.waiting(source.key().value(), signal.key()).map(visit -> visit.ticket());
        Routed routed = Routing.route(
                signal,
                surroundings.facts(
                        source,
                        signal,
                        before,
                        turned,
                        standing == null ? null : standing.ticket(),
                        null,
                        workflows.liveTriggers(),
                        now));
        return waits.map(ticket -> taken(ticket, routed.turn())).orElseGet(() -> of(routed));
    }

    /** How a run would begin by a signal, had it come when nothing else was there: no ticket, no fault, no other trigger. */
    public Begins.BySignal begins(Source source, Signal signal, Trigger.Live live) {
        Routed routed = Routing.route(signal, alone(source, signal, List.of(live)));
        boolean takes = !routed.starts().isEmpty();
        return new Begins.BySignal(
                live.trigger(),
                Settling.fields(signal, source),
                Settling.heard(signal, routed.turn(), null),
                routed.looks(),
                takes
                        ? null
                        : routed.looks().stream()
                                .findFirst()
                                .map(Event.Look::why)
                                .orElse("this signal turns nothing that it listens to"),
                source.proof().proves());
    }

    /** What a ticket that is a test of a signal begins with: as if nothing else were there, so that it joins nothing. */
    public Test test(Source source, Signal signal) {
        Routed routed = Routing.route(signal, alone(source, signal, workflows.liveTriggers()));
        return switch (routed.way()) {
            case Routed.Way.Opens opens ->
                new Test.Opens(new Command.RaiseTest(new Command.RaiseBySignal(
                        opens.kind(),
                        Settling.fields(signal, source),
                        Settling.heard(signal, routed.turn(), null),
                        routed.looks(),
                        routed.starts(),
                        source.proof().proves())));
            case Routed.Way.Kept kept -> new Test.Nothing(kept.why());
            // There is nothing that it could join or be noted on.
            case Routed.Way.Joins joins -> new Test.Nothing("it joins " + joins.ticket());
            case Routed.Way.Noted noted -> new Test.Nothing("it is noted on " + noted.under());
        };
    }

    /** How every trigger that listens to signals would stand to one that came now and turned its matter (I26). */
    public List<Event.Look> everyTrigger(Source source, Signal signal) {
        return Routing.everyTrigger(signal, alone(source, signal, workflows.liveTriggers()));
    }

    /** As if nothing else were there: no ticket, and no fault. */
    private Routing.Facts alone(Source source, Signal signal, List<Trigger.Live> triggers) {
        Matter before = signal.matter() == null ? null : Matter.first(signal, signal.matter());
        Instant now = clock.instant();
        return new Routing.Facts(
                source,
                before,
                before == null ? null : before.after(signal),
                null,
                null,
                Around.NOTHING,
                null,
                triggers,
                surroundings.expressions(source),
                surroundings.scope(signal, now),
                now);
    }

    /** A step that waits for it takes it alone: nothing else is asked. */
    private static Foreseen taken(TicketId ticket, Turn turn) {
        return new Foreseen(Does.TAKEN, turn, ticket, null, null, null, List.of(), List.of());
    }

    private static Foreseen of(Routed r) {
        return switch (r.way()) {
            case Routed.Way.Joins w ->
                new Foreseen(Does.JOINED, r.turn(), w.ticket(), null, null, null, r.told(), r.looks());
            case Routed.Way.Noted w ->
                new Foreseen(Does.NOTED, r.turn(), w.under(), null, w.because(), null, r.told(), r.looks());
            case Routed.Way.Opens w ->
                new Foreseen(Does.OPENED, r.turn(), null, w.kind(), null, null, r.told(), r.looks());
            case Routed.Way.Kept w -> new Foreseen(Does.KEPT, r.turn(), null, null, null, w.why(), r.told(), r.looks());
        };
    }
}
