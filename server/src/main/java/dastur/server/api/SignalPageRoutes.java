package dastur.server.api;

import com.fasterxml.jackson.databind.JsonNode;
import dastur.core.expression.Clause;
import dastur.core.expression.Expressions;
import dastur.core.expression.Scope;
import dastur.core.expression.Verdict;
import dastur.core.json.Json;
import dastur.core.people.Right;
import dastur.core.run.Case;
import dastur.core.run.Event;
import dastur.core.signal.Aside;
import dastur.core.signal.Matter;
import dastur.core.signal.Signal;
import dastur.core.signal.Source;
import dastur.core.signal.SourceKey;
import dastur.core.start.Routed;
import dastur.core.ticket.Field;
import dastur.core.ticket.TicketId;
import dastur.core.workflow.TriggerId;
import dastur.server.App.Signalling;
import dastur.server.http.Problem;
import dastur.server.http.Request;
import dastur.server.http.Route;
import dastur.server.signals.Why;
import dastur.store.Incoming;
import dastur.store.Page;
import dastur.store.Tickets;
import java.time.Duration;
import java.time.Instant;
import java.time.InstantSource;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.stream.Collectors;
import java.util.stream.Stream;
import org.jspecify.annotations.Nullable;

/** What came in, what it did, and why: by matter, by source, and one by one (I7, N33). */
final class SignalPageRoutes {
    private static final int PAGE = 50;
    private static final int TRIED_ON = 200;
    private static final Duration SHOWN = Duration.ofHours(6);
    private static final Duration SLOT = Duration.ofMinutes(10);

    /**
     * A matter.
     *
     * @param inFault names of the sources that report the fault; empty when it is clear
     * @param since since when it stands as it does
     * @param unsteadyUntil until when turns start nothing; null when it is steady
     * @param ticket the ticket that is about it; null for none
     * @param state of that ticket
     * @param under the incident under which that ticket stands; null where it stands by itself
     * @param run what is under way on it, and for whom it waits; null for nothing
     * @param aside the ticket that explains its fault for now, so that it opens none; null for none
     * @param recoveryTold whether that ticket was told that it has recovered
     */
    record MatterView(
            String key,
            String title,
            @Nullable String ci,
            List<String> inFault,
            @Nullable String worst,
            Instant since,
            Instant lastAt,
            long count,
            @Nullable Instant unsteadyUntil,
            @Nullable String ticket,
            @Nullable String state,
            @Nullable TicketId under,
            @Nullable String run,
            @Nullable AsideView aside,
            boolean recoveryTold) {}

    /** @param over since when it explains the fault no longer; null while it does */
    record AsideView(
            TicketId ticket,
            Aside.Because because,
            @Nullable Instant over) {}

    record MattersView(List<MatterView> matters, boolean more, long needing) {}

    /** A picture of what came. @param counts how many in each slot, the oldest first */
    record TrafficView(Instant from, long slotSeconds, List<Long> counts) {}

    record LinesView(List<Incoming.Line> lines, boolean more) {}

    /**
     * One signal.
     *
     * @param raw as it came
     * @param signal as it was understood; null when it was not
     * @param told what was asked about it, in order, with the answers
     * @param looks the triggers that were looked at, clause by clause
     */
    record SignalView(
            Incoming.Line line,
            Map<String, String> headers,
            Object raw,
            @Nullable Signal signal,
            List<Routed.Told> told,
            List<Event.Look> looks) {}

    /**
     * How every trigger stands to a signal now.
     *
     * @param differs names of workflows that would take it now and did not then, or the other way round
     */
    record EveryTrigger(List<Event.Look> looks, List<String> differs) {}

    /** A condition to be tried on what came. @param source of which; null for all */
    record ConditionBody(String condition, @Nullable SourceKey source) {}

    /** @param example a clause by clause look at the last on which it did not hold; null when it held on all */
    record ConditionView(int tried, int holds, int cannotSay, Clause.@Nullable Explained example) {}

    private final Signalling signalling;
    private final Tickets tickets;
    private final OnTickets on;
    private final InstantSource clock;

    private SignalPageRoutes(Signalling signalling, Tickets tickets, OnTickets on, InstantSource clock) {
        this.signalling = signalling;
        this.tickets = tickets;
        this.on = on;
        this.clock = clock;
    }

    static Stream<Route> of(Signalling signalling, Tickets tickets, OnTickets on, InstantSource clock) {
        SignalPageRoutes r = new SignalPageRoutes(signalling, tickets, on, clock);
        return Stream.of(
                Route.get(
                        "/api/matters",
                        Right.SEE,
                        "What signals are about, the last spoken of first",
                        MattersView.class,
                        r::matters,
                        "only",
                        "before"),
                Route.get(
                        "/api/signals",
                        Right.SEE,
                        "Signals of a source or about a matter, the newest first",
                        LinesView.class,
                        r::lines,
                        "source",
                        "matter",
                        "before"),
                Route.get(
                        "/api/signals/traffic",
                        Right.SEE,
                        "How many signals came in the last six hours",
                        TrafficView.class,
                        q -> r.traffic()),
                Route.get(
                        "/api/signals/{id}",
                        Right.SEE,
                        "A signal, and why it did what it did",
                        SignalView.class,
                        r::one),
                Route.get(
                        "/api/signals/{id}/triggers",
                        Right.SEE,
                        "How every trigger stands to a signal, as they and what they read are now",
                        EveryTrigger.class,
                        r::everyTrigger),
                Route.get(
                        "/api/matters/why",
                        Right.SEE,
                        "The signal by which a matter came to stand as it does",
                        SignalView.class,
                        r::firstOf,
                        "matter"),
                Route.post(
                        "/api/signals/{id}/again",
                        Right.WORK,
                        "Look again at a signal that was not understood",
                        null,
                        null,
                        r::again),
                Route.post(
                        "/api/signals/conditions",
                        Right.DESIGN,
                        "Try a condition on the last signals",
                        ConditionBody.class,
                        ConditionView.class,
                        r::tried),
                Route.list(
                        "/api/tickets/{number}/matters",
                        Right.ASK,
                        "What signals say of what a ticket is about, and of what it explains",
                        MatterView.class,
                        q -> r.ofTicket(on.visible(q))));
    }

    private Object matters(Request q) {
        boolean needing = q.query("only").isPresent();
        if (needing && q.query("only").filter("needing"::equals).isEmpty()) {
            throw Problem.malformed("only", "The list can be narrowed down to 'needing' somebody.")
                    .end();
        }
        Page<Matter> page =
                signalling.matters().latest(needing, q.moment("before").orElse(null), PAGE);
        return new MattersView(
                page.items().stream().map(this::view).toList(),
                page.more(),
                signalling.matters().needing());
    }

    private List<MatterView> ofTicket(TicketId ticket) {
        Stream<Matter> about = signalling.matters().of(ticket).stream();
        return Stream.concat(about, signalling.matters().under(ticket).stream())
                .map(this::view)
                .toList();
    }

    private MatterView view(Matter m) {
        Optional<Case> about = Optional.ofNullable(m.ticket()).flatMap(tickets::find);
        Map<SourceKey, String> names = new LinkedHashMap<>();
        signalling.sources().all().forEach(s -> names.put(s.key(), s.name()));
        return new MatterView(
                m.key(),
                m.title(),
                m.ci() == null ? null : m.ci().value(),
                m.standing().inFault().stream()
                        .map(k -> names.getOrDefault(k, k.value()))
                        .toList(),
                m.standing().worst() == null ? null : m.standing().worst().word(),
                m.standing().since(),
                m.lastAt(),
                m.count(),
                m.turns().unsteadyUntil(),
                about.map(c -> c.id().value()).orElse(null),
                about.map(Case::state).orElse(null),
                about.map(Case::under).orElse(null),
                about.flatMap(c -> c.open().values().stream().findFirst())
                        .map(run -> run.name())
                        .orElse(null),
                m.aside() == null
                        ? null
                        : new AsideView(
                                m.aside().under(),
                                m.aside().because(),
                                m.aside().over()),
                m.about() != null && m.about().told());
    }

    private Object lines(Request q) {
        Optional<String> source = q.query("source");
        Optional<String> matter = q.query("matter");
        if (source.isPresent() == matter.isPresent()) {
            throw Problem.malformed("source", "Name a source, or a matter.").end();
        }
        String before = q.query("before").orElse(null);
        Page<Incoming.Line> page = source.isPresent()
                ? signalling.incoming().ofSource(key(source.get()), before, PAGE)
                : signalling.incoming().ofMatter(matter.orElseThrow(), before, PAGE);
        return new LinesView(page.items(), page.more());
    }

    private static SourceKey key(String text) {
        try {
            return new SourceKey(text);
        } catch (IllegalArgumentException e) {
            throw Problem.malformed("source", e.getMessage()).end();
        }
    }

    private Object traffic() {
        // What came in this very moment is in the last of them.
        Instant from = clock.instant().plusMillis(1).minus(SHOWN);
        int slots = (int) SHOWN.dividedBy(SLOT);
        List<Long> counts = new ArrayList<>();
        for (long count : signalling.incoming().counts(from, SLOT, slots)) {
            counts.add(count);
        }
        return new TrafficView(from, SLOT.toSeconds(), counts);
    }

    private Object one(Request q) {
        return signalling
                .incoming()
                .find(q.context().pathParam("id"))
                .map(SignalPageRoutes::view)
                .orElseThrow(
                        () -> Problem.notFound("This signal is not kept here.").end());
    }

    private Object everyTrigger(Request q) {
        Incoming.Whole whole = signalling
                .incoming()
                .find(q.context().pathParam("id"))
                .orElseThrow(
                        () -> Problem.notFound("This signal is not kept here.").end());
        SignalView then = view(whole);
        Source source = signalling.sources().find(whole.line().source()).orElseThrow(() -> Problem.conflict(
                        "Its source is there no more.")
                .end());
        if (then.signal() == null) {
            throw Problem.conflict("It was not understood, so that no trigger could look at it.")
                    .end();
        }
        List<Event.Look> now = signalling.foreseeing().everyTrigger(source, then.signal());
        Map<TriggerId, String> held = holding(then.looks());
        Map<TriggerId, String> holds = holding(now);
        // Where none was looked at, since it turned nothing, nothing can differ.
        List<String> differs = then.looks().isEmpty()
                ? List.of()
                : Stream.concat(without(held, holds), without(holds, held))
                        .distinct()
                        .sorted()
                        .toList();
        return new EveryTrigger(now, differs);
    }

    /** Names of workflows by those of their triggers that hold. */
    private static Map<TriggerId, String> holding(List<Event.Look> looks) {
        return looks.stream()
                .filter(Event.Look::holds)
                .collect(Collectors.toMap(Event.Look::trigger, Event.Look::name));
    }

    private static Stream<String> without(Map<TriggerId, String> some, Map<TriggerId, String> others) {
        return some.entrySet().stream()
                .filter(e -> !others.containsKey(e.getKey()))
                .map(Map.Entry::getValue);
    }

    private Object firstOf(Request q) {
        String matter = q.query("matter")
                .orElseThrow(() -> Problem.malformed("matter", "Name a matter.").end());
        return signalling
                .incoming()
                .lastBeginning(matter)
                .flatMap(line -> signalling.incoming().find(line.id()))
                .map(SignalPageRoutes::view)
                .orElseThrow(() -> Problem.notFound("The signal by which it began is not kept any more.")
                        .end());
    }

    private static SignalView view(Incoming.Whole whole) {
        Why why = whole.why() == null ? new Why(List.of(), List.of()) : Json.read(whole.why(), Why.class);
        JsonNode raw = Json.read(whole.raw(), JsonNode.class);
        Map<String, String> headers = new LinkedHashMap<>();
        Json.readMap(whole.headers()).forEach((name, value) -> headers.put(name, String.valueOf(value)));
        return new SignalView(
                whole.line(),
                headers,
                Json.plain(raw),
                whole.understood() == null ? null : Json.read(whole.understood(), Signal.class),
                why.told(),
                why.looks());
    }

    private Object again(Request q) {
        if (!signalling.incoming().again(q.context().pathParam("id"))) {
            throw Problem.conflict(
                            "Only what was not understood can be looked at again: what had an effect has it once.")
                    .end();
        }
        return null;
    }

    private Object tried(Request q) {
        ConditionBody body = q.body(ConditionBody.class);
        String condition = Request.needed(body.condition(), "condition");
        List<Source> sources = signalling.sources().all().stream()
                .filter(s -> body.source() == null || s.key().equals(body.source()))
                .toList();
        List<Field> own =
                sources.stream().flatMap(s -> s.mapping().own().stream()).toList();
        Expressions expressions = signalling.understanding().expressions(own);
        expressions.problemWithCondition(condition).ifPresent(p -> {
            throw Problem.invalid("condition", p.message()).end();
        });
        int tried = 0;
        int holds = 0;
        int cannotSay = 0;
        Clause.Explained example = null;
        for (Signal signal : last(sources)) {
            Scope scope = signalling.understanding().scope(signal, clock.instant());
            Clause.Explained explained = signalling
                    .understanding()
                    .expressions(own(sources, signal.source()))
                    .explain(condition, scope);
            tried++;
            holds += explained.verdict() == Verdict.TRUE ? 1 : 0;
            cannotSay += explained.verdict() == Verdict.CANNOT_SAY ? 1 : 0;
            example = example == null && explained.verdict() != Verdict.TRUE ? explained : example;
        }
        return new ConditionView(tried, holds, cannotSay, example);
    }

    /** The values of a source alone: another may call something else by the same name. */
    private static List<Field> own(List<Source> sources, SourceKey key) {
        return sources.stream()
                .filter(s -> s.key().equals(key))
                .flatMap(s -> s.mapping().own().stream())
                .toList();
    }

    private List<Signal> last(List<Source> sources) {
        return sources.stream()
                .flatMap(s -> signalling.incoming().lastUnderstood(s.key(), TRIED_ON).stream())
                .map(text -> Json.read(text, Signal.class))
                .sorted((a, b) -> b.id().compareTo(a.id()))
                .limit(TRIED_ON)
                .toList();
    }
}
