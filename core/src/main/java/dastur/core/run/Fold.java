package dastur.core.run;

import dastur.core.people.Actor;
import dastur.core.people.PersonId;
import dastur.core.run.Event.Change;
import dastur.core.run.Visit.Alarm;
import dastur.core.run.Visit.AlarmKind;
import dastur.core.ticket.TicketKind;
import dastur.core.workflow.StepId;
import dastur.core.workflow.TriggerId;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.TreeMap;
import java.util.TreeSet;
import java.util.function.UnaryOperator;
import org.jspecify.annotations.Nullable;

/** Folds events into a case. Total: sees no version, look-up or clock (D3). */
final class Fold {
    /** Under this name, which no expression can say, values keep the number of the visit that gave them. */
    private static final String VISIT = "#";

    private Fold() {}

    static Case apply(Case before, Recorded recorded) {
        Case c = new Case(
                before.id(),
                recorded.seq(),
                recorded.at(),
                before.kind(),
                before.createdAt(),
                before.fields(),
                before.runs(),
                before.messages(),
                before.open(),
                before.offers(),
                before.files(),
                before.began(),
                before.late(),
                before.givenUp(),
                before.links(),
                before.targets(),
                before.promisedFor(),
                before.parts(),
                before.room());
        return switch (recorded.event()) {
            case Event.TicketRaised e -> raised(c, recorded, e);
            case Event.TicketChanged e -> changed(c, e.changes(), e.texts());
            case Event.NoteAdded e -> c;
            case Event.FileAttached e -> attached(c, recorded, e);
            case Event.TriggersLookedAt e -> c;
            case Event.StartOffered e -> offered(c, recorded, e);
            case Event.StartAnswered e -> answered(c, e.trigger());
            case Event.RunStarted e -> started(c, recorded, e);
            case Event.RunEnded e -> FoldBrackets.runEnded(c, recorded, e);
            case Event.TaskOffered e -> FoldTasks.offered(c, recorded, e);
            case Event.TaskClaimed e -> FoldTasks.claimed(c, recorded, e);
            case Event.TaskHandedBack e -> FoldTasks.handedBack(c, recorded, e);
            case Event.TaskTakenBack e -> FoldTasks.takenBack(c, recorded);
            case Event.TargetsSet e -> targetsSet(c, e);
            case Event.TargetMissed e -> targetMissed(c, e);
            case Event.TaskPassedOn e ->
                onVisit(c, recorded, v -> v.waiting() instanceof Waiting.Task t ? v.waitingFor(t.handedTo(e.to())) : v);
            case Event.HelpAsked e ->
                onVisit(c, recorded, v -> v.waiting() instanceof Waiting.Task t ? v.waitingFor(t.helpedBy(e.to())) : v);
            case Event.TaskDone e -> FoldTasks.done(c, recorded, e);
            case Event.TaskLeftOut e -> left(c, recorded, e, outcome(recorded, "left out"));
            case Event.ApprovalAsked e -> asked(c, recorded, e);
            case Event.VoteWithdrawn e ->
                votes(
                        c,
                        recorded,
                        v -> v.with(
                                without(v.cast(), e.by()),
                                without(v.through(), e.by()),
                                without(v.conditions(), e.by())));
            case Event.ApprovalTurn e -> c;
            case Event.AskedBack e ->
                votes(c, recorded, v -> v.askingBack(new Waiting.Votes.AskedBack(e.by(), recorded.at(), e.text())));
            case Event.AnsweredBack e -> answeredBack(c, recorded, e);
            case Event.VoteCast e ->
                votes(
                        c,
                        recorded,
                        v -> v.with(
                                plus(v.cast(), e.by(), e.yes()),
                                plus(v.through(), e.by(), natural(recorded, e)),
                                e.condition() == null ? v.conditions() : plus(v.conditions(), e.by(), e.condition())));
            case Event.ApprovalVoided e -> votes(c, recorded, Waiting.Votes::voided);
            case Event.ApprovalClosed e -> approvalClosed(c, recorded, e);
            case Event.Branched e -> left(c, recorded, e, outcome(recorded, e.exit()));
            case Event.Updated e -> updated(c, recorded, e);
            case Event.WaitBegan e -> waitBegan(c, recorded, e);
            case Event.ConditionMet e -> left(c, recorded, e, outcome(recorded, e.exit()));
            case Event.SignalCame e -> left(c, recorded, e, signalValues(recorded, e));
            case Event.BracketOpened e -> FoldBrackets.opened(c, recorded, e);
            case Event.LineBegan e -> FoldBrackets.lineBegan(c, recorded, e);
            case Event.LineEnded e -> FoldBrackets.lineEnded(c, recorded, e);
            case Event.RoundJudged e -> FoldBrackets.roundJudged(c, recorded, e);
            case Event.BracketLeft e -> FoldBrackets.bracketLeft(c, recorded, e);
            case Event.PutBackBegan e -> FoldBrackets.putBackBegan(c, recorded, e);
            case Event.PutBackEnded e -> FoldBrackets.putBackEnded(c, recorded);
            case Event.WorkflowCalled e ->
                opened(c, recorded, new Waiting.Called(e.child(), false, null, false, Map.of()), List.of());
            case Event.WorkflowSent e -> opened(c, recorded, new Waiting.Sent(e.workflow(), e.name()), List.of());
            case Event.SentRunBegan e -> FoldBrackets.sentRunBegan(c, recorded, e);
            case Event.SentRunEnded e -> FoldBrackets.sentRunEnded(c, recorded, e);
            case Event.SentRunRecalled e -> c;
            case Event.TicketLinked e -> linked(c, new Case.Link(e.other(), e.as()), true);
            case Event.TicketUnlinked e -> linked(c, new Case.Link(e.other(), e.as()), false);
            case Event.ReplyCame e -> left(c, recorded, e, replyValues(recorded, e));
            case Event.CalledEnded e -> left(c, recorded, e, calledValues(recorded, e));
            case Event.Measured e -> c;
            case Event.CheckJudged e -> FoldChecks.judged(c, recorded, e);
            case Event.Checked e -> left(c, recorded, e, FoldChecks.values(recorded, e));
            case Event.ReviewAsked e -> FoldChecks.reviewAsked(c, recorded, e);
            case Event.Reviewed e -> left(c, recorded, e, FoldChecks.reviewValues(recorded, e));
            case Event.CallInBegan e -> callInBegan(c, recorded, e);
            case Event.CallInAnswered e -> callInAnswered(c, recorded, e);
            case Event.Left e -> leftOtherwise(c, recorded, e);
            case Event.Ended e -> FoldBrackets.ended(c, recorded, e);
            case Event.CallRequested e -> FoldCalls.requested(c, recorded, e);
            case Event.AttemptFailed e -> FoldCalls.attemptFailed(c, recorded, e);
            case Event.CallRepeated e -> FoldCalls.repeated(c, recorded, e);
            case Event.CallDone e -> FoldCalls.done(c, recorded, e);
            case Event.CallFailed e -> left(c, recorded, e, FoldCalls.error(recorded, e));
            case Event.ResultKept e -> onVisit(c, recorded, v -> FoldCalls.kept(v, e));
            case Event.CallUnsure e -> onVisit(c, recorded, v -> FoldCalls.unsure(v, recorded, e));
            case Event.LateResult e -> late(c, recorded, e.owner());
            case Event.LateSettled e -> late(c, recorded, null);
            case Event.RoomTold e ->
                left(onRun(c, recorded, run -> run.withLastDone(null)), recorded, e, outcome(recorded, e.exit()));
            case Event.RoomOpened e -> c.withRoom(new Case.Room(e.room(), e.keepsAll(), e.name()));
            case Event.RoomTalked e -> c;
            case Event.RoomFailed e -> c;
            case Event.MessageQueued e -> queued(c, recorded, e);
            case Event.MessageDelivered e -> delivered(c, recorded, e.message(), e.person(), false);
            case Event.MessageFailed e ->
                givenUp(delivered(c, recorded, e.message(), e.person(), true), e.message() + "." + e.person(), true);
            case Event.MessageResent e -> givenUp(c, e.message() + "." + e.person(), false);
            case Event.RungFired e -> rung(c, recorded, e);
            case Event.Stalled e -> stalled(c, recorded, e);
            case Event.Intervened e ->
                recorded.visit() == null
                        ? onRun(c, recorded, run -> intervened(run, recorded, e))
                        : onVisit(c, recorded, v -> v.stalled(null));
            case Event.Withdrawn e -> onRun(c, recorded, run -> FoldBrackets.withdrawn(run, recorded));
            case Event.CameTooLate e -> c;
            // What the entry said is absent when the record is folded anew; the store does so in the same transaction.
            case Event.Redacted e -> c;
        };
    }

    // --- ticket

    private static Case attached(Case c, Recorded r, Event.FileAttached e) {
        List<Case.FileRef> files = new ArrayList<>(c.files());
        files.add(new Case.FileRef(r.seq(), e.hash(), e.name(), e.type(), e.size(), e.toRequester(), e.by(), r.at()));
        return c.withFiles(files);
    }

    private static Case targetsSet(Case c, Event.TargetsSet e) {
        Map<String, Object> of = new HashMap<>();
        for (String field : List.of("service", "priority")) {
            set(of, field, c.fields().get(field));
        }
        return c.withTargets(new TreeMap<>(e.targets()), Map.copyOf(of));
    }

    private static Case targetMissed(Case c, Event.TargetMissed e) {
        TreeMap<Target.Kind, Target> targets = new TreeMap<>(c.targets());
        targets.computeIfPresent(e.of(), (kind, target) -> target.tooLate());
        return c.withTargets(targets, c.promisedFor());
    }

    private static Case linked(Case c, Case.Link link, boolean is) {
        List<Case.Link> links = new ArrayList<>(c.links());
        links.remove(link);
        if (is) {
            links.add(link);
        }
        return c.withLinks(links);
    }

    private static Case givenUp(Case c, String message, boolean is) {
        TreeSet<String> messages = new TreeSet<>(c.givenUp());
        if (is) {
            messages.add(message);
        } else {
            messages.remove(message);
        }
        return c.withGivenUp(messages);
    }

    /** Somebody must look at a visit's late result, or has looked. */
    private static Case late(Case c, Recorded r, @Nullable PersonId owner) {
        if (r.visit() == null) {
            return c;
        }
        TreeMap<VisitId, Case.Late> late = new TreeMap<>(c.late());
        if (owner == null) {
            late.remove(r.visit());
        } else {
            late.put(r.visit(), new Case.Late(owner, r.at()));
        }
        return c.withLate(late);
    }

    private static Case raised(Case c, Recorded r, Event.TicketRaised e) {
        Map<String, Object> fields = new HashMap<>(e.fields());
        if (e.texts() != null) {
            fields.putAll(e.texts());
        }
        return new Case(
                c.id(),
                c.seq(),
                c.lastAt(),
                e.kind(),
                r.at(),
                Map.copyOf(fields),
                0,
                0,
                c.open(),
                c.offers(),
                c.files(),
                c.began(),
                c.late(),
                c.givenUp(),
                c.links(),
                c.targets(),
                c.promisedFor(),
                c.parts(),
                c.room());
    }

    private static Case changed(Case c, Map<String, Change> changes, @Nullable Map<String, Change> texts) {
        Map<String, Object> fields = new HashMap<>(c.fields());
        changes.forEach((name, change) -> set(fields, name, change.after()));
        if (texts != null) {
            texts.forEach((name, change) -> set(fields, name, change.after()));
        }
        boolean ended = TicketKind.ended((String) fields.getOrDefault("state", ""));
        return ended ? c.withFields(fields).withOffers(new TreeMap<>()) : c.withFields(fields);
    }

    private static Case offered(Case c, Recorded r, Event.StartOffered e) {
        TreeMap<String, Case.Offer> offers = new TreeMap<>(c.offers());
        offers.put(e.trigger().value(), new Case.Offer(e.trigger(), e.workflow(), e.name(), e.asked(), r.at()));
        return c.withOffers(offers);
    }

    private static Case answered(Case c, TriggerId trigger) {
        TreeMap<String, Case.Offer> offers = new TreeMap<>(c.offers());
        offers.remove(trigger.value());
        return c.withOffers(offers);
    }

    private static void set(Map<String, Object> map, String name, @Nullable Object value) {
        if (value == null) {
            map.remove(name);
        } else {
            map.put(name, value);
        }
    }

    // --- runs

    private static Case started(Case c, Recorded r, Event.RunStarted e) {
        Run run = new Run(
                r.run(),
                e.workflow(),
                e.version(),
                e.name(),
                e.owner(),
                r.at(),
                e.trigger(),
                e.depth(),
                e.parent(),
                List.of(new Token(e.to(), null)),
                0,
                new TreeMap<>(),
                e.inputs() == null ? Map.of() : e.inputs(),
                Map.of(),
                Map.of(),
                new TreeMap<>(),
                List.of(),
                List.of(),
                List.of(),
                null,
                null);
        TreeMap<RunId, Case.Began> began = new TreeMap<>(c.began());
        began.put(run.id(), new Case.Began(run.owner(), run.name()));
        return withRuns(c.withBegan(began).withOpen(c.runs() + 1, c.open()), runs -> runs.put(run.id(), run));
    }

    static Case withRuns(Case c, java.util.function.Consumer<TreeMap<RunId, Run>> edit) {
        TreeMap<RunId, Run> runs = new TreeMap<>(c.open());
        edit.accept(runs);
        return c.withOpen(c.runs(), runs);
    }

    static Case onRun(Case c, Recorded r, UnaryOperator<Run> edit) {
        Run run = r.run() == null ? null : c.open().get(r.run());
        return run == null ? c : withRuns(c, runs -> runs.put(run.id(), edit.apply(run)));
    }

    static Case onVisit(Case c, Recorded r, UnaryOperator<Visit> edit) {
        return onRun(c, r, run -> {
            Visit visit = r.visit() == null ? null : run.open().get(r.visit());
            return visit == null ? run : run.with(edit.apply(visit));
        });
    }

    // --- visits

    /** Takes the token before the step and counts the visit, unless it is open already. */
    static Run open(Run run, Recorded r) {
        return open(run, r, null);
    }

    /** @param putsBack the visit that this one undoes; such a visit has no token */
    static Run open(Run run, Recorded r, @Nullable VisitId putsBack) {
        if (run.open().containsKey(r.visit())) {
            return run;
        }
        List<Token> ready = new ArrayList<>(run.ready());
        Place place = null;
        if (putsBack == null) {
            Token token = ready.stream()
                    .filter(t -> t.step().equals(r.step()))
                    .findFirst()
                    .orElse(new Token(r.step(), null));
            ready.remove(token);
            place = token.place();
        }
        return run.withReady(ready).counted().with(Visit.opened(r.visit(), r.step(), place, r.at(), putsBack));
    }

    static Case opened(Case c, Recorded r, Waiting waiting, List<Alarm> alarms) {
        return onRun(c, r, run -> opened(open(run, r), r, waiting, alarms));
    }

    static Run opened(Run open, Recorded r, Waiting waiting, List<Alarm> alarms) {
        Visit visit = open.open().get(r.visit());
        return open.with(visit.waitingFor(waiting, r.at()).alarmed(alarms).stalled(null));
    }

    /** Closes a visit: its token goes on along the way, its values are kept where it stood. */
    static Run close(Run run, Recorded r, @Nullable StepId to, @Nullable Map<String, Object> values) {
        TreeMap<VisitId, Visit> open = new TreeMap<>(run.open());
        Visit visit = open.remove(r.visit());
        Place place = visit == null ? null : visit.place();
        Run closed = run.withOpen(open);
        if (to != null) {
            List<Token> ready = new ArrayList<>(run.ready());
            ready.add(new Token(to, place));
            closed = closed.withReady(ready);
        }
        return values == null || r.step() == null ? closed : closed.withValues(place, r.step(), values);
    }

    static Case left(Case c, Recorded r, Event.Leaving e, Map<String, Object> values) {
        return onRun(c, r, run -> close(open(run, r), r, e.to(), values));
    }

    /** A put-back that a person left as it is is not tried again, and stands out at the end. */
    private static Case leftOtherwise(Case c, Recorded r, Event.Left e) {
        Visit visit = r.visit() == null ? null : c.visit(r.visit()).orElse(null);
        if (visit == null || visit.putsBack() == null) {
            return left(c, r, e, outcome(r, e.exit()));
        }
        return onRun(
                c,
                r,
                run -> close(
                        run.withPutBacks(run.putBacks().stream()
                                .map(p -> p.of().equals(visit.putsBack()) ? p.gaveUp() : p)
                                .toList()),
                        r,
                        null,
                        null));
    }

    static Map<String, Object> outcome(Recorded r, @Nullable String exit) {
        Map<String, Object> values = new HashMap<>();
        values.put("outcome", exit == null ? "" : exit);
        values.put("at", r.at().toString());
        if (r.visit() != null) {
            values.put(VISIT, (long) r.visit().number());
        }
        return values;
    }

    // --- waits, called runs, call-ins

    private static Case waitBegan(Case c, Recorded r, Event.WaitBegan e) {
        boolean moment = e.condition() == null && e.signal() == null && e.replyOf() == null;
        Waiting waiting = e.replyOf() != null
                ? new Waiting.ForReply(e.replyOf(), e.until())
                : e.condition() != null
                        ? new Waiting.ForCondition(e.condition(), e.until())
                        : e.signal() != null
                                ? new Waiting.ForSignal(e.signal(), e.key(), e.until())
                                : new Waiting.Moment(java.util.Objects.requireNonNull(e.until()));
        List<Alarm> alarms = e.until() == null
                ? List.of()
                : List.of(new Alarm(e.until(), moment ? AlarmKind.WAIT : AlarmKind.TIMEOUT, 0, null));
        return opened(c, r, waiting, alarms);
    }

    private static Map<String, Object> signalValues(Recorded r, Event.SignalCame e) {
        Map<String, Object> values = outcome(r, e.exit());
        if (e.values() != null) {
            values.put("signal", e.values());
        }
        return values;
    }

    private static Map<String, Object> replyValues(Recorded r, Event.ReplyCame e) {
        Map<String, Object> values = outcome(r, e.exit());
        values.put("by", e.by().value());
        if (e.text() != null) {
            values.put("text", e.text());
        }
        return values;
    }

    private static Map<String, Object> calledValues(Recorded r, Event.CalledEnded e) {
        Map<String, Object> values = outcome(r, e.exit());
        if (e.results() != null) {
            values.putAll(e.results());
        }
        if (e.ticket() != null) {
            values.put("ticket", e.ticket().value());
        }
        return values;
    }

    private static Case callInBegan(Case c, Recorded r, Event.CallInBegan e) {
        List<Alarm> alarms = new ArrayList<>(FoldTasks.rungAlarms(e.rungs()));
        alarms.add(new Alarm(e.until(), AlarmKind.TIMEOUT, 0, null));
        String message = e.message() == null ? "" : e.message();
        return opened(c, r, new Waiting.CallIn(e.name(), e.as(), message, List.of(), List.of(), e.until()), alarms);
    }

    private static Case callInAnswered(Case c, Recorded r, Event.CallInAnswered e) {
        if (e.exit() != null) {
            Map<String, Object> values = outcome(r, e.exit());
            values.put("by", e.by().value());
            return takesPart(left(c, r, e, values), e);
        }
        return onVisit(c, r, v -> v.waiting() instanceof Waiting.CallIn w ? v.waitingFor(w.without(e.by())) : v);
    }

    private static Case takesPart(Case c, Event.CallInAnswered e) {
        if (e.as() == null) {
            return c;
        }
        TreeMap<String, List<PersonId>> parts = new TreeMap<>(c.parts());
        List<PersonId> people = new ArrayList<>(parts.getOrDefault(e.as(), List.of()));
        people.remove(e.by());
        people.add(e.by());
        parts.put(e.as(), List.copyOf(people));
        return c.withParts(parts);
    }

    // --- approvals

    private static <T> Map<PersonId, T> without(Map<PersonId, T> cast, PersonId by) {
        Map<PersonId, T> left = new HashMap<>(cast);
        left.remove(by);
        return Map.copyOf(left);
    }

    /** Who really voted: the one who covers, or the person themselves. */
    private static PersonId natural(Recorded r, Event.VoteCast e) {
        return r.actor() instanceof Actor.OfPerson p ? p.person() : e.by();
    }

    private static Case asked(Case c, Recorded r, Event.ApprovalAsked e) {
        Waiting votes = new Waiting.Votes(
                e.round(),
                e.name(),
                e.question(),
                e.setsOff(),
                e.electorate(),
                e.excluded(),
                e.rule(),
                e.needed(),
                e.shown(),
                e.values() == null ? Map.of() : e.values(),
                e.digest(),
                e.commentOnDecline(),
                e.due(),
                e.sets(),
                Map.of(),
                Map.of(),
                e.terms(),
                Map.of(),
                null);
        List<Alarm> alarms = new ArrayList<>(FoldTasks.rungAlarms(e.rungs()));
        if (e.due() != null) {
            alarms.add(new Alarm(e.due(), AlarmKind.LAPSE, 0, null));
        }
        return opened(c, r, votes, alarms);
    }

    private static Case answeredBack(Case c, Recorded r, Event.AnsweredBack e) {
        return onVisit(
                c,
                r,
                v -> v.waiting() instanceof Waiting.Votes votes
                        ? v.waitingFor(votes.askingBack(null)).later(e.pausedSeconds())
                        : v);
    }

    private static Case votes(Case c, Recorded r, UnaryOperator<Waiting.Votes> edit) {
        return onVisit(c, r, v -> v.waiting() instanceof Waiting.Votes votes ? v.waitingFor(edit.apply(votes)) : v);
    }

    private static <T> Map<PersonId, T> plus(Map<PersonId, T> cast, PersonId by, T yes) {
        Map<PersonId, T> all = new TreeMap<>(cast);
        all.put(by, yes);
        return all;
    }

    private static Case approvalClosed(Case c, Recorded r, Event.ApprovalClosed e) {
        Map<String, Object> values = outcome(r, e.exit());
        if (e.by() != null) {
            values.put("by", e.by().value());
        }
        if (e.comment() != null) {
            values.put("comment", e.comment());
        }
        if (e.conditions() != null) {
            values.put("conditions", e.conditions());
        }
        Case guarded = onRun(c, r, run -> {
            Visit visit = run.open().get(r.visit());
            if (!e.exit().equals("approved") || visit == null || !(visit.waiting() instanceof Waiting.Votes v)) {
                return run;
            }
            return Guards.approved(run, visit, v);
        });
        return left(guarded, r, e, values);
    }

    // --- updates

    private static Case updated(Case c, Recorded r, Event.Updated e) {
        Case changed = changed(c, e.changes(), e.texts());
        Case set = onRun(changed, r, run -> {
            Map<String, Object> vars = new HashMap<>(run.vars());
            if (e.vars() != null) {
                vars.putAll(e.vars());
            }
            return run.withVars(vars);
        });
        return left(set, r, e, outcome(r, e.exit()));
    }

    // --- messages

    private static Case queued(Case c, Recorded r, Event.MessageQueued e) {
        // Who was told something cannot be untold; a decision that is no longer asked says so itself.
        Case told = e.purpose().equals("decision") ? c : onRun(c, r, run -> run.withLastDone(null));
        Case counted = told.withMessages(c.messages() + 1);
        if (e.exit() != null) {
            return left(counted, r, e, outcome(r, e.exit()));
        }
        return e.awaited()
                ? opened(counted, r, new Waiting.Delivery(e.message(), e.people(), false), List.of())
                : counted;
    }

    private static Case delivered(Case c, Recorded r, String message, PersonId person, boolean failed) {
        return onVisit(c, r, v -> {
            if (!(v.waiting() instanceof Waiting.Delivery d) || !d.message().equals(message)) {
                return v;
            }
            List<PersonId> left =
                    d.left().stream().filter(p -> !p.equals(person)).toList();
            return v.waitingFor(new Waiting.Delivery(message, left, d.someFailed() || failed));
        });
    }

    // --- escalation

    private static Case rung(Case c, Recorded r, Event.RungFired e) {
        return onVisit(c, r, v -> {
            List<Alarm> alarms = v.alarms().stream()
                    .filter(a -> a.kind() != AlarmKind.RUNG || a.number() != e.rung())
                    .map(a -> e.shiftSeconds() > 0 ? a.later(e.shiftSeconds()) : a)
                    .toList();
            Visit next = v.alarmed(alarms);
            return switch (next.waiting()) {
                case Waiting.Task t when e.handedTo() != null -> next.waitingFor(t.handedTo(e.handedTo()));
                case Waiting.Task t when !e.joined().isEmpty() -> next.waitingFor(t.joinedBy(e.joined()));
                case Waiting.Votes votes
                when !e.joined().isEmpty() -> next.waitingFor(votes.joinedBy(e.joined(), e.needed()));
                case Waiting.CallIn callIn -> next.waitingFor(callIn.asking(e.joined()));
                default -> next;
            };
        });
    }

    // --- interventions in a whole run

    private static Run intervened(Run run, Recorded r, Event.Intervened e) {
        return switch (e.kind()) {
            case HOLD -> run.holding(r.at());
            case RESUME -> run.resumed(r.at());
            case MOVE -> e.version() == null ? run : run.atVersion(e.version());
            case RERUN -> e.step() == null ? run : from(run, e.step());
            default -> run;
        };
    }

    /** Stands before a step of the top level again; values of it and of what came after it are seen no longer (D29). */
    private static Run from(Run run, StepId step) {
        Map<String, Map<String, Object>> steps = new HashMap<>(run.steps());
        Map<String, Object> first = steps.get(step.value());
        if (first != null) {
            // By their visits, since many steps may be done at the same moment.
            long since = visit(first);
            steps.values().removeIf(v -> visit(v) >= since);
        }
        return Guards.doneAgain(run, steps.keySet())
                .withReady(List.of(new Token(step, null)))
                .withScope(null, steps);
    }

    private static long visit(Map<String, Object> values) {
        return values.get(VISIT) instanceof Number n ? n.longValue() : 0;
    }

    private static Case stalled(Case c, Recorded r, Event.Stalled e) {
        return onRun(c, r, run -> {
            Run opened = open(run, r);
            Visit visit = opened.open().get(r.visit());
            Visit.Stall stall = new Visit.Stall(e.code(), e.why() == null ? "" : e.why(), r.at());
            // A stalled visit keeps its rungs but no longer the moment that stalled it.
            List<Alarm> rungs = visit.alarms().stream()
                    .filter(a -> a.kind() == AlarmKind.RUNG)
                    .toList();
            return opened.with(visit.stalled(stall).alarmed(rungs));
        });
    }
}
