package dastur.server.api;

import dastur.core.expression.Expressions;
import dastur.core.expression.Vocabulary;
import dastur.core.json.Texts;
import dastur.core.people.Right;
import dastur.core.record.Entry;
import dastur.core.record.Seal;
import dastur.core.run.Event;
import dastur.core.signal.Source;
import dastur.core.signal.SourceKey;
import dastur.core.start.TriggerFigures;
import dastur.core.time.WorkingCalendar;
import dastur.core.workflow.Trigger;
import dastur.core.workflow.TriggerId;
import dastur.core.workflow.WorkflowKey;
import dastur.server.http.Problem;
import dastur.server.http.Request;
import dastur.server.http.Route;
import dastur.server.starts.Timekeeper;
import dastur.store.Feed;
import dastur.store.Organisation;
import dastur.store.Sources;
import dastur.store.Tickets;
import dastur.store.Workflows;
import java.time.Instant;
import java.time.InstantSource;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.HashSet;
import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.stream.Stream;
import org.jspecify.annotations.Nullable;

/** What starts workflows: their triggers, and the order in which they are looked at. */
final class TriggerRoutes {
    /** So many causes are counted, within so many of the last changes. */
    private static final int CAUSES = 1_000;

    private static final long CHANGES = 5_000;

    /**
     * What triggers came to of late.
     *
     * @param causes how many were counted
     * @param since when the first of them happened; null where there was none
     * @param figures of triggers that were looked at, in no order that means anything
     */
    record FiguresView(int causes, @Nullable Instant since, List<TriggerFigures> figures) {}

    /** So many triggers on signals may have to be evaluated for each. */
    private static final int MOST_EVALUATED = 50;

    record TriggersBody(List<Trigger> triggers) {}

    /** @param order ids of triggers, the first to be looked at first */
    record OrderBody(List<TriggerId> order) {}

    private final Workflows workflows;
    private final Organisation organisation;
    private final Tickets tickets;
    private final Sources sources;
    private final Feed feed;
    private final InstantSource clock;

    private TriggerRoutes(
            Workflows workflows,
            Organisation organisation,
            Tickets tickets,
            Sources sources,
            Feed feed,
            InstantSource clock) {
        this.sources = sources;
        this.feed = feed;
        this.workflows = workflows;
        this.organisation = organisation;
        this.tickets = tickets;
        this.clock = clock;
    }

    static Stream<Route> of(
            Workflows workflows,
            Organisation organisation,
            Tickets tickets,
            Sources sources,
            Feed feed,
            InstantSource clock) {
        TriggerRoutes r = new TriggerRoutes(workflows, organisation, tickets, sources, feed, clock);
        return Stream.of(
                Route.put(
                        "/api/workflows/{key}/triggers",
                        Right.DESIGN,
                        "Set the triggers",
                        TriggersBody.class,
                        null,
                        r::setTriggers),
                Route.list(
                        "/api/triggers",
                        Right.SEE,
                        "The triggers of all live workflows, in the order in which they are looked at",
                        Trigger.Live.class,
                        q -> workflows.liveTriggers()),
                Route.get(
                        "/api/triggers/figures",
                        Right.SEE,
                        "What triggers came to on the last 1,000 causes: how often each held, and was taken by one before it",
                        FiguresView.class,
                        q -> r.figures()),
                Route.put(
                        "/api/triggers/order",
                        Right.DESIGN,
                        "Set the order in which triggers are looked at",
                        OrderBody.class,
                        null,
                        r::orderTriggers),
                Route.list(
                        "/api/triggers/{id}/firings",
                        Right.SEE,
                        "Runs a trigger started",
                        Tickets.RunRow.class,
                        q -> tickets.firingsOf(q.path("id", TriggerId::new).value())));
    }

    /** A signal's source is there, and what its condition reads is said of its signals. */
    private Expressions ofSignals(Trigger.SignalComes when, String where) {
        List<Source> all = sources.all();
        if (when.source() != null) {
            source(all, when.source(), where + ".when");
        }
        return expressionsOf(when, all);
    }

    private Expressions expressionsOf(Trigger.SignalComes when, List<Source> all) {
        return new Expressions(Vocabulary.ofSignal(
                organisation.fields(),
                all.stream()
                        .filter(s -> when.source() == null || s.key().equals(when.source()))
                        .flatMap(s -> s.mapping().own().stream())
                        .toList()));
    }

    private Object setTriggers(Request q) {
        WorkflowKey key = WorkflowRoutes.key(q, workflows);
        List<Trigger> triggers = Request.needed(q.body(TriggersBody.class).triggers(), "triggers");
        if (triggers.size() > 50) {
            throw Problem.invalid("triggers", "A workflow has at most 50 triggers.")
                    .end();
        }
        Expressions ofTickets = new Expressions(Vocabulary.ofTicket(organisation.fields()));
        Set<String> ids = new HashSet<>();
        for (int i = 0; i < triggers.size(); i++) {
            Trigger t = triggers.get(i);
            String where = "triggers[" + i + "]";
            boolean foreign =
                    workflows.workflowOf(t.id()).filter(w -> !w.equals(key)).isPresent();
            if (!ids.add(t.id().value()) || foreign) {
                throw Problem.invalid(where + ".id", "The trigger's id '" + t.id() + "' is taken.")
                        .end();
            }
            Expressions expressions = t.when() instanceof Trigger.SignalComes when ? ofSignals(when, where) : ofTickets;
            onTicket(t.when(), where + ".when");
            if (t.when() instanceof Trigger.OfItself) {
                ofItself(t, where);
            }
            if (!Texts.blank(t.condition())) {
                expressions.problemWithCondition(t.condition()).ifPresent(p -> {
                    throw Problem.invalid(where + ".condition", p.message()).end();
                });
            }
            for (var service : t.services()) {
                if (organisation.service(service).isEmpty()) {
                    throw Problem.invalid(where + ".services", "There is no service '" + service + "'.")
                            .end();
                }
            }
        }
        notTooManyToEvaluate(key, triggers);
        workflows.setTriggers(Answers.by(q, clock), key, triggers);
        return null;
    }

    /**
     * Each signal that turns its matter is held against all conditions. One that compares something with a fixed value is passed over
     * where that differs; the others are evaluated, and of those there are few (I26).
     */
    private void notTooManyToEvaluate(WorkflowKey key, List<Trigger> triggers) {
        Map<String, Expressions> known = new HashMap<>();
        List<Trigger> others = workflows.liveTriggers().stream()
                .filter(t -> !t.workflow().equals(key))
                .map(Trigger.Live::trigger)
                .filter(t -> isEvaluated(t, known))
                .toList();
        int own = 0;
        for (int i = 0; i < triggers.size(); i++) {
            own += isEvaluated(triggers.get(i), known) ? 1 : 0;
            if (isEvaluated(triggers.get(i), known) && others.size() + own > MOST_EVALUATED) {
                throw Problem.invalid(
                                "triggers[" + i + "].condition",
                                "There are " + MOST_EVALUATED
                                        + " triggers on signals already whose conditions have to be evaluated for"
                                        + " each signal. Let this one name its source, and compare a value with a fixed one, as in"
                                        + " signal.what == 'frozen'.")
                        .end();
            }
        }
    }

    /** One that names its source and compares a value costs next to nothing where it does not fit. */
    private boolean isEvaluated(Trigger t, Map<String, Expressions> known) {
        return t.on()
                && t.when() instanceof Trigger.SignalComes when
                && (when.source() == null
                        || Texts.blank(t.condition())
                        || !known.computeIfAbsent(when.source().value(), k -> expressionsOf(when, sources.all()))
                                .isSifted(t.condition()));
    }

    private FiguresView figures() {
        List<Event.TriggersLookedAt> causes = new ArrayList<>();
        Instant since = null;
        for (Entry entry : feed.last("triggersLookedAt", CAUSES, CHANGES)) {
            if (Seal.open(entry).event() instanceof Event.TriggersLookedAt looked) {
                causes.add(looked);
                since = entry.at();
            }
        }
        return new FiguresView(causes.size(), since, TriggerFigures.of(causes));
    }

    /** What happens to a ticket, and no field of it shows. */
    private void onTicket(Trigger.When when, String where) {
        if (when instanceof Trigger.ClockReaches c) {
            if (c.percent() < 1 || c.percent() > 100) {
                throw Problem.invalid(where + ".percent", "A clock reaches 1 to 100 % of its time.")
                        .end();
            }
        }
        if (when instanceof Trigger.ApprovalEnds a && !Trigger.ApprovalEnds.EXITS.contains(a.exit())) {
            throw Problem.invalid(where + ".exit", "An approval ends as approved or declined.")
                    .end();
        }
        if (when instanceof Trigger.SignalComes s
                && s.mostAMinute() != null
                && (s.mostAMinute() < 1 || s.mostAMinute() > Trigger.SignalComes.MOST)) {
            throw Problem.invalid(
                            where + ".mostAMinute",
                            "A trigger starts 1 to " + Trigger.SignalComes.MOST + " runs a minute at most.")
                    .end();
        }
        if (when instanceof Trigger.SignalEntered s && s.source() != null) {
            source(sources.all(), s.source(), where);
        }
    }

    private static void source(List<Source> all, SourceKey key, String where) {
        if (all.stream().noneMatch(s -> s.key().equals(key))) {
            throw Problem.invalid(where + ".source", "There is no source '" + key + "'.")
                    .end();
        }
    }

    /** What starts by itself asks nobody, and is about no ticket; a schedule has a time that comes. */
    private void ofItself(Trigger t, String where) {
        if (t.mode() != Trigger.Mode.STARTS
                || !Texts.blank(t.condition())
                || !t.services().isEmpty()) {
            throw Problem.invalid(
                            where,
                            "A schedule or a hook starts its workflow by itself, on a ticket of its own: it takes no condition and"
                                    + " no service.")
                    .end();
        }
        if (t.when() instanceof Trigger.TimeComes when) {
            WorkingCalendar days = Timekeeper.days(organisation, when.rhythm().openDaysOf());
            if (when.rhythm().openDaysOf() != null && days == null) {
                throw Problem.invalid(where + ".when.rhythm.openDaysOf", "There is no such calendar.")
                        .end();
            }
            if (t.on() && when.rhythm().next(clock.instant(), days).isEmpty()) {
                throw Problem.invalid(
                                where + ".when.rhythm",
                                "No time of this schedule comes any more. Choose a later one, or switch it off.")
                        .end();
            }
        }
    }

    private Object orderTriggers(Request q) {
        List<TriggerId> order = Request.needed(q.body(OrderBody.class).order(), "order");
        for (TriggerId id : order) {
            if (workflows.workflowOf(id).isEmpty()) {
                throw Problem.invalid("order", "There is no trigger '" + id + "'.")
                        .end();
            }
        }
        workflows.orderTriggers(Answers.by(q, clock), order);
        return null;
    }
}
