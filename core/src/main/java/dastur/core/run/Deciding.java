package dastur.core.run;

import dastur.core.expression.Expressions;
import dastur.core.people.Actor;
import dastur.core.people.PersonId;
import dastur.core.ticket.ConfigurationItem;
import dastur.core.workflow.Kinds;
import dastur.core.workflow.Known;
import dastur.core.workflow.Step;
import dastur.core.workflow.StepId;
import dastur.core.workflow.WorkflowVersion;
import java.time.Instant;
import java.util.ArrayList;
import java.util.Comparator;
import java.util.HashMap;
import java.util.HashSet;
import java.util.IdentityHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.function.Supplier;
import org.jspecify.annotations.Nullable;

/**
 * One decision in the making: the case as it stands after the events so far. Each event is applied before the next is
 * decided (D1).
 */
final class Deciding {
    final Engine engine;
    final Context context;
    /** With CIs as this decision has made them. */
    private Lookups lookups;

    final Case before;
    final Actor actor;

    private final String cause;
    /** Kinds of steps that settle, in their turns. */
    private static final List<Settles> SETTLING = settling();

    private final List<Recorded> events = new ArrayList<>();
    private final Set<String> signalsTaken = new HashSet<>();
    /** Runs that something was entered on in this decision, as they were before the last of it. */
    private final Map<RunId, Run> runs = new HashMap<>();
    /** Which run set a ticket field in this decision, as it then was; null for a person. */
    private final Map<String, Run> setBy = new HashMap<>();

    /** By identity: comparing whole versions at every evaluation would cost more than evaluating. */
    private final Map<WorkflowVersion, Expressions> expressions = new IdentityHashMap<>();

    private Case now;
    private int opened;
    private boolean proved = true;
    private boolean quiet;

    Deciding(Engine engine, Case before, String cause, Actor actor, Context context) {
        this.engine = engine;
        this.before = before;
        this.now = before;
        this.cause = cause;
        this.actor = actor;
        this.context = context;
        this.lookups = context.lookups();
    }

    private static List<Settles> settling() {
        List<Settles> kinds = Kinds.as(Settles.class);
        return kinds.stream().sorted(Comparator.comparingInt(Settles::turn)).toList();
    }

    /** The ids of signals that this decision has taken. */
    Set<String> signalsTaken() {
        return signalsTaken;
    }

    List<Recorded> events() {
        return List.copyOf(events);
    }

    Case now() {
        return now;
    }

    Lookups lookups() {
        return lookups;
    }

    /** The moment of the next event: never before the last one (D28). */
    Instant at() {
        return now.lastAt() != null && now.lastAt().isAfter(context.now()) ? now.lastAt() : context.now();
    }

    /** Whether whoever set this decision off shows who it is. */
    boolean proved() {
        return proved;
    }

    Optional<Refusal> treat(Command command) {
        proved = command.proved();
        quiet = command.quiet();
        if (!before.exists() && !command.raises()) {
            return Optional.of(new Refusal(Refusal.Code.NOT_FOUND, "There is no ticket " + before.id() + ".", null));
        }
        new Alarms(this).fire();
        new TicketTargets(this).ring();
        new Tests(this).endInTime();
        Optional<Refusal> notAllowed = new Allowed(this).refused(command);
        if (notAllowed.isPresent()) {
            goOn();
            return notAllowed;
        }
        Optional<Refusal> held = answered(command)
                .map(v -> now.open().get(v.run()))
                .filter(Run::held)
                .map(run -> new Refusal(
                        Refusal.Code.HELD,
                        "'" + run.name() + "' is on hold since " + run.heldSince()
                                + ". Answer when it was resumed; nothing was lost.",
                        null));
        Optional<Refusal> refused = held.isPresent() ? held : treated(command);
        goOn();
        return refused;
    }

    /** The visit that a person answers; results of machines are taken at any time (D17). */
    private static Optional<VisitId> answered(Command command) {
        return command instanceof Command.Answering a ? Optional.of(a.visit()) : Optional.empty();
    }

    private Optional<Refusal> treated(Command command) {
        return switch (command) {
            case Command.Answering c -> c.treat(at(c.visit()));
            case Command.Returning c -> c.treat(at(c.visit()));
            case Command.RaiseTicket c -> new TicketRules(this).raise(c);
            case Command.RaiseBySignal c -> new Signalled(this).raise(c);
            case Command.RaiseTest c -> new Signalled(this).test(c);
            case Command.RaiseByCause c -> new Routines(this).raise(c);
            case Command.HearSignals c -> new Signalled(this).hear(c);
            case Command.Recover c -> new Signalled(this).recover(c);
            case Command.FindCause c -> new Consequences(this).find(c);
            case Command.StandByItself c -> new Consequences(this).standByItself();
            case Command.EditTicket c -> new TicketRules(this).edit(c);
            case Command.PlanCi c -> new Planning(this).plan(c);
            case Command.AddNote c -> new TicketRules(this).note(c);
            case Command.KeepReading c -> new TicketRules(this).reading(c);
            case Command.SaySolved c -> new Solved(this).say(c);
            case Command.StartRun c -> new ByPeople(this).byHand(c);
            case Command.LinkTicket c -> new Links(this).link(c);
            case Command.UnlinkTicket c -> new Links(this).unlink(c);
            case Command.JoinPartner c -> new AtPartners(this).join(c);
            case Command.TakeOver c -> new AtPartners(this).takeOver(c);
            case Command.LeavePartner c -> new AtPartners(this).leave(c);
            case Command.HearPartner c -> new AtPartners(this).hear(c);
            case Command.HearFromPartner c -> new AtPartners(this).said(c);
            case Command.ToldPartner c -> new AtPartners(this).told(c);
            case Command.SayToPartner c -> new AtPartners(this).say(c);
            case Command.SettleDifference c -> new AtPartners(this).settle(c);
            case Command.StartSent c -> new SentRuns(this).start(c);
            case Command.RecallSent c -> new SentRuns(this).recalled(c);
            case Command.AnswerOffer c -> new ByPeople(this).answer(c);
            case Command.SettleLate c -> new LateResults(this).settle(c);
            case Command.AttachFile c -> new TicketRules(this).attach(c);
            case Command.Intervene c -> new Interventions(this).intervene(c);
            case Command.DeliveryResult c -> new Deliveries(this).result(c);
            case Command.Resend c -> new Deliveries(this).resend(c);
            case Command.OpenRoom c -> new Rooms(this).opened(c);
            case Command.HearRoom c -> new Rooms(this).heard(c);
            case Command.RoomFailed c -> new Rooms(this).failed(c);
            case Command.Tick c -> Optional.empty();
            case Command.Recheck c -> recheck();
            case Command.Redact c -> new Redacting(this).redact(c);
        };
    }

    /** Opens what is ready, lets brackets, waits, callers, approvals and triggers follow, until nothing more does. */
    private void goOn() {
        Starting starting = new Starting(this);
        boolean more = true;
        while (more) {
            openReady();
            long before = now.seq();
            new RunEnds(this).endWithTicket();
            new Brackets(this).settle();
            new PutBacks(this).settle();
            new Routines(this).settle();
            SETTLING.forEach(kind -> kind.settle(everywhere()));
            new TicketTargets(this).settle();
            if (now.seq() == before) {
                new Brackets(this).noticeVanished();
            }
            boolean moved = now.seq() > before || !quiet && starting.byTriggers();
            more = moved || hasReady() && opened < Engine.MAX_VISITS_A_DECISION;
        }
    }

    /** Nowhere in particular: for what looks at all runs. */
    private Here everywhere() {
        return new Here(this, null);
    }

    /** Where a visit stands; nowhere where it is over. */
    private Here at(VisitId visit) {
        return now.visit(visit).map(v -> new Here(this, position(v))).orElseGet(this::everywhere);
    }

    /** Looks again whether what open visits wait for is still there. */
    private Optional<Refusal> recheck() {
        everywhere().waiting().map(Visit::id).toList().forEach(id -> now.visit(id)
                .ifPresent(visit -> {
                    Step step = step(visit);
                    if (Kinds.plays(step, Rechecks.class)) {
                        Rechecks<Step> kind = Kinds.of(step, Rechecks.class);
                        kind.recheck(step, visit, new Here(this, position(visit)));
                    }
                }));
        return Optional.empty();
    }

    /** What somebody has written may be what visits wait for. */
    void written(PersonId by, String text) {
        List<Hears> kinds = Kinds.as(Hears.class);
        kinds.forEach(kind -> kind.written(by, text, everywhere()));
    }

    private boolean hasReady() {
        return now.open().values().stream().anyMatch(Run::goesOn);
    }

    private void openReady() {
        while (opened < Engine.MAX_VISITS_A_DECISION) {
            Optional<Run> run = now.open().values().stream().filter(Run::goesOn).findFirst();
            if (run.isEmpty()) {
                return;
            }
            opened++;
            Opening.openNext(this, run.get());
        }
    }

    // --- emitting

    void emit(Actor by, @Nullable RunId run, @Nullable StepId step, @Nullable VisitId visit, Event event) {
        Recorded recorded = new Recorded(now.seq() + 1, at(), by, run, step, visit, cause, event);
        Run setting = run == null ? null : now.open().get(run);
        if (setting != null) {
            runs.put(setting.id(), setting);
        }
        now = Fold.apply(now, recorded);
        events.add(recorded);
        noteSetters(setting, event);
        Event.OfCi set = event.changesCi();
        if (set != null) {
            // What follows in the same decision reads what was set, not what it was.
            lookups = lookups.with(set.on(lookups.ci(set.ci()).orElse(null)));
        }
    }

    /** Asks with a CI that is not there yet. */
    <T> T knowing(ConfigurationItem ci, Supplier<T> asked) {
        Lookups before = lookups;
        lookups = before.with(ci);
        try {
            return asked.get();
        } finally {
            lookups = before;
        }
    }

    void emitTicket(Event event) {
        emit(actor, null, null, null, event);
    }

    void emit(Actor by, Visit visit, Event event) {
        emit(by, visit.id().run(), visit.step(), visit.id(), event);
    }

    private void noteSetters(@Nullable Run run, Event event) {
        if (event instanceof Event.OfVisit e && run != null) {
            e.setsFields().forEach(f -> setBy.put(f, run));
        } else if (event instanceof Event.TicketChanged c) {
            c.changes().keySet().forEach(f -> setBy.put(f, run));
            if (c.texts() != null) {
                c.texts().keySet().forEach(f -> setBy.put(f, run));
            }
        }
    }

    /** The run that last set a field in this decision; empty when a person did. */
    Optional<RunId> setterOf(String field) {
        return settingRun(field).map(Run::id);
    }

    /** The same as it was then: it may have ended since. */
    Optional<Run> settingRun(String field) {
        return Optional.ofNullable(setBy.get(field));
    }

    /** A run that something was entered on in this decision, though it may have ended since. */
    Optional<Run> asItWas(RunId run) {
        return Optional.ofNullable(runs.get(run));
    }

    // --- reading

    Optional<PersonId> person() {
        return actor instanceof Actor.OfPerson p ? Optional.of(p.person()) : Optional.empty();
    }

    /** In whose name the person acts: another's when covering, else their own (N42). */
    Optional<PersonId> principal() {
        return actor instanceof Actor.OfPerson p && p.coverFor() != null ? Optional.of(p.coverFor()) : person();
    }

    /** The run as it stands now; it must be open. */
    Run run(RunId id) {
        Run run = now.open().get(id);
        if (run == null) {
            throw new IllegalStateException("run " + id + " is not open");
        }
        return run;
    }

    WorkflowVersion version(Run run) {
        return lookups()
                .version(run.workflow(), run.version())
                .orElseThrow(() -> new IllegalStateException("no version " + run.workflow() + " " + run.version()));
    }

    Step step(Visit visit) {
        return version(run(visit.id().run())).step(visit.step());
    }

    Expressions expressions(Run run) {
        return expressions.computeIfAbsent(version(run), v -> engine.expressions(v, lookups()));
    }

    /** What expressions see outside any run. */
    CaseScope scope() {
        return new CaseScope(now, null, null, Map.of(), lookups(), at());
    }

    /** The same, as of a moment. @param moment null for now */
    CaseScope scope(@Nullable Instant moment) {
        return new CaseScope(now, null, null, Map.of(), lookups(), moment == null ? at() : moment);
    }

    CaseScope scope(Position position) {
        return scope(position, Map.of());
    }

    /** @param measured what a check has just measured */
    CaseScope scope(Position position, Map<String, Object> measured) {
        return new CaseScope(now, position.run(), position.place(), measured, lookups(), at());
    }

    /** Where a visit stands, in its run as it is now. */
    Position position(Visit visit) {
        return new Position(run(visit.id().run()), visit.place());
    }

    /**
     * Withdraws an open visit: who held it is told, a run that it called is stopped with it (law 4).
     *
     * @param why completes the sentence "withdrawn because …"
     */
    void withdraw(Actor by, Visit visit, String why) {
        stopCalled(by, visit, why);
        emit(by, visit, new Event.Withdrawn(why));
        Waiting.Asked asked = visit.waiting().asks().orElse(null);
        if (asked != null && asked.claimedBy() != null) {
            new Deliveries(this)
                    .queue(
                            visit.id().run(),
                            visit.step(),
                            visit.id(),
                            by,
                            "withdrawn",
                            List.of(asked.claimedBy()),
                            "No longer needed: " + asked.name(),
                            "'" + asked.name() + "' on " + now.id() + " was withdrawn because " + why + ".");
        }
    }

    /** Stops the run that a visit has called, here or on another ticket; others have called none. */
    void stopCalled(Actor by, Visit visit, String why) {
        if (!(visit.waiting() instanceof Waiting.Called called) || called.ended()) {
            return;
        }
        if (now.open().containsKey(called.run())) {
            Run child = run(called.run());
            child.open().values().forEach(v -> withdraw(by, v, why));
            new RunEnds(this).stopped(by, child, child.offForNow());
        } else if (!called.run().ticket().equals(now.id())) {
            emit(by, visit, new Event.SentRunRecalled(called.run(), why));
        }
    }

    /** The exit marked as expected, else the first. */
    static String expected(Step step) {
        if (step.expected() != null) {
            return step.expected();
        }
        List<String> exits = step.exits(Known.NOTHING);
        return exits.isEmpty() ? "" : exits.getFirst();
    }

    /** The way from an exit, or null where it is not wired or the line ends. */
    static @Nullable StepId way(Step step, String exit) {
        return step.ways().get(exit);
    }

    /** Whoever was never asked learns nothing of how it ended, and leaves nothing on the record. */
    private boolean concerns(Lookups.VisitEnd end) {
        Parties parties = new Parties(this);
        return principal()
                .map(p -> end.asked().stream().anyMatch(asked -> parties.isOneOf(p, asked)))
                .orElse(true);
    }

    /** Refuses an answer to a visit that is no longer open, saying who was first; entered once per visit and person (D4). */
    Refusal tooLate(VisitId visit, String what) {
        Optional<Lookups.VisitEnd> end = lookups().closedVisit(visit).filter(this::concerns);
        if (end.isEmpty()) {
            return new Refusal(Refusal.Code.NOT_FOUND, "There is no " + what + " " + visit + " on this ticket.", null);
        }
        person().filter(p -> !end.get().cameLate().contains(p))
                .ifPresent(p -> emit(actor, visit.run(), null, visit, new Event.CameTooLate(p, what)));
        return new Refusal(
                Refusal.Code.TOO_LATE,
                "Too late: this " + what + " was already " + end.get().how() + " by "
                        + end.get().by() + " at " + end.get().at() + ".",
                null);
    }
}
