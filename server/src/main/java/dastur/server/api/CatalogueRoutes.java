package dastur.server.api;

import dastur.core.expression.Expressions;
import dastur.core.expression.TextTemplate;
import dastur.core.expression.Vocabulary;
import dastur.core.finding.KnownOrganisation;
import dastur.core.json.Texts;
import dastur.core.people.Right;
import dastur.core.run.LookupKey;
import dastur.core.ticket.Field;
import dastur.core.workflow.Action;
import dastur.core.workflow.Ladder;
import dastur.core.workflow.WorkflowVersion;
import dastur.server.http.Problem;
import dastur.server.http.Request;
import dastur.server.http.Route;
import dastur.store.Organisation;
import dastur.store.SetUp;
import dastur.store.Sources;
import dastur.store.Tickets;
import dastur.store.Workflows;
import java.time.InstantSource;
import java.util.List;
import java.util.Optional;
import java.util.concurrent.Semaphore;
import java.util.function.Function;
import java.util.stream.Stream;
import org.jspecify.annotations.Nullable;

/** What workflows are made of, and expressions checked and tried. */
final class CatalogueRoutes {
    /** @param signal whether it is a condition on signals; left out for no */
    record ExpressionBody(
            @Nullable WorkflowVersion version,
            String kind,
            String text,
            @Nullable Boolean signal) {}

    record TrialBody(@Nullable WorkflowVersion version, String kind, String text, String ticket) {}

    /**
     * What an expression gives on a real ticket.
     *
     * @param explained a condition clause by clause; null for others
     * @param result what a value or text comes to; null when it has none, and for conditions
     * @param absent what has no value there
     */
    record TrialView(
            dastur.core.expression.Clause.@Nullable Explained explained,
            @Nullable String result,
            List<String> absent) {}

    /** @param problem why it is not valid; null when it is */
    record ExpressionView(dastur.core.expression.@Nullable ExpressionProblem problem) {}

    /** @param signalPaths what conditions on signals read */
    record CatalogueView(
            List<Action> actions, List<Ladder> ladders, List<PathView> paths, List<PathView> signalPaths) {}

    record PathView(String path, Field field) {}

    private final Workflows workflows;
    private final Organisation organisation;
    private final Tickets tickets;
    private final SetUp setUp;
    private final Function<LookupKey, Optional<?>> look;
    private final Sight sight;
    private final Sources sources;
    private final InstantSource clock;

    private CatalogueRoutes(
            Workflows workflows,
            Organisation organisation,
            Tickets tickets,
            SetUp setUp,
            Function<LookupKey, Optional<?>> look,
            Sight sight,
            Sources sources,
            InstantSource clock) {
        this.sources = sources;
        this.workflows = workflows;
        this.organisation = organisation;
        this.tickets = tickets;
        this.setUp = setUp;
        this.look = look;
        this.sight = sight;
        this.clock = clock;
    }

    static Stream<Route> of(
            Workflows workflows,
            Organisation organisation,
            Tickets tickets,
            SetUp setUp,
            Function<LookupKey, Optional<?>> look,
            Sight sight,
            Sources sources,
            InstantSource clock) {
        CatalogueRoutes r = new CatalogueRoutes(workflows, organisation, tickets, setUp, look, sight, sources, clock);
        return Stream.of(
                Route.get("/api/catalogue", Right.SEE, "What workflows are made of", CatalogueView.class, r::catalogue),
                Route.post(
                        "/api/catalogue/check",
                        Right.DESIGN,
                        "Check an expression or text",
                        ExpressionBody.class,
                        ExpressionView.class,
                        r::check),
                Route.post(
                        "/api/catalogue/try",
                        Right.DESIGN,
                        "Try an expression or text on a real ticket",
                        TrialBody.class,
                        TrialView.class,
                        r::tryOn),
                Route.put(
                        "/api/ladders/{key}", Right.DESIGN, "Set a ladder", Ladder.class, Ladder.class, r::putLadder));
    }

    private Object catalogue(Request q) {
        return new CatalogueView(
                workflows.actions(),
                workflows.ladders(),
                paths(Vocabulary.ofTicket(organisation.fields())),
                paths(ofSignals()));
    }

    private static List<PathView> paths(Vocabulary vocabulary) {
        return vocabulary.paths().entrySet().stream()
                .map(e -> new PathView(e.getKey(), e.getValue()))
                .toList();
    }

    private Vocabulary ofSignals() {
        return Vocabulary.ofSignal(
                organisation.fields(),
                sources.all().stream().flatMap(s -> s.mapping().own().stream()).toList());
    }

    private Object check(Request q) {
        ExpressionBody body = q.body(ExpressionBody.class);
        String text = Request.needed(body.text(), "text");
        KnownOrganisation around = OrganisationNow.of(organisation, workflows);
        Vocabulary vocabulary = Boolean.TRUE.equals(body.signal())
                ? ofSignals()
                : body.version() == null
                        ? Vocabulary.ofTicket(around.fields())
                        : Vocabulary.of(body.version(), around.fields(), around.declared());
        Expressions expressions = new Expressions(vocabulary);
        Optional<dastur.core.expression.ExpressionProblem> problem =
                switch (Request.needed(body.kind(), "kind")) {
                    case "condition" -> expressions.problemWithCondition(text);
                    case "value" -> expressions.problemWith(text);
                    case "text" -> TextTemplate.parse(text).problem(expressions);
                    default ->
                        throw Problem.invalid("kind", "A condition, a value or a text can be checked.")
                                .end();
                };
        return new ExpressionView(problem.orElse(null));
    }

    /** A costly one takes a processor for itself: a few at once are enough, and the others are told to wait. */
    private static final Semaphore TRIALS = new Semaphore(2);

    private Object tryOn(Request q) {
        if (!TRIALS.tryAcquire()) {
            throw Problem.trials().end();
        }
        try {
            return tried(q);
        } finally {
            TRIALS.release();
        }
    }

    private Object tried(Request q) {
        TrialBody body = q.body(TrialBody.class);
        String text = Request.needed(body.text(), "text");
        dastur.core.ticket.TicketId number;
        try {
            number = new dastur.core.ticket.TicketId(Request.needed(body.ticket(), "ticket"));
        } catch (IllegalArgumentException e) {
            throw Problem.invalid("ticket", e.getMessage()).end();
        }
        sight.mustSee(q.person(), number);
        dastur.core.run.Case c = tickets.find(number)
                .orElseThrow(() ->
                        Problem.notFound("There is no ticket " + number + ".").end());
        KnownOrganisation around = OrganisationNow.of(organisation, workflows);
        Expressions expressions = new Expressions(
                body.version() == null
                        ? Vocabulary.ofTicket(around.fields())
                        : Vocabulary.of(body.version(), around.fields(), around.declared()));
        var scope = dastur.core.run.Engine.scope(c, look, clock.instant());
        return switch (Request.needed(body.kind(), "kind")) {
            case "condition" -> new TrialView(expressions.explain(text, scope), null, List.of());
            case "text" -> {
                var rendered = TextTemplate.parse(text).render(expressions, scope, TextTemplate.Target.PLAIN);
                yield new TrialView(null, rendered.text(), rendered.absent());
            }
            case "value" ->
                switch (expressions.evaluate(text, scope)) {
                    case dastur.core.expression.Outcome.Value v ->
                        new TrialView(null, dastur.core.json.Json.write(v.value()), List.of());
                    case dastur.core.expression.Outcome.Absent a -> new TrialView(null, null, List.of(a.what()));
                    case dastur.core.expression.Outcome.Failed f -> new TrialView(null, null, List.of(f.why()));
                };
            default ->
                throw Problem.invalid("kind", "A condition, a value or a text can be tried.")
                        .end();
        };
    }

    private Object putLadder(Request q) {
        Ladder ladder = q.body(Ladder.class);
        if (!ladder.key().value().equals(q.context().pathParam("key")) || Texts.blank(ladder.name())) {
            throw Problem.invalid("key", "A ladder has a name, and the key it is stored under.")
                    .end();
        }
        setUp.ladder(Answers.by(q, clock), ladder);
        return ladder;
    }
}
