package dastur.core.run;

import dastur.core.people.Actor;
import dastur.core.people.PersonId;
import dastur.core.run.Event.Change;
import dastur.core.run.Visit.Alarm;
import dastur.core.run.Visit.AlarmKind;
import dastur.core.ticket.Promised;
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

    private Fold() {}

    static Case apply(Case before, Recorded recorded) {
        Case c = touched(before.at(recorded.seq(), recorded.at()), recorded.actor());
        return switch (recorded.event()) {
            case Event.OfVisit e -> new Effects(c, recorded).all(e);
            case Event.TicketRaised e -> raised(c, recorded, e);
            case Event.TicketChanged e -> changed(c, e.changes(), e.texts());
            case Event.CiPlanned e -> changed(c, e.changes(), null);
            case Event.NoteAdded e -> c;
            case Event.ReadByHand e -> c;
            case Event.SignalsHeard e ->
                e.matter() == null || e.because() != null ? c : c.with(c.ties().withMatter(e.matter()));
            case Event.CauseFound e -> e.folds() ? c.with(c.ties().folded(e.cause())) : c;
            case Event.StandsByItself e -> c.with(c.ties().folded(null));
            case Event.RecoveryHeard e -> c;
            case Event.MarkedAsTest e -> c.with(c.ticket().asTest(new Case.Test(e.by(), e.until())));
            case Event.Caused e -> c;
            case Event.FileAttached e -> attached(c, recorded, e);
            case Event.TriggersLookedAt e -> c;
            case Event.StartOffered e -> offered(c, recorded, e);
            case Event.StartAnswered e -> answered(c, e.trigger());
            case Event.RunStarted e -> started(c, recorded, e);
            case Event.RunEnded e -> FoldBrackets.runEnded(c, recorded, e);
            case Event.TargetsSet e -> targetsSet(c, e);
            case Event.TargetMissed e -> onTarget(c, e.of(), Target::tooLate);
            case Event.ClockReached e -> onTarget(c, e.of(), t -> t.reached(e.percent()));
            case Event.BracketOpened e -> FoldBrackets.opened(c, recorded, e);
            case Event.LineBegan e -> FoldBrackets.lineBegan(c, recorded, e);
            case Event.LineEnded e -> FoldBrackets.lineEnded(c, recorded, e);
            case Event.RoundJudged e -> FoldBrackets.roundJudged(c, recorded, e);
            case Event.BracketLeft e -> FoldBrackets.bracketLeft(c, recorded, e);
            case Event.PutBackBegan e -> FoldBrackets.putBackBegan(c, recorded, e);
            case Event.PutBackEnded e -> FoldBrackets.putBackEnded(c, recorded);
            case Event.WorkflowSent e -> opened(c, recorded, new Waiting.Sent(e.workflow(), e.name()), List.of());
            case Event.SentRunRecalled e -> c;
            case Event.TicketLinked e -> linked(c, new Case.Link(e.other(), e.as()), true);
            case Event.TicketUnlinked e -> linked(c, new Case.Link(e.other(), e.as()), false);
            case Event.PartnerJoined e -> AtPartners.joined(c, recorded, e);
            case Event.PartnerDiffers e -> AtPartners.differs(c, recorded, e);
            case Event.DifferenceSettled e -> AtPartners.settled(c, recorded, e);
            case Event.PartnerLeft e -> AtPartners.left(c, recorded, e);
            case Event.SaidToPartner e -> c;
            case Event.PartnerSaid e -> c;
            case Event.PartnerTold e -> c;
            case Event.Left e -> leftOtherwise(c, recorded, e);
            case Event.Ended e -> FoldBrackets.ended(c, recorded, e);
            case Event.LateResult e -> late(c, recorded, e.owner());
            case Event.LateSettled e -> late(c, recorded, null);
            case Event.RoomTold e ->
                left(onRun(c, recorded, run -> run.withLastDone(null)), recorded, e, recorded.outcome(e.exit()));
            case Event.RoomOpened e -> c.with(c.talk().withRoom(new Case.Room(e.room(), e.keepsAll(), e.name())));
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

    /** What a person has taken up is theirs: it stands by itself from then on. */
    private static Case touched(Case c, Actor by) {
        if (!(by instanceof Actor.OfPerson) || c.ticket().touched() && c.under() == null) {
            return c;
        }
        return c.with(c.ticket().touchedByNow()).with(c.ties().folded(null));
    }

    private static Case attached(Case c, Recorded r, Event.FileAttached e) {
        List<Case.FileRef> files = new ArrayList<>(c.files());
        files.add(new Case.FileRef(r.seq(), e.hash(), e.name(), e.type(), e.size(), e.toRequester(), e.by(), r.at()));
        return c.with(c.talk().withFiles(files));
    }

    private static Case targetsSet(Case c, Event.TargetsSet e) {
        Map<String, Object> of = new HashMap<>();
        for (String field : List.of("service", "priority")) {
            set(of, field, c.fields().get(field));
        }
        return c.with(c.ticket().withTargets(new TreeMap<>(e.targets()), Map.copyOf(of)));
    }

    private static Case onTarget(Case c, Promised of, UnaryOperator<Target> edit) {
        TreeMap<Promised, Target> targets = new TreeMap<>(c.targets());
        targets.computeIfPresent(of, (kind, target) -> edit.apply(target));
        return c.with(c.ticket().withTargets(targets, c.promisedFor()));
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
        TreeSet<String> messages = new TreeSet<>(c.talk().givenUp());
        if (is) {
            messages.add(message);
        } else {
            messages.remove(message);
        }
        return c.with(c.talk().withGivenUp(messages));
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
        return c.with(c.runs().withLate(late));
    }

    private static Case raised(Case c, Recorded r, Event.TicketRaised e) {
        Map<String, Object> fields = new HashMap<>(e.fields());
        if (e.texts() != null) {
            fields.putAll(e.texts());
        }
        return c.with(c.ticket().raised(e.kind(), r.at(), fields));
    }

    static Case changed(Case c, Map<String, Change> changes, @Nullable Map<String, Change> texts) {
        Map<String, Object> fields = new HashMap<>(c.fields());
        changes.forEach((name, change) -> set(fields, name, change.after()));
        if (texts != null) {
            texts.forEach((name, change) -> set(fields, name, change.after()));
        }
        boolean ended = TicketKind.ended((String) fields.getOrDefault("state", ""));
        Case now = c.with(c.ticket().withFields(fields));
        return ended ? AtPartners.ended(now.with(now.runs().withOffers(new TreeMap<>()))) : now;
    }

    private static Case offered(Case c, Recorded r, Event.StartOffered e) {
        TreeMap<String, Case.Offer> offers = new TreeMap<>(c.offers());
        offers.put(
                e.trigger().value(),
                new Case.Offer(e.trigger(), e.workflow(), e.name(), e.asked(), r.at(), e.heldBack()));
        return c.with(c.runs().withOffers(offers));
    }

    private static Case answered(Case c, TriggerId trigger) {
        TreeMap<String, Case.Offer> offers = new TreeMap<>(c.offers());
        offers.remove(trigger.value());
        return c.with(c.runs().withOffers(offers));
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
        return withRuns(c.with(c.runs().withBegan(began)), runs -> runs.put(run.id(), run));
    }

    static Case withRuns(Case c, java.util.function.Consumer<TreeMap<RunId, Run>> edit) {
        TreeMap<RunId, Run> runs = new TreeMap<>(c.open());
        edit.accept(runs);
        return c.with(c.runs().withOpen(runs));
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
        return onRun(c, r, run -> opened(open(run, r, null), r, waiting, alarms));
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
        return onRun(c, r, run -> close(open(run, r, null), r, e.to(), values));
    }

    /** A put-back that a person left as it is is not tried again, and stands out at the end. */
    private static Case leftOtherwise(Case c, Recorded r, Event.Left e) {
        Visit visit = r.visit() == null ? null : c.visit(r.visit()).orElse(null);
        if (visit == null || visit.putsBack() == null) {
            return left(c, r, e, r.outcome(e.exit()));
        }
        return new Effects(c, r).all(List.of(new Effect.LeftAsItIs(visit.putsBack()), new Effect.Leaves(null, null)));
    }

    // --- messages

    private static Case queued(Case c, Recorded r, Event.MessageQueued e) {
        // Who was told something cannot be untold; a decision that is no longer asked says so itself.
        Case told = e.purpose().equals("decision") ? c : onRun(c, r, run -> run.withLastDone(null));
        Case counted = told.with(told.talk().withMessages(told.talk().messages() + 1));
        if (e.exit() != null) {
            return left(counted, r, e, r.outcome(e.exit()));
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
            Waiting waiting = e.handedTo() == null ? v.waiting() : v.waiting().handedTo(e.handedTo());
            return v.alarmed(alarms)
                    .waitingFor(e.joined().isEmpty() ? waiting : waiting.joinedBy(e.joined(), e.needed()));
        });
    }

    // --- interventions in a whole run

    private static Run intervened(Run run, Recorded r, Event.Intervened e) {
        return switch (e.kind()) {
            case HOLD -> run.holding(r.at());
            case RESUME -> run.resumed(r.at());
            case MOVE -> e.version() == null ? run : run.atVersion(e.version());
            case RERUN -> e.step() == null ? run : from(run, e.step());
            case RETRY,
                    RETRY_ANEW,
                    TAKE_EXIT,
                    HAPPENED,
                    DID_NOT_HAPPEN,
                    ASK_AGAIN,
                    GO_ON,
                    SKIP,
                    STOP_RUN,
                    STOP_AND_PUT_BACK -> run;
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
        return values.get(Recorded.VISIT) instanceof Number n ? n.longValue() : 0;
    }

    private static Case stalled(Case c, Recorded r, Event.Stalled e) {
        return onRun(c, r, run -> {
            Run opened = open(run, r, null);
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
