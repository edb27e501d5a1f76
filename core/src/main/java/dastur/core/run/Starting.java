package dastur.core.run;

import dastur.core.expression.Clause;
import dastur.core.expression.Verdict;
import dastur.core.json.Texts;
import dastur.core.people.Actor;
import dastur.core.run.Event.Look;
import dastur.core.ticket.Field;
import dastur.core.ticket.ServiceId;
import dastur.core.ticket.TicketKind;
import dastur.core.workflow.Trigger;
import dastur.core.workflow.TriggerId;
import dastur.core.workflow.WorkflowKey;
import dastur.core.workflow.WorkflowVersion;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.HashSet;
import java.util.List;
import java.util.Map;
import java.util.Objects;
import java.util.Optional;
import java.util.Set;
import org.jspecify.annotations.Nullable;

/** Starts runs by triggers, and keeps why (N30, N33; D7). */
final class Starting {
    /** How deep runs may start runs by changing tickets. */
    private static final int MAX_DEPTH = 10;

    private final Deciding d;
    private final Happened happened = new Happened();
    private final Set<TriggerId> lookedAt = new HashSet<>();
    /** What triggers of this command start. */
    private final Set<WorkflowKey> begun = new HashSet<>();
    /** The first trigger of this command that has started something. */
    private @Nullable Look won;

    Starting(Deciding d) {
        this.d = d;
    }

    /** @param parent the visit that called it; null when nothing did */
    RunId start(
            WorkflowVersion v,
            @Nullable TriggerId trigger,
            int depth,
            @Nullable VisitId parent,
            Map<String, Object> inputs,
            Actor by) {
        RunId run = RunId.of(d.now().id(), d.now().runs().begun() + 1);
        d.emit(
                by,
                run,
                null,
                null,
                new Event.RunStarted(
                        v.key(),
                        v.number(),
                        v.name(),
                        d.now().test() == null ? v.owner() : d.now().test().by(),
                        trigger,
                        depth,
                        v.body().steps().getFirst().id(),
                        parent,
                        d.lookups().versionHash(v.key(), v.number()).orElse(null),
                        inputs));
        return run;
    }

    /**
     * Compares the ticket before and after the whole command, and starts what matches, each trigger at most once per
     * command. Returns whether anything started. A test sets off nothing but what it was begun for.
     */
    boolean byTriggers() {
        happened.notice(d.events());
        if (!d.now().exists()
                || d.now().test() != null
                || d.now().fields().equals(d.before.fields()) && happened.nothing()) {
            return false;
        }
        List<Look> looks = new ArrayList<>();
        List<Runnable> starts = new ArrayList<>();
        List<Trigger.Live> asked = d.lookups().liveTriggers().stream()
                .filter(t ->
                        happened(t.trigger().when()) && lookedAt.add(t.trigger().id()))
                .toList();
        if (asked.isEmpty()) {
            return false;
        }
        boolean many = asked.size() > Look.ALL_TOLD;
        for (Trigger.Live one : asked) {
            Trigger.Live live = d.proved() ? one : one.asking();
            if (!(many && passedOver(live.trigger()))) {
                Look look = look(live, starts);
                looks.add(look);
                won = won == null && look.started() ? look : won;
            }
        }
        List<TriggerId> started =
                looks.stream().filter(Look::started).map(Look::trigger).toList();
        d.emit(
                Actor.SYSTEM,
                null,
                null,
                null,
                new Event.TriggersLookedAt(asked.size(), started, Look.told(looks, asked.size())));
        starts.forEach(Runnable::run);
        return !starts.isEmpty();
    }

    /**
     * Starts what triggers on signals have chosen: whoever routed has looked at their conditions, what depends on this ticket is
     * looked at here. The looks are entered as they then are.
     */
    void bySignal(List<Look> looks, List<Trigger.Live> chosen) {
        // What no trigger takes up stands with the signal: the record tells what follows from something.
        if (chosen.isEmpty()) {
            return;
        }
        List<Runnable> starts = new ArrayList<>();
        Map<TriggerId, Look> here = new HashMap<>();
        for (Trigger.Live live : chosen) {
            Clause.Explained explained = looks.stream()
                    .filter(l -> l.trigger().equals(live.trigger().id()))
                    .findFirst()
                    .map(Look::condition)
                    .orElse(null);
            Look look = chosen(live, explained, 0, starts);
            here.put(look.trigger(), look);
            won = won == null && look.started() ? look : won;
        }
        List<Look> all =
                looks.stream().map(l -> here.getOrDefault(l.trigger(), l)).toList();
        List<TriggerId> started =
                all.stream().filter(Look::started).map(Look::trigger).toList();
        d.emit(Actor.SYSTEM, null, null, null, new Event.TriggersLookedAt(all.size(), started, all));
        starts.forEach(Runnable::run);
    }

    /** Why a cause cannot start its workflow on a ticket of a kind; empty where it can. */
    Optional<Refusal> refusedByCause(Trigger.Live live, TicketKind on, Map<String, Object> inputs) {
        Optional<WorkflowVersion> version = d.lookups().version(live.workflow(), live.version());
        if (version.isEmpty()) {
            return Optional.of(
                    new Refusal(Refusal.Code.NOT_FOUND, "'" + live.name() + "' is no longer published.", "trigger"));
        }
        TicketKind kind = version.get().kind();
        return kind != null && kind != on
                ? Optional.of(
                        Refusal.invalid("trigger", "'" + live.name() + "' is for tickets of kind " + kind.word() + "."))
                : ByPeople.problemWith(d, version.get(), inputs);
    }

    /** Starts what a cause has set off, on the ticket that was opened for it. */
    void byCause(Cause cause, Trigger.Live live, Map<String, Object> inputs) {
        WorkflowVersion version =
                d.lookups().version(live.workflow(), live.version()).orElseThrow();
        TriggerId trigger = live.trigger().id();
        Look look = new Look(trigger, live.workflow(), live.name(), true, null, cause.why(), null);
        d.emit(Actor.SYSTEM, null, null, null, new Event.TriggersLookedAt(1, List.of(trigger), List.of(look)));
        start(version, trigger, 0, null, inputs, Actor.SYSTEM);
    }

    /** Whether the change is of the kind the trigger listens to. */
    private boolean happened(Trigger.When when) {
        if (when.kind() != null && when.kind() != d.now().kind()) {
            return false;
        }
        if (when.kind() == null && d.now().kind() == TicketKind.ROUTINE) {
            // "Any ticket" is one that somebody waits for.
            return false;
        }
        return switch (when) {
            case Trigger.Created c -> !d.before.exists();
            case Trigger.FieldReaches f -> {
                Object after = d.now().fields().get(f.field());
                yield after != null
                        && String.valueOf(after).equals(f.value())
                        && !Objects.equals(d.before.fields().get(f.field()), after);
            }
            case Trigger.ApprovalEnds a -> happened.voted(a).isPresent();
            case Trigger.ClockReaches c -> happened.reached(c);
            case Trigger.SignalEntered s -> d.before.exists() && happened.entered(s);
            case Trigger.ByHand h -> false;
            // Whoever routes signals looks at these, and says so with its command.
            case Trigger.SignalComes s -> false;
            // What sets these off is no change of a ticket.
            case Trigger.OfItself o -> false;
        };
    }

    /** Whether one of many is left out without a line: what it compares with a fixed value is something else (I26). */
    private boolean passedOver(Trigger trigger) {
        return !trigger.on()
                || !Texts.blank(trigger.condition())
                        && d.engine.ticketExpressions(d.lookups().fields()).rulesOut(trigger.condition(), d.scope());
    }

    private Look look(Trigger.Live live, List<Runnable> starts) {
        Trigger trigger = live.trigger();
        if (!trigger.on()) {
            return no(live, "it is switched off", null);
        }
        String service = d.now().text("service").orElse("");
        if (!trigger.services().isEmpty()
                && trigger.services().stream().noneMatch(s -> s.value().equals(service))) {
            String seen = service.isEmpty() ? "no service" : serviceName(new ServiceId(service));
            String wanted = String.join(
                    " or ", trigger.services().stream().map(this::serviceName).toList());
            return no(live, "it is for " + wanted + ", and the ticket is for " + seen, null);
        }
        Clause.Explained explained = null;
        if (!Texts.blank(trigger.condition())) {
            explained = d.engine.ticketExpressions(d.lookups().fields()).explain(trigger.condition(), d.scope());
            if (explained.verdict() != Verdict.TRUE) {
                return no(
                        live,
                        explained.verdict() == Verdict.FALSE
                                ? "its condition does not hold"
                                : "its condition cannot say",
                        explained);
            }
        }
        if (trigger.givesWay() && won != null) {
            return Look.givesWay(live, won, explained);
        }
        int depth = depth(live.workflow(), trigger.when());
        if (depth < 0) {
            return no(live, "the change was made by a run of this same workflow", explained);
        }
        return chosen(live, explained, depth, starts);
    }

    /** What comes of a trigger whose own conditions hold. */
    private Look chosen(Trigger.Live live, Clause.@Nullable Explained explained, int depth, List<Runnable> starts) {
        Trigger trigger = live.trigger();
        Optional<WorkflowVersion> version = d.lookups().version(live.workflow(), live.version());
        if (trigger.notWhileOneRuns() && begun.contains(live.workflow())) {
            return no(live, "another trigger has just started it", explained);
        }
        Optional<RunId> running = running(live.workflow());
        if (trigger.notWhileOneRuns() && running.isPresent()) {
            return no(live, "a run of it is under way here already: " + running.get(), explained);
        }
        if (depth > MAX_DEPTH) {
            return no(live, "runs have started runs " + MAX_DEPTH + " times in a row", explained);
        }
        if (version.isEmpty()) {
            return no(live, "its version could not be found", explained);
        }
        if (trigger.mode() == Trigger.Mode.NOTES) {
            return instead(live, "it would have started, because " + why(trigger), explained);
        }
        if (trigger.mode() != Trigger.Mode.STARTS) {
            if (d.now().offers().containsKey(trigger.id().value())) {
                return no(live, "it is proposed already", explained);
            }
            boolean asks = trigger.mode() == Trigger.Mode.ASKS;
            Assigned asked = asks ? ByPeople.answerers(d, version.get()) : new Assigned(List.of(), List.of());
            starts.add(() -> d.emit(
                    Actor.SYSTEM,
                    null,
                    null,
                    null,
                    new Event.StartOffered(trigger.id(), live.workflow(), live.name(), asked, null)));
            return instead(live, "it " + (asks ? "asks first" : "is offered") + ", because " + why(trigger), explained);
        }
        Optional<Field> missing =
                version.get().startForm().stream().filter(Field::required).findFirst();
        if (missing.isPresent()) {
            return no(
                    live,
                    "its start form needs '" + missing.get().label() + "', which only a person can give",
                    explained);
        }
        Case.Offer offer = d.now().offers().get(trigger.id().value());
        if (offer != null && offer.isHeldBack()) {
            return no(live, "it is held back already", explained);
        }
        Optional<String> tooOften = TooOften.why(d, trigger);
        if (tooOften.isPresent()) {
            starts.add(() -> {
                d.emit(
                        Actor.SYSTEM,
                        null,
                        null,
                        null,
                        new Event.StartOffered(
                                trigger.id(), live.workflow(), live.name(), new Assigned(List.of(), List.of()), true));
                TooOften.tell(d, live, version.get().owner(), tooOften.get());
            });
            return new Look(
                    trigger.id(),
                    live.workflow(),
                    live.name(),
                    false,
                    Trigger.Mode.OFFERS,
                    tooOften.get() + ", so that it is held back until somebody starts it",
                    explained);
        }
        begun.add(live.workflow());
        starts.add(() -> start(version.get(), trigger.id(), depth, null, Map.of(), Actor.SYSTEM));
        return new Look(trigger.id(), live.workflow(), live.name(), true, null, why(trigger), explained);
    }

    private String serviceName(ServiceId id) {
        return d.lookups().service(id).map(dastur.core.ticket.Service::name).orElse(id.value());
    }

    private static Look no(Trigger.Live live, String why, Clause.@Nullable Explained explained) {
        return new Look(live.trigger().id(), live.workflow(), live.name(), false, null, why, explained);
    }

    private static Look instead(Trigger.Live live, String why, Clause.@Nullable Explained explained) {
        Trigger trigger = live.trigger();
        return new Look(trigger.id(), live.workflow(), live.name(), false, trigger.mode(), why, explained);
    }

    private static String why(Trigger trigger) {
        return switch (trigger.when()) {
            case Trigger.Created c -> "the ticket was created";
            case Trigger.FieldReaches f -> "'" + f.field() + "' reached '" + f.value() + "'";
            case Trigger.ApprovalEnds a -> "an approval ended as " + a.exit();
            case Trigger.ClockReaches c ->
                c.percent() + " % of the time to " + c.clock().word() + " had passed";
            case Trigger.SignalEntered s ->
                switch (s.sort()) {
                    case FAULT -> "a fault was entered on the ticket";
                    case RECOVERED -> "a recovery was entered on the ticket";
                    case NEWS -> "news was entered on the ticket";
                };
            case Trigger.ByHand h -> "a person started it";
            case Trigger.SignalComes s -> "a signal came";
            case Trigger.OfItself o -> "it was set off";
        };
    }

    /** A run of a workflow that is open on this ticket. */
    private Optional<RunId> running(WorkflowKey workflow) {
        return d.now().open().values().stream()
                .filter(run -> run.workflow().equals(workflow))
                .map(Run::id)
                .findFirst();
    }

    /** One more than the run that made the change; −1 when that run is of the same workflow. */
    private int depth(WorkflowKey workflow, Trigger.When when) {
        // It may have ended with what it set: what goes round in a circle would else never be seen to (D7).
        Optional<Run> setter =
                switch (when) {
                    case Trigger.FieldReaches f -> d.settingRun(f.field());
                    case Trigger.ApprovalEnds a -> happened.voted(a).flatMap(d::asItWas);
                    case Trigger.Created c -> Optional.empty();
                    case Trigger.ClockReaches c -> Optional.empty();
                    case Trigger.SignalEntered s -> Optional.empty();
                    case Trigger.ByHand h -> Optional.empty();
                    case Trigger.SignalComes s -> Optional.empty();
                    case Trigger.OfItself o -> Optional.empty();
                };
        if (setter.isEmpty()) {
            return 0;
        }
        return setter.get().workflow().equals(workflow) ? -1 : setter.get().depth() + 1;
    }
}
