package dastur.core.rehearsal;

import dastur.core.people.Actor;
import dastur.core.run.Case;
import dastur.core.run.Command;
import dastur.core.run.Engine;
import dastur.core.run.Event;
import dastur.core.workflow.Trigger;
import dastur.core.workflow.TriggerId;
import java.time.Duration;
import java.time.Instant;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.TreeMap;
import java.util.stream.Stream;

/** How a rehearsed run begins. What would not start says why, as the record of a real ticket would. */
final class Beginning {
    /** Clocks of a ticket that have not rung by then never will. */
    private static final Duration LONGEST = Duration.ofDays(400);

    private static final int MOST_ALARMS = 200;

    private final Rehearsal rehearsal;
    private final Setting setting;

    Beginning(Rehearsal rehearsal) {
        this.rehearsal = rehearsal;
        this.setting = rehearsal.setting();
    }

    static Optional<Trigger> trigger(Begins begins) {
        return switch (begins) {
            case Begins.ByHand b -> Optional.empty();
            case Begins.ByCause b -> Optional.of(b.trigger());
            case Begins.BySignal b -> Optional.of(b.trigger());
            case Begins.OnTicket b -> Optional.of(b.trigger());
        };
    }

    Played begin() {
        Played nothing = new Played(Case.none(Rehearsal.TICKET), List.of(), setting.start(), null, Map.of());
        return switch (setting.begins()) {
            case Begins.ByHand b -> byHand(nothing);
            case Begins.ByCause b ->
                rehearsal.handle(
                        nothing,
                        Actor.SYSTEM,
                        new Command.RaiseByCause(b.cause(), rehearsal.live(b.trigger()), b.title(), setting.inputs()));
            case Begins.BySignal b -> bySignal(nothing, b);
            case Begins.OnTicket b -> onTicket(nothing, b);
        };
    }

    private Played byHand(Played nothing) {
        Played raised = moved(raised(nothing, Set.of()));
        return raised.refused() != null
                ? raised
                : rehearsal.handle(
                        raised,
                        Actor.of(setting.by()),
                        new Command.StartRun(rehearsal.version().key(), setting.inputs()));
    }

    /** @param without fields that are left out, by their names */
    private Played raised(Played nothing, Set<String> without) {
        Map<String, Object> fields = new TreeMap<>(setting.fields());
        fields.keySet().removeAll(without);
        fields.remove("state");
        fields.remove("priority");
        fields.putIfAbsent("title", "A rehearsal");
        fields.putIfAbsent("requester", setting.by().value());
        return rehearsal.handle(nothing, Actor.of(setting.by()), new Command.RaiseTicket(setting.kind(), fields, null));
    }

    private Played moved(Played raised) {
        Object state = setting.fields().get("state");
        if (raised.refused() != null
                || state == null
                || state.equals(raised.ticket().state())) {
            return raised;
        }
        Played moved =
                rehearsal.handle(raised, Actor.of(setting.by()), new Command.EditTicket(Map.of("state", state), null));
        return moved.refused() == null ? moved : raised;
    }

    private Played bySignal(Played nothing, Begins.BySignal b) {
        if (b.why() != null) {
            return Rehearsal.refused(nothing, "It does not start: " + b.why() + ".");
        }
        Trigger.Live live = rehearsal.live(b.trigger());
        Trigger.When when = b.trigger().when();
        return begun(
                rehearsal.handle(
                        nothing,
                        new Actor.Outside(b.heard().source().value()),
                        new Command.RaiseBySignal(
                                when.kind() == null ? setting.kind() : when.kind(),
                                b.fields(),
                                b.heard(),
                                b.looks(),
                                List.of(b.proved() ? live : live.asking()),
                                b.proved())),
                b.trigger().id());
    }

    private Played onTicket(Played nothing, Begins.OnTicket b) {
        Played begun =
                switch (b.trigger().when()) {
                    case Trigger.Created w -> raised(nothing, Set.of());
                    case Trigger.FieldReaches w -> reached(raised(nothing, Set.of(w.field())), w);
                    case Trigger.ClockReaches w ->
                        passed(raised(nothing, Set.of()), b.trigger().id());
                    case Trigger.SignalEntered w -> entered(raised(nothing, Set.of()), b);
                    case Trigger.ApprovalEnds w ->
                        Rehearsal.refused(
                                nothing,
                                "It begins by an approval that another workflow asks for. Begin it by hand: what it does is the same.");
                    case Trigger.ByHand w -> byHand(nothing);
                    case Trigger.SignalComes w -> Rehearsal.refused(nothing, "Choose the signal that comes.");
                    case Trigger.OfItself w -> Rehearsal.refused(nothing, "It listens to no ticket.");
                };
        return b.trigger().when() instanceof Trigger.ByHand
                ? begun
                : begun(begun, b.trigger().id());
    }

    private Played reached(Played raised, Trigger.FieldReaches w) {
        return raised.refused() != null
                ? raised
                : rehearsal.handle(
                        raised, Actor.of(setting.by()), new Command.EditTicket(Map.of(w.field(), value(w)), null));
    }

    /** As the field's type wants it: a trigger names it as text. */
    private static Object value(Trigger.FieldReaches w) {
        if (w.value().matches("-?\\d{1,18}")) {
            return Long.parseLong(w.value());
        }
        return switch (w.value()) {
            case "true" -> true;
            case "false" -> false;
            default -> w.value();
        };
    }

    /** Lets time go by until the trigger was looked at. */
    private Played passed(Played raised, TriggerId trigger) {
        Played at = raised;
        for (int i = 0;
                i < MOST_ALARMS && at.refused() == null && look(at, trigger).isEmpty();
                i++) {
            Optional<Instant> next = Engine.nextAlarm(at.ticket(), setting.start());
            if (next.isEmpty() || next.get().isAfter(setting.start().plus(LONGEST))) {
                return Rehearsal.refused(
                        at, "Its clock never gets there: nothing is promised for the ticket, or it stands still.");
            }
            at = rehearsal.pass(at, next.get());
        }
        return at;
    }

    private Played entered(Played raised, Begins.OnTicket b) {
        if (raised.refused() != null) {
            return raised;
        }
        return b.heard() == null
                ? Rehearsal.refused(raised, "Choose the signal that is entered.")
                : rehearsal.handle(
                        raised,
                        new Actor.Outside(b.heard().source().value()),
                        new Command.HearSignals(b.heard(), List.of(), List.of(), true));
    }

    // --- whether it began

    /** The same where the run began, else with the reason why it did not. Where it asks first, somebody says yes. */
    private Played begun(Played stage, TriggerId trigger) {
        if (stage.refused() != null || stage.ticket().runs().begun() > 0) {
            return stage;
        }
        if (stage.ticket().offers().containsKey(trigger.value())) {
            return rehearsal.handle(
                    stage, Actor.of(setting.by()), new Command.AnswerOffer(trigger, true, setting.inputs(), null));
        }
        return Rehearsal.refused(
                stage,
                "It does not start: "
                        + look(stage, trigger).map(Event.Look::why).orElse("its trigger listens to something else")
                        + ".");
    }

    private static Optional<Event.Look> look(Played stage, TriggerId trigger) {
        return stage.record().stream()
                .flatMap(r -> r.event() instanceof Event.TriggersLookedAt e && e.looks() != null
                        ? e.looks().stream()
                        : Stream.empty())
                .filter(l -> l.trigger().equals(trigger))
                .findFirst();
    }
}
