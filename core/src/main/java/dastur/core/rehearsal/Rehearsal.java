package dastur.core.rehearsal;

import dastur.core.people.Actor;
import dastur.core.people.Group;
import dastur.core.people.GroupId;
import dastur.core.people.Person;
import dastur.core.people.PersonId;
import dastur.core.people.Role;
import dastur.core.rehearsal.Answer.Says;
import dastur.core.run.Case;
import dastur.core.run.Command;
import dastur.core.run.Context;
import dastur.core.run.Decision;
import dastur.core.run.Engine;
import dastur.core.run.Event;
import dastur.core.run.LookupKey;
import dastur.core.run.Lookups;
import dastur.core.run.Recorded;
import dastur.core.run.Run;
import dastur.core.run.Visit;
import dastur.core.run.Waiting;
import dastur.core.ticket.Beside;
import dastur.core.ticket.CiId;
import dastur.core.ticket.ConfigurationItem;
import dastur.core.ticket.Service;
import dastur.core.ticket.ServiceId;
import dastur.core.ticket.TicketId;
import dastur.core.time.Span;
import dastur.core.workflow.Kinds;
import dastur.core.workflow.Step;
import dastur.core.workflow.StepId;
import dastur.core.workflow.Trigger;
import dastur.core.workflow.TriggerId;
import dastur.core.workflow.WorkflowVersion;
import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Objects;
import java.util.Optional;
import java.util.Set;
import java.util.stream.Stream;
import org.jspecify.annotations.Nullable;

/**
 * Plays a version in memory: the same {@code decide} and {@code apply}, a virtual clock, scripted answers. There is no way
 * from here to anything outside, nor to a stored ticket: all it has is a function that looks things up.
 */
public final class Rehearsal {
    static final TicketId TICKET = new TicketId("R-0");
    private static final int MOST_ANSWERS = 2_000;
    private static final int MOST_ALARMS = 2_000;
    private static final Duration TYPICAL = Duration.ofMinutes(10);
    private static final Duration TYPICAL_CALL = Duration.ofSeconds(5);
    private static final Duration LONGEST = Duration.ofDays(400);

    /** What a form is given where it wants a CI, a group or a service and the ticket has none: it is there in the rehearsal alone. */
    static final String STAND_IN = "rehearsed";

    private final Engine engine = new Engine();
    private final Setting setting;
    private final WorkflowVersion version;
    private final Map<LookupKey, Optional<?>> looked = new HashMap<>();

    public Rehearsal(Setting setting) {
        this.setting = setting;
        this.version = failing(setting.version(), setting.failing());
        looked.put(new LookupKey.OfVersion(version.key(), version.number()), Optional.of(version));
        looked.put(new LookupKey.LiveVersion(version.key()), Optional.of(version.number()));
        looked.put(
                new LookupKey.OfCi(new CiId(STAND_IN)),
                Optional.of(new ConfigurationItem(
                        new CiId(STAND_IN), "A CI", "rehearsed", null, null, null, null, "in use", Map.of())));
        looked.put(
                new LookupKey.OfGroup(new GroupId(STAND_IN)),
                Optional.of(new Group(new GroupId(STAND_IN), "A group", List.of())));
        looked.put(
                new LookupKey.OfService(new ServiceId(STAND_IN)),
                Optional.of(new Service(new ServiceId(STAND_IN), "A service", false, null, null)));
        Trigger byHand = new Trigger(new TriggerId("rehearsal"), true, new Trigger.ByHand(null), List.of(), null);
        looked.put(
                new LookupKey.LiveTriggers(),
                Optional.of(new Lookups.TriggerList(
                        Stream.concat(Stream.of(byHand), Beginning.trigger(setting.begins()).stream())
                                .map(this::live)
                                .toList())));
    }

    /** A trigger as the engine looks at it. It starts the version that is rehearsed, and is switched on. */
    Trigger.Live live(Trigger t) {
        return new Trigger.Live(version.key(), version.number(), version.name(), t.switchedOn());
    }

    /** The same with checks that never hold. */
    private static WorkflowVersion failing(WorkflowVersion version, Set<StepId> checks) {
        return checks.isEmpty() ? version : version.mapped(s -> checks.contains(s.id()) ? neverHolding(s) : s);
    }

    private static Step neverHolding(Step step) {
        if (!Kinds.plays(step, Fails.class)) {
            return step;
        }
        Fails<Step> kind = Kinds.of(step, Fails.class);
        return kind.neverHolding(step);
    }

    /** Raises the ticket and starts the run, or says why it does not start. */
    public Played begin() {
        return new Beginning(this).begin();
    }

    /** Plays answers one after the other; stops at the first that is refused. */
    public Played play(List<Answer> answers) {
        Played stage = begin();
        for (Answer answer : answers) {
            if (stage.refused() != null) {
                return stage;
            }
            stage = take(stage, answer);
        }
        return stage;
    }

    /** Goes on to the end, or until it stalls: everybody gives the expected answer after a typical time. */
    public Played toTheEnd(Played from) {
        Played stage = from;
        for (int i = 0; i < MOST_ANSWERS && stage.refused() == null; i++) {
            Optional<Visit> next = waiting(stage).findFirst();
            if (next.isEmpty()) {
                return stage;
            }
            stage = take(stage, usual(stage, next.get()));
        }
        return stage;
    }

    // --- answers

    Setting setting() {
        return setting;
    }

    WorkflowVersion version() {
        return version;
    }

    /** What waits for an answer, in the order in which it was opened. */
    public Stream<Visit> waiting(Played stage) {
        return stage.ticket().open().values().stream()
                .flatMap(run -> run.open().values().stream())
                .filter(v -> v.stall() == null)
                .filter(v -> !(v.waiting() instanceof Waiting.Lines
                        || v.waiting() instanceof Waiting.Called
                        || v.waiting() instanceof Waiting.Help
                        || v.waiting() instanceof Waiting.Delivery));
    }

    /** The expected answer to a visit. */
    Answer usual(Played stage, Visit visit) {
        return options(stage, visit).getFirst();
    }

    /** Every answer a visit can get, the expected one first. */
    public List<Answer> options(Played stage, Visit visit) {
        Step step = step(stage, visit);
        Rehearses<Step> kind = Kinds.of(step, Rehearses.class);
        List<Answer> options = new ArrayList<>(kind.options(step, visit, new Rehearsing(this, stage)));
        boolean clockActs = !visit.alarms().isEmpty() && !visit.waiting().machine();
        if (clockActs || options.isEmpty()) {
            options.add(Answer.of(step.id(), Says.NOTHING));
        }
        return options;
    }

    private Step step(Played stage, Visit visit) {
        Run run = stage.ticket().open().get(visit.id().run());
        return run.workflow().equals(version.key()) && run.version() == version.number()
                ? version.step(visit.step())
                : ((WorkflowVersion) look(new LookupKey.OfVersion(run.workflow(), run.version()))
                                .orElseThrow())
                        .step(visit.step());
    }

    /** Gives an answer after its time; the clock does what it does until then. */
    public Played take(Played stage, Answer answer) {
        Optional<Visit> visit =
                waiting(stage).filter(v -> v.step().equals(answer.step())).findFirst();
        if (visit.isEmpty()) {
            return refused(stage, "'" + answer.step() + "' does not wait for an answer now.");
        }
        if (answer.says() == Says.NOTHING) {
            return untilSomethingHappens(stage, visit.get());
        }
        boolean pausing =
                visit.get().waiting().machine() && !visit.get().waiting().inFlight();
        if (pausing) {
            // The next attempt begins first; the answer is to that.
            return take(untilSomethingHappens(stage, visit.get()), answer);
        }
        Played later = pass(stage, stage.now().plus(time(answer, visit.get())));
        Optional<Visit> still = later.ticket().visit(visit.get().id()).filter(v -> v.stall() == null);
        if (still.isEmpty()) {
            return refused(later, "The answer to '" + answer.step() + "' came too late: the clock was faster.");
        }
        return give(later, still.get(), answer);
    }

    static Played refused(Played stage, String why) {
        return stage.at(stage.now(), why);
    }

    private static Duration time(Answer answer, Visit visit) {
        Span after = answer.after();
        if (after != null) {
            return Duration.ofSeconds(after.roughSeconds());
        }
        boolean machine = visit.waiting().machine();
        Duration typical = machine ? TYPICAL_CALL : TYPICAL;
        // Nobody who is expected to answer is late: half of the time they have, if that is less than usual.
        return visit.alarms().stream()
                .filter(a -> a.kind() != Visit.AlarmKind.RUNG)
                .map(a -> Duration.between(visit.openedAt(), a.due()).dividedBy(2))
                .filter(half -> half.compareTo(typical) < 0 && !half.isNegative())
                .findFirst()
                .orElse(typical);
    }

    private Played give(Played stage, Visit visit, Answer answer) {
        Step step = step(stage, visit);
        Rehearses<Step> kind = Kinds.of(step, Rehearses.class);
        return kind.give(step, visit, answer, new Rehearsing(this, stage));
    }

    // --- the clock

    /** Lets the clock go on until a visit was left, has stalled, or nothing more will happen to it. */
    Played untilSomethingHappens(Played stage, Visit visit) {
        Played at = stage;
        for (int i = 0; i < MOST_ALARMS; i++) {
            Optional<Visit> now = at.ticket().visit(visit.id()).filter(v -> v.stall() == null);
            boolean moved = now.isEmpty()
                    || !now.get().waiting().getClass().equals(visit.waiting().getClass())
                    || visit.waiting().machine() && !now.get().waiting().equals(visit.waiting());
            if (moved) {
                return at;
            }
            Optional<Instant> next = Engine.nextAlarm(at.ticket(), setting.start());
            boolean never = now.get().alarms().isEmpty()
                    || next.isEmpty()
                    || next.get().isAfter(setting.start().plus(LONGEST));
            if (never) {
                return refused(at, "Nothing happens to '" + visit.step() + "' if nobody answers.");
            }
            at = tick(at, next.get());
        }
        return at;
    }

    Played pass(Played stage, Instant until) {
        Played at = stage;
        for (int i = 0; i < MOST_ALARMS; i++) {
            Optional<Instant> next = Engine.nextAlarm(at.ticket(), setting.start());
            if (next.isEmpty() || next.get().isAfter(until)) {
                break;
            }
            at = tick(at, next.get());
        }
        return at.at(until.isAfter(at.now()) ? until : at.now(), at.refused());
    }

    private Played tick(Played stage, Instant at) {
        Instant now = at.isAfter(stage.now()) ? at : stage.now();
        return handle(stage.at(now, null), Actor.CLOCK, new Command.Tick());
    }

    // --- deciding

    Played handle(Played stage, Actor by, Command command) {
        String id = "rehearsal-" + stage.record().size();
        Decision decision = new Decision.Needs(Set.of());
        Map<LookupKey, Optional<?>> made = new HashMap<>();
        stage.cis().forEach((ci, item) -> made.put(new LookupKey.OfCi(ci), Optional.of(item)));
        for (int i = 0; i < 64 && decision instanceof Decision.Needs needs; i++) {
            needs.keys().forEach(this::look);
            looked.forEach((key, known) -> {
                if (key instanceof LookupKey.BesideCi) {
                    made.put(key, known.map(b -> ((Beside) b).with(stage.cis().values())));
                }
            });
            decision = engine.decide(
                    stage.ticket(),
                    id,
                    by,
                    command,
                    new Context(stage.now(), setting.start(), new Lookups(looked, made)));
        }
        return switch (decision) {
            case Decision.Accepted a -> delivered(grown(stage, a.events(), a.after(), null), a.events());
            case Decision.Refused r ->
                grown(stage, r.events(), r.after(), r.refusal().message());
            case Decision.Needs n -> refused(stage, "Values are missing to decide this.");
        };
    }

    Optional<?> look(LookupKey key) {
        Optional<?> known = looked.get(key);
        if (known == null) {
            known = key instanceof LookupKey.ClosedVisit
                            || key instanceof LookupKey.KeptSignal
                            || key instanceof LookupKey.WaitingCall
                    ? Optional.empty()
                    : setting.world().apply(key);
            // Whoever raised it may no longer be here, or only ask; in a rehearsal they begin the run themselves.
            if (key instanceof LookupKey.OfPerson one && one.id().equals(setting.by())) {
                known = known.map(p -> ((Person) p).mayAlso(Role.AGENT));
            }
            looked.put(key, known);
        }
        return known;
    }

    private Played grown(Played stage, List<Recorded> events, Case after, @Nullable String refused) {
        List<Recorded> record = new ArrayList<>(stage.record());
        record.addAll(events);
        Map<CiId, ConfigurationItem> cis = new HashMap<>(stage.cis());
        events.stream()
                .map(r -> r.event().changesCi())
                .filter(Objects::nonNull)
                .forEach(c -> cis.compute(
                        c.ci(),
                        (id, now) -> c.on(
                                now == null
                                        ? (ConfigurationItem)
                                                look(new LookupKey.OfCi(id)).orElse(null)
                                        : now)));
        return new Played(after, List.copyOf(record), stage.now(), refused, Map.copyOf(cis));
    }

    /** Messages arrive at once in a rehearsal, so that steps that await delivery go on. */
    private Played delivered(Played stage, List<Recorded> events) {
        Played at = stage;
        for (Recorded r : events) {
            if (r.event() instanceof Event.MessageQueued m && m.awaited() && r.visit() != null) {
                for (PersonId person : m.people()) {
                    at = handle(
                            at,
                            new Actor.Outside("rehearsal"),
                            new Command.DeliveryResult(r.visit(), m.message(), person, true, 1, "rehearsed"));
                }
            }
        }
        return at;
    }
}
