package dastur.core.run;

import static org.assertj.core.api.Assertions.assertThat;

import dastur.core.json.Json;
import dastur.core.people.Actor;
import dastur.core.people.PersonId;
import dastur.core.record.Entry;
import dastur.core.record.Seal;
import dastur.core.step.approval.ApprovalCommands.Vote;
import dastur.core.step.approval.ApprovalEvents.ApprovalAsked;
import dastur.core.step.approval.ApprovalEvents.VoteCast;
import dastur.core.step.approval.Votes;
import dastur.core.step.callin.AnswerCallIn;
import dastur.core.step.callin.OpenCallIn;
import dastur.core.step.calling.CallUnderWay;
import dastur.core.step.calling.CallingCommands.CallOutcome;
import dastur.core.step.calling.CallingCommands.CallResult;
import dastur.core.step.check.CheckCommands.ReviewCheck;
import dastur.core.step.check.CheckCommands.ReviewVerdict;
import dastur.core.step.check.Judging;
import dastur.core.step.check.Review;
import dastur.core.step.task.OpenTask;
import dastur.core.step.task.TaskCommands.ClaimTask;
import dastur.core.step.task.TaskCommands.CompleteTask;
import dastur.core.step.task.TaskCommands.HandBackTask;
import dastur.core.step.task.TaskCommands.LeaveOut;
import dastur.core.step.task.TaskCommands.TakeBack;
import dastur.core.step.task.TaskEvents.TaskDone;
import dastur.core.step.task.TaskEvents.TaskTakenBack;
import dastur.core.step.waiting.ForCondition;
import dastur.core.step.waiting.ForReply;
import dastur.core.step.waiting.ForSignal;
import dastur.core.step.waiting.Moment;
import dastur.core.ticket.Promised;
import dastur.core.ticket.Service;
import dastur.core.time.Span;
import dastur.core.workflow.Action;
import dastur.core.workflow.ActionKey;
import dastur.core.workflow.ApprovalRule;
import dastur.core.workflow.StepId;
import dastur.core.workflow.Trigger;
import dastur.core.workflow.TriggerId;
import dastur.core.workflow.WorkflowVersion;
import java.time.Duration;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Random;
import java.util.TreeMap;
import java.util.function.Function;
import net.jqwik.api.ForAll;
import net.jqwik.api.Property;
import net.jqwik.api.constraints.IntRange;
import org.jspecify.annotations.Nullable;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;

/** The engine's laws over random stories: people, machines, clocks and outages in any order. */
class EngineLawsTest {
    private static final List<PersonId> PEOPLE = List.of(World.RUNA, World.SEM, World.TEO, World.PRIYA, World.JONAS);

    @Property(tries = 150)
    void lawsHoldAfterEveryCommand(@ForAll long seed, @ForAll @IntRange(min = 5, max = 40) int length) {
        Random random = new Random(seed);
        World world = new World();
        vary(world, random);
        lawsHold(world, random, length);
    }

    /** The same laws inside brackets: generated workflows with forks, for each, repeats, stages and put-backs. */
    @Property(tries = 150)
    void lawsHoldInsideBracketsToo(@ForAll long seed, @ForAll @IntRange(min = 5, max = 40) int length) {
        insideBrackets(seed, length);
    }

    /** Values of a withdrawn bracket; a line that vanished beside a busy one. */
    @ParameterizedTest
    @CsvSource({"-174578, 22", "-3777, 8"})
    void storiesThatBrokeTheLawsOnceHold(long seed, int length) {
        insideBrackets(seed, length);
    }

    private static void insideBrackets(long seed, int length) {
        Random random = new Random(seed);
        World world = new World();
        WorkflowVersion generated = dastur.core.notation.Generated.workflow(random, random.nextBoolean());
        world.publish(
                new WorkflowVersion(
                        World.GATE,
                        1,
                        "Generated",
                        null,
                        World.TEO,
                        null,
                        List.of(),
                        generated.vars(),
                        generated.body()),
                new Trigger(new TriggerId("created"), true, new Trigger.Created(null), List.of(), null),
                new Trigger(new TriggerId("hand"), true, new Trigger.ByHand(null), List.of(), null));
        lawsHold(world, random, length);
    }

    private static void lawsHold(World world, Random random, int length) {
        world.raise();
        for (int i = 0; i < length; i++) {
            time(world, random);
            Actor by = Actor.of(PEOPLE.get(random.nextInt(PEOPLE.size())));
            Command command = command(world, random);
            Decision first = world.decide(by, command);
            decidedTheSameAgain(world, by, command, first);
            Case before = world.ticket;
            Decision decision = world.handle(by, command);
            refusedLeavesTheTicketAlone(before, decision);
            neverSilentlyStuck(world.ticket);
            bracketsLeaveNothingBehind(world.ticket);
            excludedNeverVoted(world);
            // Where the clock did something first, the task was no longer as it was before the command.
            if (command instanceof CompleteTask done
                    && decision instanceof Decision.Accepted accepted
                    && accepted.events().getFirst().event() instanceof TaskDone) {
                takenBackLeavesItAsItWas(world, by, before, done.visit());
            }
        }
        snapshotIsTheFoldOfTheSealedRecord(world);
    }

    /** D29: an outcome that can be taken back leaves the task open as it was, and nothing of what followed. */
    private static void takenBackLeavesItAsItWas(World world, Actor by, Case before, VisitId visit) {
        Visit task = before.visit(visit).orElse(null);
        if (task != null
                && world.decide(by, new TakeBack(visit)) instanceof Decision.Accepted back
                && back.events().stream().anyMatch(e -> e.event() instanceof TaskTakenBack)) {
            Run was = before.open().get(visit.run());
            Run is = back.after().open().get(visit.run());
            assertThat(is.open()).isEqualTo(was.open());
            assertThat(is.steps()).isEqualTo(was.steps());
            assertThat(is.inner()).isEqualTo(was.inner());
            assertThat(is.ready()).isEqualTo(was.ready());
            neverSilentlyStuck(back.after());
        }
    }

    private static void vary(World world, Random random) {
        world.promises(Map.of(
                "P1", new Service.Promise(Span.parse("5 min"), Span.parse("4 working h")),
                "P3", new Service.Promise(Span.parse("30 min"), null)));
        ApprovalRule rule =
                switch (random.nextInt(3)) {
                    case 0 -> new ApprovalRule.AnyOne();
                    case 1 -> new ApprovalRule.Everyone();
                    default -> new ApprovalRule.AtLeast(1 + random.nextInt(3));
                };
        world.publish(
                World.gateWorkflow(rule),
                new Trigger(new TriggerId("created"), random.nextBoolean(), new Trigger.Created(null), List.of(), null),
                new Trigger(
                        new TriggerId("impact"),
                        true,
                        new Trigger.FieldReaches(null, "impact", "1"),
                        List.of(),
                        null,
                        Trigger.Mode.values()[random.nextInt(4)]),
                new Trigger(
                        new TriggerId("p1"), true, new Trigger.FieldReaches(null, "priority", "P1"), List.of(), null),
                new Trigger(new TriggerId("voted"), true, new Trigger.ApprovalEnds(null, "approved"), List.of(), null),
                new Trigger(
                        new TriggerId("clock"),
                        true,
                        new Trigger.ClockReaches(null, Promised.RESTORE, 1 + random.nextInt(100)),
                        List.of(),
                        null,
                        Trigger.Mode.values()[random.nextInt(4)]),
                new Trigger(new TriggerId("hand"), true, new Trigger.ByHand(null), List.of(), null));
        Action.Repeat repeat = Action.Repeat.values()[random.nextInt(3)];
        world.put(new LookupKey.OfAction(new ActionKey("close-lane")), World.closeLane(repeat));
    }

    static void time(World world, Random random) {
        world.now = world.now.plus(Duration.ofMillis(random.nextInt(1_000_000)));
        if (random.nextInt(8) == 0) {
            world.upSince = world.now;
        }
    }

    static Command command(World world, Random random) {
        List<Visit> open = world.ticket.open().values().stream()
                .flatMap(r -> r.open().values().stream())
                .toList();
        VisitId some = open.isEmpty() || random.nextInt(5) == 0
                ? new VisitId("I-1.1." + (1 + random.nextInt(6)))
                : open.get(random.nextInt(open.size())).id();
        return switch (random.nextInt(16)) {
            case 12 -> fitting(world, some, random);
            case 13 -> fitting(world, some, random);
            case 14 -> fitting(world, some, random);
            case 15 ->
                new ReviewCheck(some, ReviewVerdict.values()[random.nextInt(3)], random.nextBoolean() ? "seen" : null);
            case 0 -> new ClaimTask(some);
            case 1 -> new HandBackTask(some);
            case 2, 3 ->
                new CompleteTask(
                        some,
                        random.nextInt(4) == 0 ? "Cleared on the spot" : "Close the lane",
                        Map.of("seen", "3.0"),
                        null);
            case 4, 5, 6 -> vote(world, some, random);
            case 7, 8 -> callResult(world, some, random);
            case 9 ->
                new Command.EditTicket(
                        Map.of("title", "Gate " + random.nextInt(3), "impact", (long) random.nextInt(6)), null);
            case 10 ->
                new Command.Intervene(
                        some.run(),
                        some,
                        Intervention.values()[random.nextInt(Intervention.values().length)],
                        "approved",
                        "tried",
                        new StepId("s" + (1 + random.nextInt(4))),
                        1);
            default -> {
                boolean first = random.nextBoolean();
                if (!world.ticket.offers().isEmpty()) {
                    yield new Command.AnswerOffer(new TriggerId("impact"), first, Map.of(), null);
                }
                yield first ? new Command.StartRun(World.GATE, Map.of()) : new Command.Tick();
            }
        };
    }

    /** What a visit waits for, so that stories go on. */
    private static Command fitting(World world, VisitId some, Random random) {
        return switch (world.ticket.visit(some).map(Visit::waiting).orElse(new Waiting.Help())) {
            case OpenTask t ->
                t.mayLeaveOut() && random.nextInt(4) == 0
                        ? new LeaveOut(some, "not needed")
                        : new CompleteTask(
                                some,
                                t.outcomes().get(random.nextInt(t.outcomes().size())),
                                Map.of(),
                                null);
            case Votes v -> vote(world, some, random);
            case CallUnderWay w -> callResult(world, some, random);
            case OpenCallIn in -> new AnswerCallIn(some, random.nextBoolean());
            default -> new Command.Tick();
        };
    }

    private static Command vote(World world, VisitId visit, Random random) {
        String digest = world.ticket
                .visit(visit)
                .filter(v -> v.waiting() instanceof Votes)
                .map(v -> ((Votes) v.waiting()).digest())
                .orElse("x");
        int round = world.ticket
                .visit(visit)
                .filter(v -> v.waiting() instanceof Votes)
                .map(v -> ((Votes) v.waiting()).round())
                .orElse(1);
        return new Vote(visit, round, digest, random.nextInt(4) > 0, random.nextBoolean() ? "because" : null);
    }

    private static Command callResult(World world, VisitId visit, Random random) {
        int attempt = world.ticket
                .visit(visit)
                .filter(v -> v.waiting() instanceof CallUnderWay)
                .map(v -> ((CallUnderWay) v.waiting()).attempt())
                .orElse(1);
        return new CallResult(
                visit,
                attempt,
                switch (random.nextInt(3)) {
                    case 0 -> new CallOutcome.Failed("503");
                    case 1 -> new CallOutcome.Unknown("lost");
                    default ->
                        new CallOutcome.Done(
                                "ok", Map.of("lock", "L-1", "count", 3.0, "share", 0.5), "r", null, "log", 5, 0);
                });
    }

    /** Law 1. */
    private static void decidedTheSameAgain(World world, Actor by, Command command, Decision first) {
        Decision again = new Engine()
                .decide(world.ticket, "same", by, command, new Context(world.now, world.upSince, world.lookups()));
        assertThat(withoutCause(again)).isEqualTo(withoutCause(first));
    }

    private static String withoutCause(Decision decision) {
        List<Recorded> events =
                switch (decision) {
                    case Decision.Accepted a -> a.events();
                    case Decision.Refused r -> r.events();
                    case Decision.Needs n -> List.of();
                };
        return events.stream()
                .map(e -> e.seq() + e.at().toString() + e.visit() + Json.write(e.event()))
                .toList()
                .toString();
    }

    /** Law 3 and D4: a refusal changes nothing of the ticket but what the clock or the data did before it. */
    private static void refusedLeavesTheTicketAlone(Case before, Decision decision) {
        if (decision instanceof Decision.Refused refused) {
            assertThat(refused.refusal().message()).isNotBlank();
            boolean moved = refused.events().stream()
                    .anyMatch(e -> e.actor() instanceof Actor.OfPerson && !(e.event() instanceof Event.CameTooLate));
            assertThat(moved).as("%s %s", refused.refusal(), refused.events()).isFalse();
        }
    }

    /** Law 2: each open visit waits for somebody or something, or is stalled and says so. */
    private static void neverSilentlyStuck(Case c) {
        for (Run run : c.open().values()) {
            assertThat(run.open().size() + run.ready().size()).isPositive();
            for (Visit visit : run.open().values()) {
                boolean waits =
                        switch (visit.waiting()) {
                            case OpenTask t -> !t.to().nobody();
                            case Votes v -> v.electorate().size() - v.cast().size() > 0;
                            case CallUnderWay w ->
                                visit.alarms().stream()
                                        .anyMatch(a -> a.kind() == Visit.AlarmKind.RETRY
                                                || a.kind() == Visit.AlarmKind.TIME_LIMIT);
                            case Waiting.Delivery d -> !d.left().isEmpty();
                            case Moment m -> !visit.alarms().isEmpty();
                            case Waiting.Lines lines -> goesOnInside(run, visit);
                            case ForCondition f -> true;
                            case ForSignal f -> true;
                            case ForReply reply -> !reply.from().nobody();
                            case Waiting.Sent s -> true;
                            case Waiting.Called called -> c.open().containsKey(called.run());
                            case Review r -> !r.to().nobody();
                            case OpenCallIn in ->
                                visit.alarms().stream().anyMatch(a -> a.kind() == Visit.AlarmKind.TIMEOUT);
                            case Judging j -> visit.alarms().stream().anyMatch(a -> a.kind() == Visit.AlarmKind.JUDGE);
                            case Waiting.Help h -> false;
                            case Waiting.InRoom own -> own.alive(visit);
                        };
                assertThat(waits || visit.stall() != null).as("%s", visit).isTrue();
            }
        }
    }

    private static boolean goesOnInside(Run run, Visit bracket) {
        return run.open().values().stream().anyMatch(v -> run.inside(v.place(), bracket.id()))
                || run.ready().stream().anyMatch(t -> run.inside(t.place(), bracket.id()))
                || bracket.alarms().stream().anyMatch(a -> a.kind() == Visit.AlarmKind.PAUSE)
                || !run.puttingBack().isEmpty();
    }

    /** Nothing stays behind of a bracket that is left: neither tokens nor values of its inside (D9). */
    private static void bracketsLeaveNothingBehind(Case c) {
        for (Run run : c.open().values()) {
            run.ready().forEach(t -> run.chain(t.place())
                    .forEach(p -> assertThat(run.open()).containsKey(p.bracket())));
            run.open().values().forEach(v -> run.chain(v.place())
                    .forEach(p -> assertThat(run.open()).containsKey(p.bracket())));
            run.inner().keySet().forEach(scope -> assertThat(run.open())
                    .containsKey(new VisitId(scope.substring(0, scope.indexOf('/')))));
        }
    }

    /** Law 5. */
    private static void excludedNeverVoted(World world) {
        world.record.stream().filter(r -> r.event() instanceof VoteCast).forEach(r -> {
            VoteCast vote = (VoteCast) r.event();
            Optional<ApprovalAsked> asked = world.record.stream()
                    .filter(a -> r.visit().equals(a.visit())
                            && a.event() instanceof ApprovalAsked e
                            && e.round() == vote.round())
                    .map(a -> (ApprovalAsked) a.event())
                    .findFirst();
            assertThat(asked).isPresent();
            assertThat(asked.get().electorate()).contains(vote.by());
            assertThat(asked.get().excluded()).doesNotContain(vote.by());
            assertThat(asked.get().digest()).isEqualTo(vote.digest());
        });
    }

    private static void snapshotIsTheFoldOfTheSealedRecord(World world) {
        List<Entry> entries = new ArrayList<>();
        String previous = Seal.START;
        for (Recorded recorded : world.record) {
            Entry entry = Seal.seal(World.TICKET, recorded, previous, () -> new byte[32]);
            entries.add(entry);
            previous = entry.hash();
        }
        assertThat(Seal.check(entries)).isEmpty();
        List<Recorded> read = entries.stream().map(Seal::open).toList();
        Case folded = Engine.fold(World.TICKET, read);
        assertThat(Json.write(folded)).isEqualTo(Json.write(world.ticket));
        assertThat(Json.read(Json.write(folded), Case.class)).isEqualTo(folded);
        rowsThatGrewAreThoseOfTheRecord(read, folded);
    }

    /** K5: what stands beside a record, kept up with event by event, is what the whole record gives at once. */
    private static void rowsThatGrewAreThoseOfTheRecord(List<Recorded> read, Case folded) {
        Stood grown = new Stood();
        Case c = Case.none(World.TICKET);
        for (Recorded recorded : read) {
            Case next = Engine.apply(c, recorded);
            Standing.changes(c, next, grown);
            c = next;
        }
        Stood anew = new Stood();
        // Through JSON: not one object of it is the same, so nothing can be taken for unchanged.
        Standing.changes(Case.none(World.TICKET), Json.read(Json.write(folded), Case.class), anew);
        assertThat(grown.rows).isEqualTo(anew.rows);
    }

    /** Keeps what it is told, and is told nothing about what it does not have. */
    private static final class Stood implements Standing.Changes {
        private final Map<String, Object> rows = new TreeMap<>();

        @Override
        public void run(Standing.@Nullable RunLine before, Standing.@Nullable RunLine after) {
            put(before, after, r -> "run " + r.id());
        }

        @Override
        public void item(Standing.@Nullable Item before, Standing.@Nullable Item after) {
            put(before, after, i -> "item " + i.id());
        }

        @Override
        public void wait(Standing.@Nullable Wait before, Standing.@Nullable Wait after) {
            put(before, after, w -> "wait " + w.visit());
        }

        @Override
        public void call(Standing.@Nullable Call before, Standing.@Nullable Call after) {
            put(before, after, w -> "call " + w.id());
        }

        private <T> void put(@Nullable T before, @Nullable T after, Function<T, String> key) {
            if (before != null) {
                assertThat(rows.remove(key.apply(before))).isEqualTo(before);
            }
            if (after != null) {
                assertThat(rows.put(key.apply(after), after)).isNull();
            }
        }
    }
}
