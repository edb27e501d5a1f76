package dastur.core.rehearsal;

import dastur.core.people.Actor;
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
import dastur.core.run.RunId;
import dastur.core.run.Visit;
import dastur.core.run.Waiting;
import dastur.core.ticket.Field;
import dastur.core.ticket.FieldType;
import dastur.core.ticket.TicketId;
import dastur.core.time.Span;
import dastur.core.workflow.Action;
import dastur.core.workflow.Check;
import dastur.core.workflow.Step;
import dastur.core.workflow.StepId;
import dastur.core.workflow.Trigger;
import dastur.core.workflow.TriggerId;
import dastur.core.workflow.WorkflowKey;
import dastur.core.workflow.WorkflowVersion;
import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.TreeMap;
import org.jspecify.annotations.Nullable;

/**
 * Plays a version in memory: the same {@code decide} and {@code apply}, a virtual clock, scripted answers. There is no way
 * from here to anything outside, nor to a stored ticket: all it has is a function that looks things up.
 */
public final class Rehearsal {
    private static final TicketId TICKET = new TicketId("R-0");
    private static final int MOST_ANSWERS = 2_000;
    private static final int MOST_ALARMS = 2_000;
    private static final Duration TYPICAL = Duration.ofMinutes(10);
    private static final Duration TYPICAL_CALL = Duration.ofSeconds(5);
    private static final Duration LONGEST = Duration.ofDays(400);

    private final Engine engine = new Engine();
    private final Setting setting;
    private final WorkflowVersion version;
    private final Map<LookupKey, Optional<?>> looked = new HashMap<>();

    public Rehearsal(Setting setting) {
        this.setting = setting;
        this.version = failing(setting.version(), setting.failing());
        looked.put(new LookupKey.OfVersion(version.key(), version.number()), Optional.of(version));
        looked.put(new LookupKey.LiveVersion(version.key()), Optional.of(version.number()));
        Trigger byHand = new Trigger(new TriggerId("rehearsal"), true, new Trigger.ByHand(null), List.of(), null);
        looked.put(
                new LookupKey.LiveTriggers(),
                Optional.of(new Lookups.TriggerList(
                        List.of(new Trigger.Live(version.key(), version.number(), version.name(), byHand)))));
    }

    /** The same with checks that never hold. */
    private static WorkflowVersion failing(WorkflowVersion version, Set<StepId> checks) {
        return checks.isEmpty()
                ? version
                : version.mapped(s -> s instanceof Check c && checks.contains(c.id()) ? c.neverHolding() : s);
    }

    /** Raises the ticket and starts the run. */
    public Stage begin() {
        Stage nothing = new Stage(Case.none(TICKET), List.of(), setting.start(), null);
        Map<String, Object> fields = new TreeMap<>(setting.fields());
        fields.remove("state");
        fields.remove("priority");
        fields.putIfAbsent("title", "A rehearsal");
        fields.putIfAbsent("requester", setting.by().value());
        Stage raised = handle(nothing, Actor.of(setting.by()), new Command.RaiseTicket(setting.kind(), fields, null));
        if (raised.refused() != null) {
            return raised;
        }
        Object state = setting.fields().get("state");
        Stage moved = state == null || state.equals(raised.ticket().state())
                ? raised
                : handle(raised, Actor.of(setting.by()), new Command.EditTicket(Map.of("state", state), null));
        return handle(
                moved.refused() == null ? moved : raised,
                Actor.of(setting.by()),
                new Command.StartRun(version.key(), setting.inputs()));
    }

    /** Plays answers one after the other; stops at the first that is refused. */
    public Stage play(List<Answer> answers) {
        Stage stage = begin();
        for (Answer answer : answers) {
            if (stage.refused() != null) {
                return stage;
            }
            stage = take(stage, answer);
        }
        return stage;
    }

    /** Goes on to the end, or until it stalls: everybody gives the expected answer after a typical time. */
    public Stage toTheEnd(Stage from) {
        Stage stage = from;
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

    /** What waits for an answer, in the order in which it was opened. */
    public java.util.stream.Stream<Visit> waiting(Stage stage) {
        return stage.ticket().open().values().stream()
                .flatMap(run -> run.open().values().stream())
                .filter(v -> v.stall() == null)
                .filter(v -> !(v.waiting() instanceof Waiting.Lines
                        || v.waiting() instanceof Waiting.Called
                        || v.waiting() instanceof Waiting.Help
                        || v.waiting() instanceof Waiting.Delivery));
    }

    /** The expected answer to a visit. */
    Answer usual(Stage stage, Visit visit) {
        return options(stage, visit).getFirst();
    }

    /** Every answer a visit can get, the expected one first. */
    public List<Answer> options(Stage stage, Visit visit) {
        Step step = step(stage, visit);
        List<Answer> options = new ArrayList<>();
        switch (visit.waiting()) {
            case Waiting.Task t -> {
                expectedFirst(step, t.outcomes()).forEach(o -> options.add(Answer.does(step.id(), o)));
                if (t.mayLeaveOut()) {
                    options.add(Answer.of(step.id(), Says.LEAVES_OUT));
                }
            }
            case Waiting.Votes v -> {
                options.add(Answer.of(step.id(), Says.APPROVES));
                options.add(Answer.of(step.id(), Says.DECLINES));
            }
            case Waiting.CallResult c -> {
                List<String> exits = new ArrayList<>(List.of("ok"));
                action(c.action()).ifPresent(a -> a.results().forEach(r -> exits.add(r.name())));
                expectedFirst(step, exits).forEach(e -> options.add(Answer.does(step.id(), e)));
                options.add(Answer.of(step.id(), Says.FAILS));
            }
            case Waiting.ForSignal s -> options.add(Answer.of(step.id(), Says.SIGNALS));
            case Waiting.ForReply r -> options.add(Answer.of(step.id(), Says.REPLIES));
            case Waiting.Sent s -> {
                expectedFirst(step, endings(s.workflow())).forEach(e -> options.add(Answer.does(step.id(), e)));
                options.add(Answer.of(step.id(), Says.FAILS));
            }
            case Waiting.Review r ->
                r.verdicts().forEach(v -> options.add(new Answer(step.id(), Says.REVIEWS, v, null, null)));
            case Waiting.CallIn in -> {
                options.add(Answer.of(step.id(), Says.ACCEPTS));
                options.add(Answer.of(step.id(), Says.CANNOT));
            }
            default -> {}
        }
        boolean clockActs = !visit.alarms().isEmpty() && !(visit.waiting() instanceof Waiting.CallResult);
        if (clockActs || options.isEmpty()) {
            options.add(Answer.of(step.id(), Says.NOTHING));
        }
        return options;
    }

    private static List<String> expectedFirst(Step step, List<String> exits) {
        List<String> ordered = new ArrayList<>(exits);
        if (step.expected() != null && ordered.remove(step.expected())) {
            ordered.addFirst(step.expected());
        }
        return ordered;
    }

    private Step step(Stage stage, Visit visit) {
        Run run = stage.ticket().open().get(visit.id().run());
        return run.workflow().equals(version.key()) && run.version() == version.number()
                ? version.step(visit.step())
                : ((WorkflowVersion) look(new LookupKey.OfVersion(run.workflow(), run.version()))
                                .orElseThrow())
                        .step(visit.step());
    }

    /** How a workflow that runs on another ticket can end. */
    private List<String> endings(WorkflowKey workflow) {
        return look(new LookupKey.LiveVersion(workflow))
                .flatMap(n -> look(new LookupKey.OfVersion(workflow, (Integer) n)))
                .map(v -> ((WorkflowVersion) v).endings())
                .orElse(List.of());
    }

    private Optional<Action> action(dastur.core.workflow.ActionKey key) {
        return look(new LookupKey.OfAction(key)).map(Action.class::cast);
    }

    /** Gives an answer after its time; the clock does what it does until then. */
    public Stage take(Stage stage, Answer answer) {
        Optional<Visit> visit =
                waiting(stage).filter(v -> v.step().equals(answer.step())).findFirst();
        if (visit.isEmpty()) {
            return refused(stage, "'" + answer.step() + "' does not wait for an answer now.");
        }
        if (answer.says() == Says.NOTHING) {
            return untilSomethingHappens(stage, visit.get());
        }
        boolean pausing = visit.get().waiting() instanceof Waiting.CallResult c && c.betweenAttempts();
        if (pausing) {
            // The next attempt begins first; the answer is to that.
            return take(untilSomethingHappens(stage, visit.get()), answer);
        }
        Stage later = pass(stage, stage.now().plus(time(answer, visit.get())));
        Optional<Visit> still = later.ticket().visit(visit.get().id()).filter(v -> v.stall() == null);
        if (still.isEmpty()) {
            return refused(later, "The answer to '" + answer.step() + "' came too late: the clock was faster.");
        }
        return give(later, still.get(), answer);
    }

    private static Stage refused(Stage stage, String why) {
        return new Stage(stage.ticket(), stage.record(), stage.now(), why);
    }

    private static Duration time(Answer answer, Visit visit) {
        Span after = answer.after();
        if (after != null) {
            return Duration.ofSeconds(after.roughSeconds());
        }
        boolean machine = visit.waiting() instanceof Waiting.CallResult;
        Duration typical = machine ? TYPICAL_CALL : TYPICAL;
        // Nobody who is expected to answer is late: half of the time they have, if that is less than usual.
        return visit.alarms().stream()
                .filter(a -> a.kind() != Visit.AlarmKind.RUNG)
                .map(a -> Duration.between(visit.openedAt(), a.due()).dividedBy(2))
                .filter(half -> half.compareTo(typical) < 0 && !half.isNegative())
                .findFirst()
                .orElse(typical);
    }

    private Stage give(Stage stage, Visit visit, Answer answer) {
        Map<String, Object> values = answer.values() == null ? Map.of() : answer.values();
        return switch (visit.waiting()) {
            case Waiting.Task t -> {
                Actor doer = Actor.of(person(stage, t.claimedBy(), t.to().people(), t.to().groups()));
                if (answer.says() == Says.LEAVES_OUT) {
                    yield handle(stage, doer, new Command.LeaveOut(visit.id(), "left out in the rehearsal"));
                }
                String outcome = answer.exit() == null ? t.outcomes().getFirst() : answer.exit();
                Map<String, Object> form = new TreeMap<>(sample(t.form()));
                form.putAll(values);
                yield handle(stage, doer, new Command.CompleteTask(visit.id(), outcome, form, null));
            }
            case Waiting.Votes v -> votes(stage, visit, answer.says() == Says.APPROVES);
            case Waiting.CallResult c ->
                handle(stage, new Actor.OfAction(c.action()), result(visit, c, answer, values));
            case Waiting.ForSignal s ->
                handle(stage, new Actor.Outside("rehearsal"), new Command.SignalCame(visit.id(), "rehearsal", values));
            case Waiting.ForReply r -> {
                Actor by =
                        Actor.of(person(stage, null, r.from().people(), r.from().groups()));
                String said = values.get("text") instanceof String text ? text : "As rehearsed.";
                yield handle(stage, by, new Command.AddNote(said, true));
            }
            case Waiting.Sent s -> {
                boolean stopped = answer.says() == Says.FAILS;
                String result = answer.exit() == null ? "" : answer.exit();
                RunId other = RunId.of(new TicketId("elsewhere"), 1);
                yield handle(stage, Actor.SYSTEM, new Command.SentEnded(visit.id(), other, result, stopped, values));
            }
            case Waiting.Review r ->
                handle(
                        stage,
                        Actor.of(person(stage, null, r.to().people(), r.to().groups())),
                        new Command.ReviewCheck(visit.id(), verdict(answer.exit()), "as rehearsed"));
            case Waiting.CallIn in -> callIn(stage, visit, in, answer.says() == Says.ACCEPTS);
            default -> refused(stage, "'" + visit.step() + "' waits for the clock, not for an answer.");
        };
    }

    private static Command.ReviewVerdict verdict(@Nullable String word) {
        return java.util.Arrays.stream(Command.ReviewVerdict.values())
                .filter(v -> v.word().equals(word))
                .findFirst()
                .orElse(Command.ReviewVerdict.ACCEPT);
    }

    private Stage callIn(Stage stage, Visit visit, Waiting.CallIn in, boolean accepts) {
        return in.asked().stream()
                .filter(p -> !in.cannot().contains(p))
                .findFirst()
                .map(p -> handle(stage, Actor.of(p), new Command.AnswerCallIn(visit.id(), accepts)))
                .orElseGet(() -> untilSomethingHappens(stage, visit));
    }

    /** As many votes as it takes to close it. */
    private Stage votes(Stage stage, Visit visit, boolean yes) {
        Stage at = stage;
        while (at.refused() == null
                && at.ticket().visit(visit.id()).map(Visit::waiting).orElse(null) instanceof Waiting.Votes v) {
            Optional<PersonId> voter = v.electorate().stream()
                    .filter(p -> !v.cast().containsKey(p))
                    .findFirst();
            if (voter.isEmpty() || at.ticket().visit(visit.id()).orElseThrow().stall() != null) {
                return at;
            }
            at = handle(
                    at,
                    Actor.of(voter.get()),
                    new Command.Vote(visit.id(), v.round(), v.digest(), yes, yes ? null : "not in the rehearsal"));
        }
        return at;
    }

    private Command result(Visit visit, Waiting.CallResult call, Answer answer, Map<String, Object> values) {
        if (answer.says() == Says.FAILS) {
            String why = values.get("error") instanceof String said ? said : "It failed in the rehearsal.";
            return new Command.CallResult(visit.id(), call.attempt(), new Command.CallOutcome.Failed(why));
        }
        Map<String, Object> outputs = new TreeMap<>();
        action(call.action())
                .ifPresent(a -> outputs.putAll(
                        sample(a.outputs().stream().map(Action.Output::field).toList())));
        outputs.putAll(values);
        String exit = answer.exit() == null ? "ok" : answer.exit();
        return new Command.CallResult(
                visit.id(),
                call.attempt(),
                new Command.CallOutcome.Done(exit, outputs, null, null, "rehearsed, nothing was called", 0, 0));
    }

    /** A value of the right type for each field, so that what follows can be seen. */
    private static Map<String, Object> sample(List<Field> fields) {
        Map<String, Object> values = new TreeMap<>();
        for (Field f : fields) {
            Object value =
                    switch (f.type()) {
                        case WHOLE -> 1L;
                        case NUMBER -> 1.0;
                        case YES_NO -> true;
                        case CHOICE -> f.choices() == null ? "" : f.choices().getFirst();
                        case LIST -> List.of();
                        case TIME -> "2026-01-01T00:00:00.000Z";
                        default -> "(" + f.label() + ")";
                    };
            if (f.required() || f.type() != FieldType.PERSON && f.type() != FieldType.CI) {
                values.put(f.name(), value);
            }
        }
        return values;
    }

    private PersonId person(
            Stage stage, @Nullable PersonId claimed, List<PersonId> people, List<dastur.core.people.GroupId> groups) {
        if (claimed != null) {
            return claimed;
        }
        return java.util.stream.Stream.concat(
                        people.stream(),
                        groups.stream()
                                .map(g -> look(new LookupKey.OfGroup(g)))
                                .flatMap(Optional::stream)
                                .flatMap(g -> ((dastur.core.people.Group) g).members().stream()))
                .findFirst()
                .orElse(setting.by());
    }

    // --- the clock

    /** Lets the clock go on until a visit was left, has stalled, or nothing more will happen to it. */
    private Stage untilSomethingHappens(Stage stage, Visit visit) {
        Stage at = stage;
        for (int i = 0; i < MOST_ALARMS; i++) {
            Optional<Visit> now = at.ticket().visit(visit.id()).filter(v -> v.stall() == null);
            boolean moved = now.isEmpty()
                    || !now.get().waiting().getClass().equals(visit.waiting().getClass())
                    || visit.waiting() instanceof Waiting.CallResult
                            && !now.get().waiting().equals(visit.waiting());
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

    private Stage pass(Stage stage, Instant until) {
        Stage at = stage;
        for (int i = 0; i < MOST_ALARMS; i++) {
            Optional<Instant> next = Engine.nextAlarm(at.ticket(), setting.start());
            if (next.isEmpty() || next.get().isAfter(until)) {
                break;
            }
            at = tick(at, next.get());
        }
        return new Stage(at.ticket(), at.record(), until.isAfter(at.now()) ? until : at.now(), at.refused());
    }

    private Stage tick(Stage stage, Instant at) {
        Instant now = at.isAfter(stage.now()) ? at : stage.now();
        return handle(new Stage(stage.ticket(), stage.record(), now, null), Actor.CLOCK, new Command.Tick());
    }

    // --- deciding

    private Stage handle(Stage stage, Actor by, Command command) {
        String id = "rehearsal-" + stage.record().size();
        Decision decision = new Decision.Needs(Set.of());
        for (int i = 0; i < 64 && decision instanceof Decision.Needs needs; i++) {
            needs.keys().forEach(this::look);
            decision = engine.decide(
                    stage.ticket(), id, by, command, new Context(stage.now(), setting.start(), new Lookups(looked)));
        }
        return switch (decision) {
            case Decision.Accepted a -> delivered(grown(stage, a.events(), a.after(), null), a.events());
            case Decision.Refused r ->
                grown(stage, r.events(), r.after(), r.refusal().message());
            case Decision.Needs n -> refused(stage, "Values are missing to decide this.");
        };
    }

    private Optional<?> look(LookupKey key) {
        Optional<?> known = looked.get(key);
        if (known == null) {
            known = key instanceof LookupKey.ClosedVisit || key instanceof LookupKey.KeptSignal
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

    private static Stage grown(Stage stage, List<Recorded> events, Case after, @Nullable String refused) {
        List<Recorded> record = new ArrayList<>(stage.record());
        record.addAll(events);
        return new Stage(after, List.copyOf(record), stage.now(), refused);
    }

    /** Messages arrive at once in a rehearsal, so that steps that await delivery go on. */
    private Stage delivered(Stage stage, List<Recorded> events) {
        Stage at = stage;
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
