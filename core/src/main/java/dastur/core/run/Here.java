package dastur.core.run;

import dastur.core.expression.Expressions;
import dastur.core.expression.Outcome;
import dastur.core.expression.Scope;
import dastur.core.expression.TextTemplate;
import dastur.core.json.Texts;
import dastur.core.people.Actor;
import dastur.core.people.Party;
import dastur.core.people.PersonId;
import dastur.core.run.Event.PlannedRung;
import dastur.core.ticket.ConfigurationItem;
import dastur.core.ticket.Field;
import dastur.core.time.Span;
import dastur.core.time.WorkingCalendar;
import dastur.core.workflow.Action;
import dastur.core.workflow.LadderKey;
import dastur.core.workflow.Step;
import dastur.core.workflow.StepId;
import dastur.core.workflow.TermsOfUse;
import dastur.core.workflow.WorkflowVersion;
import java.time.Instant;
import java.util.List;
import java.util.Map;
import java.util.Objects;
import java.util.Optional;
import java.util.stream.Stream;
import org.jspecify.annotations.Nullable;

/**
 * All that a kind of step sees of a decision that is being made: the case as it stands, where in a run it is, and what it may do
 * there. A kind changes nothing but by events.
 */
public final class Here {
    private static final int MOST_OF_SUBJECT = 200;

    final Deciding d;
    /** Null where it is about all runs, and stands in none. */
    private final @Nullable Position at;
    /** Hours that count instead of the service's; null for none. */
    private final @Nullable WorkingCalendar hours;

    Here(Deciding d, @Nullable Position at) {
        this(d, at, null);
    }

    private Here(Deciding d, @Nullable Position at, @Nullable WorkingCalendar hours) {
        this.d = d;
        this.at = at;
        this.hours = hours;
    }

    // --- where it is

    private Position position() {
        return Objects.requireNonNull(at, "this stands in no run");
    }

    /** The ticket as it stands after the events so far. */
    public Case ticket() {
        return d.now();
    }

    /** The run as it stood when this was made. */
    public Run run() {
        return position().run();
    }

    /** Inside which brackets; null at the top level. */
    public @Nullable Place place() {
        return position().place();
    }

    /** Where a visit stands, in its run as it is now. */
    public Here at(Visit visit) {
        return new Here(d, d.position(visit));
    }

    /** Somewhere else in the same decision. */
    public Here at(Run run, @Nullable Place place) {
        return new Here(d, new Position(run, place));
    }

    /** An open visit of the ticket. */
    public Optional<Visit> visit(VisitId id) {
        return d.now().visit(id);
    }

    /** Open visits of all runs that are not held and have not stalled. */
    public Stream<Visit> waiting() {
        return d.now().open().values().stream()
                .filter(run -> !run.held())
                .flatMap(run -> run.open().values().stream())
                .filter(v -> v.stall() == null)
                .toList()
                .stream();
    }

    public Step step(Visit visit) {
        return d.step(visit);
    }

    public WorkflowVersion version(Run run) {
        return d.version(run);
    }

    // --- who and when

    public Lookups lookups() {
        return d.lookups();
    }

    /** The moment of the next event. */
    public Instant now() {
        return d.at();
    }

    /** Who says what is decided. */
    public Actor actor() {
        return d.actor;
    }

    /** The person who acts; empty where a machine or the clock does. */
    public Optional<PersonId> person() {
        return d.person();
    }

    /** In whose name the person acts: another's when covering, else their own (N42). */
    public Optional<PersonId> principal() {
        return d.principal();
    }

    public Assigned assigned(List<Party> parties) {
        return new Parties(d).assigned(parties, position());
    }

    /** Every active person behind the parties, in the order of their ids. */
    public List<PersonId> members(List<Party> parties) {
        return new Parties(d).members(parties, position());
    }

    /** Every active person behind groups and names, in the order of their ids (D3). */
    public List<PersonId> active(Assigned assigned) {
        return new Parties(d).active(assigned);
    }

    public boolean isOneOf(PersonId person, Assigned assigned) {
        return new Parties(d).isOneOf(person, assigned);
    }

    // --- values

    public Expressions expressions() {
        return d.expressions(position().run());
    }

    /** What expressions see from here. */
    public Scope scope() {
        return d.scope(position());
    }

    /** @param measured what a check has just measured */
    public Scope scope(Map<String, Object> measured) {
        return d.scope(position(), measured);
    }

    public Outcome evaluate(String expression) {
        return expressions().evaluate(expression, scope());
    }

    /** A text with its values filled in. */
    public String render(String text) {
        return TextTemplate.parse(text)
                .render(expressions(), scope(), TextTemplate.Target.PLAIN)
                .text();
    }

    public Optional<ConfigurationItem> ci() {
        return d.scope(position()).ci();
    }

    public Expressions expressionsOf(Action action) {
        return d.engine.actionExpressions(action);
    }

    // --- times

    /** Counts working time in the hours of the one group that is asked, if it has its own (decision 24). */
    public Here countingFor(Assigned asked) {
        return asked.groups().size() == 1 && asked.people().isEmpty()
                ? new Here(
                        d, at, d.lookups().calendarOf(asked.groups().getFirst()).orElse(null))
                : this;
    }

    private Times times() {
        return new Times(d, position(), hours);
    }

    /** @throws CannotOpen where the calendar has no working time in reach */
    public Instant after(Span span) {
        return times().after(span);
    }

    /** A ladder's rungs with their moments, fixed now (D28). @throws CannotOpen where the ladder is no more */
    public List<PlannedRung> rungs(@Nullable LadderKey ladder) {
        return times().rungs(ladder);
    }

    // --- doing

    public void emit(Actor by, StepId step, VisitId visit, Event event) {
        d.emit(by, visit.run(), step, visit, event);
    }

    public void emit(Actor by, Visit visit, Event event) {
        d.emit(by, visit, event);
    }

    /** Enters something about the ticket, or about a visit that is over. */
    public void emit(Actor by, @Nullable RunId run, @Nullable VisitId visit, Event event) {
        d.emit(by, run, null, visit, event);
    }

    /** Queues a message about a visit that moves nothing. */
    public void tell(Visit visit, Actor by, String purpose, List<PersonId> to, String subject, String text) {
        new Deliveries(d).queue(visit.id().run(), visit.step(), visit.id(), by, purpose, to, subject, text);
    }

    /** Tells whoever answers for something that it goes as it should not. @param about by what it is known that they were told */
    public void tellKeeper(Visit visit, PersonId keeper, String about, String subject, String text) {
        new Deliveries(d)
                .queue(
                        visit.id().run(),
                        visit.step(),
                        visit.id(),
                        Actor.SYSTEM,
                        TermsOfUse.TELLS,
                        List.of(keeper),
                        subject,
                        text,
                        about);
    }

    /** Queues a message that asks people to do something, and tells those who act for the ones who are away (N42). */
    public void ask(Visit visit, Actor by, String purpose, List<PersonId> to, String subject, String text) {
        new Deliveries(d).ask(visit, by, purpose, to, subject, text);
    }

    /** Tells somebody that they have the ticket now, unless they took it themselves. */
    public void tellGiven(Event.@Nullable Change assignee) {
        new Wanted(d).tellGiven(assignee);
    }

    /** What a step wants of people, in words. */
    public Wanted wanted() {
        return new Wanted(d);
    }

    /** The subject of a message, which on a test says that it is one. */
    public String said(String subject) {
        return Texts.clip(Tests.said(d.now(), subject), MOST_OF_SUBJECT);
    }

    /** The id of the next message. */
    public String nextMessage() {
        return new Deliveries(d).nextMessage();
    }

    /** Fires what has come due while this was decided. */
    public void fireWhatIsDue() {
        new Alarms(d).fire();
    }

    /** Fires a visit's next rung of a sort, before its time. */
    public void fireNextRung(Visit visit, java.util.function.Predicate<dastur.core.workflow.Rung.Deed> sort) {
        new Alarms(d).fireNextRung(visit, sort);
    }

    /** Leaves a visit along one of its exits, wired or not. @param why completes the sentence "left because …" */
    public void leave(Actor by, Visit visit, String exit, String why) {
        d.emit(by, visit, new Event.Left(exit, way(d.step(visit), exit), why));
    }

    /** Leaves a visit by the clock; where no way leads on, it stalls, or ends the item of a list around it. */
    public void leaveOrStall(Visit visit, String exit, String why) {
        new Alarms(d).leaveOrStall(visit, exit, why);
    }

    /** The visit cannot go on by itself. */
    public void stall(Actor by, Visit visit, String code, String why) {
        d.emit(by, visit, new Event.Stalled(code, why));
    }

    /** Refuses an answer to a visit that is no longer open, saying who was first; entered once per visit and person (D4). */
    public Refusal tooLate(VisitId visit, String what) {
        return d.tooLate(visit, what);
    }

    /** What is wrong with a value of a field: its type, its limits, and whether what it names is there; empty for nothing. */
    public Optional<String> problemWith(Field field, @Nullable Object value) {
        return new TicketRules(d).problemWith(field, value);
    }

    /** What new values make of the ticket, checked against every rule. Null and blank clear. */
    public FieldChanges changes(Map<String, Object> values) {
        return new TicketRules(d).changes(values);
    }

    /** The same, with a CI that is made with them. */
    public FieldChanges changes(Map<String, Object> values, ConfigurationItem made) {
        return d.knowing(made, () -> new TicketRules(d).changes(values));
    }

    /** Begins a run that a visit has called. */
    public void startCalled(WorkflowVersion version, VisitId caller, Map<String, Object> inputs) {
        new Starting(d).start(version, null, position().run().depth() + 1, caller, inputs, Actor.SYSTEM);
    }

    /** Links the ticket with another, if it is not. */
    public void link(dastur.core.ticket.TicketId other, dastur.core.ticket.LinkKind kind) {
        new SentRuns(d).link(other, kind);
    }

    /** Opens a bracket's visit. */
    public void open(VisitId visit, dastur.core.workflow.Bracket bracket) {
        new Brackets(d).open(position(), visit, bracket);
    }

    /** A pause of a bracket is over, or its time is up. */
    public void rangBracket(Visit visit, Visit.Alarm alarm) {
        if (alarm.kind() == Visit.AlarmKind.PAUSE) {
            new Brackets(d).nextRound(visit);
        } else {
            new Brackets(d).leave(visit, "gave up", "its time was up");
        }
    }

    /** Ends a line, with what comes of it for what is around it. */
    public void end(VisitId visit, Step.End step) {
        new Ends(d).end(position(), visit, step);
    }

    /** Whether an unwired failure here ends the item of a list as failed (D10). */
    public boolean endsItem() {
        return new Brackets(d).endsItem(position());
    }

    /** Ends the line of the bracket around a visit, where an exit leads nowhere. */
    public void lineEnded(Visit visit, String exit) {
        new Brackets(d).lineEnded(visit, exit);
    }

    /** Whether a visit, or something around it, is being put back: then nothing in it goes on. */
    public boolean puttingBack(Visit visit) {
        return new PutBacks(d).puttingBack(visit);
    }

    /** The stage that a place is in; empty where it belongs to the run. */
    public Optional<VisitId> stage(@Nullable Place place) {
        return PutBacks.stageAround(position().run(), place).map(Visit::id);
    }

    /** Whether an approval binds a call at this place. */
    public boolean binds(Run.Guard guard) {
        return Guards.binds(position().run(), guard, position().place());
    }

    /** Withdraws what has followed from an outcome that is to be taken back, or says why that cannot be. */
    public Optional<Refusal> takeBack(VisitId visit) {
        return new TakingBack(d).prepare(visit);
    }

    /** The run as it will be when a visit has given its values. */
    public Run with(Visit visit, Map<String, Object> values) {
        return position().run().withValues(visit.place(), visit.step(), values);
    }

    /** Whether this decision has taken a signal already; then it is not taken again. */
    public boolean taken(String signalId) {
        return d.signalsTaken().contains(signalId);
    }

    public void take(String signalId) {
        d.signalsTaken().add(signalId);
    }

    /** The exit marked as expected, else the first. */
    public static String expected(Step step) {
        return Deciding.expected(step);
    }

    /** The way from an exit, or null where it is not wired or the line ends. */
    public static @Nullable StepId way(Step step, String exit) {
        return step.ways().get(exit);
    }
}
