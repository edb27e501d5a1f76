package dastur.server.api;

import dastur.core.expression.Expressions;
import dastur.core.expression.Vocabulary;
import dastur.core.people.GroupId;
import dastur.core.people.Right;
import dastur.core.signal.Mapping;
import dastur.core.signal.Severity;
import dastur.core.signal.Source;
import dastur.core.signal.SourceKey;
import dastur.core.start.Watch;
import dastur.core.start.Watching;
import dastur.core.ticket.CiId;
import dastur.core.ticket.FieldType;
import dastur.core.time.Span;
import dastur.core.workflow.Action;
import dastur.core.workflow.ActionKey;
import dastur.server.App.Design;
import dastur.server.App.Starts;
import dastur.server.http.Problem;
import dastur.server.http.Request;
import dastur.server.http.Route;
import dastur.store.Sources;
import dastur.store.Watches;
import java.time.Instant;
import java.time.InstantSource;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.stream.Stream;
import org.jspecify.annotations.Nullable;

/** Watches: what they look at, what they saw, and what becomes of it (I11). */
final class WatchRoutes {
    private static final int MOST = 500;
    private static final int STRETCHES_SHOWN = 50;
    private static final int ROWS_SHOWN = 50;
    private static final int READINGS_SHOWN = 100;

    /**
     * A watch in a list.
     *
     * @param said what its last reading said; null before the first
     * @param since of the readings in a row that said the same
     * @param next when it looks next; null when it is off
     * @param passed how many times were passed over
     * @param rows the rows that something is the matter with, at most {@value #ROWS_SHOWN}; empty where it looks at the whole
     */
    record WatchLine(
            SourceKey key,
            String name,
            boolean on,
            Span every,
            String action,
            boolean inFault,
            @Nullable String said,
            @Nullable Instant since,
            @Nullable Instant last,
            @Nullable Instant next,
            long passed,
            List<String> rows) {}

    record WatchView(
            WatchLine line,
            Watch watch,
            Source.Otherwise otherwise,
            @Nullable String group,
            List<Watches.Stretch> stretches) {}

    /**
     * Single readings, the latest first.
     *
     * @param more whether there are earlier ones
     * @param keptSince single readings from before are not kept
     */
    record Readings(List<Watches.Single> readings, boolean more, Instant keptSince) {}

    /**
     * @param otherwise what becomes of a fault that no trigger takes up
     * @param each where its rules are about each row of a list by itself; left out where they are about what is read as a whole
     */
    record WatchBody(
            String name,
            Boolean on,
            ActionKey action,
            Map<String, Object> inputs,
            Span every,
            String holds,
            @Nullable Span atLeast,
            @Nullable String calm,
            Severity severity,
            @Nullable CiId ci,
            @Nullable Span unreadAfter,
            Source.Otherwise otherwise,
            @Nullable String group,
            Watch.@Nullable Each each) {}

    private final Design design;
    private final Starts starts;
    private final Sources sources;
    private final InstantSource clock;

    private WatchRoutes(Design design, Starts starts, Sources sources, InstantSource clock) {
        this.design = design;
        this.starts = starts;
        this.sources = sources;
        this.clock = clock;
    }

    static Stream<Route> of(Design design, Starts starts, Sources sources, InstantSource clock) {
        WatchRoutes r = new WatchRoutes(design, starts, sources, clock);
        return Stream.of(
                Route.list("/api/watches", Right.SEE, "The watches", WatchLine.class, q -> r.all()),
                Route.get("/api/watches/{key}", Right.SEE, "A watch, with what it saw", WatchView.class, r::one),
                Route.get(
                        "/api/watches/{key}/readings",
                        Right.SEE,
                        "Its single readings, the latest first",
                        Readings.class,
                        r::readings,
                        "from",
                        "before"),
                Route.put(
                        "/api/watches/{key}",
                        Right.DESIGN,
                        "Set a watch, and the source of its signals",
                        WatchBody.class,
                        WatchView.class,
                        r::set),
                Route.post(
                        "/api/watches/{key}/readings",
                        Right.DESIGN,
                        "Look once, without any effect",
                        WatchBody.class,
                        Watching.Reading.class,
                        q -> r.read(q).whole()));
    }

    private List<WatchLine> all() {
        Map<SourceKey, Watches.Standing> standing = starts.watches().standing();
        return starts.watches().all().stream()
                .map(w -> line(w, standing.get(w.key())))
                .toList();
    }

    private WatchLine line(Watch w, Watches.@Nullable Standing stands) {
        Optional<Watches.Stretch> now =
                starts.watches().stretches(w.key(), 1).stream().findFirst();
        return new WatchLine(
                w.key(),
                w.name(),
                w.on(),
                w.every(),
                action(w.action()).map(Action::name).orElse(w.action().value()),
                stands != null && stands.stand().inFault(),
                now.map(Watches.Stretch::said).orElse(null),
                now.map(Watches.Stretch::from).orElse(null),
                now.map(Watches.Stretch::to).orElse(null),
                w.on() && stands != null ? stands.next() : null,
                stands == null ? 0 : stands.passed(),
                stands == null ? List.of() : inFault(stands.stand()));
    }

    private static List<String> inFault(Watching.Stand stand) {
        return stand.rows().entrySet().stream()
                .filter(row -> row.getValue().inFault())
                .limit(ROWS_SHOWN)
                .map(Map.Entry::getKey)
                .toList();
    }

    private Optional<Action> action(ActionKey key) {
        return design.workflows().actions().stream()
                .filter(a -> a.key().equals(key))
                .findFirst();
    }

    private Object one(Request q) {
        return view(asked(q));
    }

    private Watch asked(Request q) {
        return starts.watches().find(q.path("key", SourceKey::new)).orElseThrow(() -> Problem.notFound(
                        "There is no watch of this name.")
                .end());
    }

    private Object readings(Request q) {
        SourceKey key = asked(q).key();
        Instant keptSince = clock.instant().minus(Watches.READINGS_KEPT);
        Instant from = q.moment("from").orElse(Instant.EPOCH);
        Instant before = q.moment("before").orElse(Request.END);
        List<Watches.Single> some = starts.watches().readings(key, from, before, READINGS_SHOWN + 1);
        return new Readings(
                some.subList(0, Math.min(some.size(), READINGS_SHOWN)), some.size() > READINGS_SHOWN, keptSince);
    }

    private WatchView view(Watch w) {
        Optional<Source> source = sources.find(w.key());
        return new WatchView(
                line(w, starts.watches().standing().get(w.key())),
                w,
                source.map(Source::otherwise).orElse(Source.Otherwise.KEPT),
                source.map(Source::group).orElse(null),
                starts.watches().stretches(w.key(), STRETCHES_SHOWN));
    }

    private Object set(Request q) {
        SourceKey key = q.path("key", SourceKey::new);
        WatchBody body = q.body(WatchBody.class);
        Action reads = reads(body);
        TermsRoutes.mayUse(q, reads, design);
        Watch watch = watch(key, body, reads);
        Optional<Watch> before = starts.watches().find(key);
        boolean isNew = before.isEmpty();
        if (isNew && sources.find(key).isPresent()) {
            throw Problem.conflict("There is a source of this name already; give the watch another.")
                    .end();
        }
        if (isNew && starts.watches().all().size() >= MOST) {
            throw Problem.invalid("key", "There are at most " + MOST + " watches.")
                    .end();
        }
        if (body.group() != null && !isGroup(body.group())) {
            throw Problem.invalid("group", "There is no such group.").end();
        }
        Source source = watch.source(reads, Request.needed(body.otherwise(), "otherwise"), body.group());
        design.setUp()
                .watch(
                        Answers.by(q, clock),
                        watch,
                        kept(ownMapping(before).map(source::with).orElse(source)));
        return view(watch);
    }

    /** What is set on its source's page and nowhere here stays as it is there. */
    private Source kept(Source anew) {
        return sources.find(anew.key())
                .map(is -> new Source(
                        is.key(),
                        anew.name(),
                        is.open(),
                        is.proof(),
                        anew.mapping(),
                        anew.otherwise(),
                        is.neverQuiet(),
                        anew.group(),
                        is.from(),
                        is.silentAfterMinutes(),
                        is.post()))
                .orElse(anew);
    }

    /** What somebody has set on its source's page stays: where rows name their CI or how bad it is, say. */
    private Optional<Mapping> ownMapping(Optional<Watch> before) {
        return before.flatMap(w -> {
            Optional<Mapping> given = action(w.action())
                    .map(a -> w.source(a, Source.Otherwise.KEPT, null).mapping());
            return sources.find(w.key())
                    .map(Source::mapping)
                    .filter(set -> given.isPresent() && !set.equals(given.get()));
        });
    }

    private boolean isGroup(String group) {
        try {
            return design.organisation().group(new GroupId(group)).isPresent();
        } catch (IllegalArgumentException e) {
            return false;
        }
    }

    /** An action that only reads: what changes the world is done by a workflow, where somebody answers for it. */
    private Action reads(WatchBody body) {
        ActionKey key = Request.needed(body.action(), "action");
        Action action = action(key).orElseThrow(() -> Problem.invalid("action", "There is no action '" + key + "'.")
                .end());
        if (action.changesWorld() || action.repeat() != Action.Repeat.FREE) {
            throw Problem.invalid(
                            "action",
                            "'" + action.name()
                                    + "' does not only read, so a watch cannot repeat it: choose one that reads.")
                    .end();
        }
        return action;
    }

    private Watch watch(SourceKey key, WatchBody body, Action reads) {
        Map<String, Object> inputs = new HashMap<>(Request.needed(body.inputs(), "inputs"));
        ActionInputs.check(reads, inputs, design.organisation()::ci);
        Watch.Each each = body.each();
        if (each != null && reads.outputs().stream().noneMatch(o -> isList(o, each.list()))) {
            throw Problem.invalid("each.list", "'" + reads.name() + "' gives no list '" + each.list() + "'.")
                    .end();
        }
        Expressions over = new Expressions(Vocabulary.ofReading(reads, each != null));
        rule(over, body.holds(), "holds");
        rule(over, body.calm(), "calm");
        if (body.ci() != null && design.organisation().ci(body.ci()).isEmpty()) {
            throw Problem.invalid("ci", "There is no CI '" + body.ci() + "'.").end();
        }
        try {
            return new Watch(
                    key,
                    Request.needed(body.name(), "name").strip(),
                    Request.needed(body.on(), "on"),
                    reads.key(),
                    inputs,
                    Request.needed(body.every(), "every"),
                    Request.needed(body.holds(), "holds"),
                    body.atLeast(),
                    body.calm(),
                    Request.needed(body.severity(), "severity"),
                    body.ci(),
                    body.unreadAfter(),
                    each);
        } catch (IllegalArgumentException e) {
            throw Problem.invalid("every", String.valueOf(e.getMessage())).end();
        }
    }

    private static boolean isList(Action.Output output, String name) {
        return output.field().type() == FieldType.LIST && output.field().name().equals(name);
    }

    private static void rule(Expressions over, @Nullable String rule, String where) {
        if (rule != null && !rule.isBlank()) {
            over.problemWithCondition(rule).ifPresent(p -> {
                throw Problem.invalid(where, p.message()).end();
            });
        }
    }

    private Watching.Seen read(Request q) {
        WatchBody body = q.body(WatchBody.class);
        Action reads = reads(body);
        return starts.lookout().read(watch(q.path("key", SourceKey::new), body, reads), reads, false);
    }
}
