package dastur.server.api;

import dastur.core.expression.Expressions;
import dastur.core.expression.TextTemplate;
import dastur.core.expression.Vocabulary;
import dastur.core.finding.Finding;
import dastur.core.finding.Findings;
import dastur.core.finding.KnownOrganisation;
import dastur.core.json.Texts;
import dastur.core.people.PersonId;
import dastur.core.people.Right;
import dastur.core.ticket.Field;
import dastur.core.ticket.TicketKind;
import dastur.core.workflow.Action;
import dastur.core.workflow.Ladder;
import dastur.core.workflow.Level;
import dastur.core.workflow.Trigger;
import dastur.core.workflow.TriggerId;
import dastur.core.workflow.WorkflowKey;
import dastur.core.workflow.WorkflowVersion;
import dastur.server.App;
import dastur.server.http.Problem;
import dastur.server.http.Request;
import dastur.server.http.Route;
import dastur.store.Tickets;
import dastur.store.Workflows;
import java.time.Instant;
import java.util.HashSet;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.concurrent.Semaphore;
import java.util.stream.Stream;
import org.jspecify.annotations.Nullable;

/** Designing: the library, drafts, findings, publishing, triggers, and what workflows are made of. */
public final class WorkflowRoutes {
    record NewWorkflow(
            String key,
            String name,
            @Nullable String purpose,
            @Nullable String kind,
            @Nullable String copyOf) {}

    record WorkflowView(
            String key,
            @Nullable Integer liveVersion,
            boolean retired,
            @Nullable WorkflowVersion draft,
            long draftRevision,
            @Nullable String draftBy,
            @Nullable Instant draftAt,
            @Nullable WorkflowVersion live,
            List<Workflows.Published> versions,
            List<TriggerView> triggers,
            List<Finding> findings,
            boolean mayDesign) {}

    record TriggerView(Trigger trigger, long firings) {}

    record DraftBody(WorkflowVersion version, Long revision) {}

    /** A draft was saved. */
    record DraftSaved(long revision, List<Finding> findings) {}

    /** @param move whether runs that stand on steps which both versions have go on with the new one */
    record PublishBody(Long revision, @Nullable Boolean move) {}

    /** @param moved how many runs went over to it */
    record PublishedView(int version, int moved) {}

    record TriggersBody(List<Trigger> triggers) {}

    /** @param order ids of triggers, the first to be looked at first */
    record OrderBody(List<TriggerId> order) {}

    record ExpressionBody(@Nullable WorkflowVersion version, String kind, String text) {}

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

    record CatalogueView(List<Action> actions, List<Ladder> ladders, List<PathView> paths) {}

    record PathView(String path, Field field) {}

    private final App app;

    private WorkflowRoutes(App app) {
        this.app = app;
    }

    public static Stream<Route> of(App app) {
        WorkflowRoutes r = new WorkflowRoutes(app);
        return Stream.of(
                Route.list("/api/workflows", Right.SEE, "The library", Workflows.Summary.class, q -> app.workflows()
                        .all()),
                Route.post(
                                "/api/workflows",
                                Right.DESIGN,
                                "Make a workflow",
                                NewWorkflow.class,
                                WorkflowView.class,
                                r::create)
                        .created(),
                Route.get("/api/workflows/{key}", Right.SEE, "One workflow", WorkflowView.class, r::one),
                Route.get(
                        "/api/workflows/{key}/versions/{number}",
                        Right.SEE,
                        "A published version",
                        WorkflowVersion.class,
                        r::version),
                Route.put(
                        "/api/workflows/{key}/draft",
                        Right.DESIGN,
                        "Save the draft",
                        DraftBody.class,
                        DraftSaved.class,
                        r::saveDraft),
                Route.delete("/api/workflows/{key}/draft", Right.DESIGN, "Throw the draft away", r::discardDraft),
                Route.post(
                        "/api/workflows/{key}/publish",
                        Right.DESIGN,
                        "Publish the draft",
                        PublishBody.class,
                        PublishedView.class,
                        r::publish),
                Route.post(
                        "/api/workflows/{key}/retire", Right.DESIGN, "Retire", null, null, q -> retire(app, q, true)),
                Route.post(
                        "/api/workflows/{key}/revive",
                        Right.DESIGN,
                        "Bring back",
                        null,
                        null,
                        q -> retire(app, q, false)),
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
                        q -> app.workflows().liveTriggers()),
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
                        q -> app.tickets()
                                .firingsOf(q.path("id", TriggerId::new).value())),
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

    private WorkflowKey key(Request q) {
        WorkflowKey key = q.path("key", WorkflowKey::new);
        if (!app.workflows().exists(key)) {
            throw Problem.notFound("There is no workflow '" + key + "'.").end();
        }
        return key;
    }

    private Object one(Request q) {
        return view(key(q), q);
    }

    private WorkflowView view(WorkflowKey key, Request q) {
        Optional<Workflows.Draft> draft = app.workflows().draft(key);
        Optional<Integer> live = app.workflows().liveVersion(key);
        Optional<WorkflowVersion> liveVersion =
                live.flatMap(n -> app.workflows().version(key, n));
        List<Trigger> triggers = app.workflows().triggers(key);
        Map<String, Long> firings = app.workflows().firings(key);
        WorkflowVersion shown =
                draft.map(Workflows.Draft::version).or(() -> liveVersion).orElseThrow();
        return new WorkflowView(
                key.value(),
                live.orElse(null),
                app.workflows().retired(key),
                draft.map(Workflows.Draft::version).orElse(null),
                app.workflows().draftRevision(key),
                draft.map(Workflows.Draft::by).map(PersonId::value).orElse(null),
                draft.map(Workflows.Draft::at).orElse(null),
                liveVersion.orElse(null),
                app.workflows().versions(key),
                triggers.stream()
                        .map(t -> new TriggerView(t, firings.getOrDefault(t.id().value(), 0L)))
                        .toList(),
                Findings.of(shown, triggers, around()),
                Right.DESIGN.of(q.person()));
    }

    private KnownOrganisation around() {
        return OrganisationNow.of(app);
    }

    private Object create(Request q) {
        NewWorkflow body = q.body(NewWorkflow.class);
        WorkflowKey key = keyOf(body.key());
        if (Texts.blank(body.name()) || body.name().length() > 120) {
            throw Problem.invalid("name", "A workflow's name has 1 to 120 characters.")
                    .end();
        }
        if (app.workflows().exists(key)) {
            throw Problem.conflict("There is already a workflow '" + key + "'. Choose another key.")
                    .end();
        }
        TicketKind kind = body.kind() == null
                ? null
                : TicketKind.of(body.kind())
                        .orElseThrow(() -> Problem.invalid("kind", "A ticket is an incident, a change or a request.")
                                .end());
        WorkflowVersion draft = body.copyOf() == null
                ? new WorkflowVersion(
                        key,
                        1,
                        body.name().strip(),
                        body.purpose(),
                        q.person().id(),
                        kind,
                        List.of(),
                        List.of(),
                        new Level(List.of()))
                : copied(key, body, q.person().id());
        app.workflows().create(draft, q.person().id(), app.clock().instant());
        return view(key, q);
    }

    private WorkflowVersion copied(WorkflowKey key, NewWorkflow body, PersonId owner) {
        WorkflowKey from = keyOf(body.copyOf());
        WorkflowVersion v = app.workflows()
                .liveVersion(from)
                .flatMap(n -> app.workflows().version(from, n))
                .or(() -> app.workflows().draft(from).map(Workflows.Draft::version))
                .orElseThrow(() -> Problem.invalid("copyOf", "There is no workflow '" + from + "' to copy.")
                        .end());
        return new WorkflowVersion(
                key,
                1,
                body.name().strip(),
                body.purpose() == null ? v.purpose() : body.purpose(),
                owner,
                v.kind(),
                v.startForm(),
                v.vars(),
                v.results(),
                v.conditions(),
                v.notes(),
                v.mostVisits(),
                v.body());
    }

    private static WorkflowKey keyOf(@Nullable String text) {
        try {
            return new WorkflowKey(Request.needed(text, "key"));
        } catch (IllegalArgumentException e) {
            throw Problem.invalid("key", e.getMessage()).end();
        }
    }

    private Object version(Request q) {
        WorkflowKey key = key(q);
        int number = q.path("number", Integer::valueOf);
        return app.workflows().version(key, number).orElseThrow(() -> Problem.notFound(
                        "'" + key + "' has no version " + number + ".")
                .end());
    }

    private Object saveDraft(Request q) {
        WorkflowKey key = key(q);
        DraftBody body = q.body(DraftBody.class);
        WorkflowVersion given = Request.needed(body.version(), "version");
        if (!given.key().equals(key)) {
            throw Problem.invalid("version.key", "This is the draft of '" + given.key() + "', not of '" + key + "'.")
                    .end();
        }
        if (app.organisation().person(given.owner()).isEmpty()) {
            throw Problem.invalid("version.owner", "There is no person '" + given.owner() + "' to own it.")
                    .end();
        }
        int next = app.workflows().versions(key).stream()
                        .mapToInt(Workflows.Published::number)
                        .max()
                        .orElse(0)
                + 1;
        WorkflowVersion draft = given.numbered(next);
        return switch (app.workflows()
                .saveDraft(
                        draft,
                        Request.needed(body.revision(), "revision"),
                        q.person().id(),
                        app.clock().instant())) {
            case Workflows.Saved.Ok ok ->
                new DraftSaved(ok.revision(), Findings.of(draft, app.workflows().triggers(key), around()));
            case Workflows.Saved.Conflict conflict -> {
                String who = Optional.ofNullable(conflict.by())
                        .map(PersonId::new)
                        .flatMap(app.organisation()::person)
                        .map(p -> p.name())
                        .orElse("Somebody");
                throw Problem.conflict(who + " has saved another draft at " + conflict.at()
                                + ". Load it, then make your change again.")
                        .end();
            }
        };
    }

    private Object discardDraft(Request q) {
        WorkflowKey key = key(q);
        if (app.workflows().liveVersion(key).isEmpty()) {
            throw Problem.conflict("'" + key + "' was never published: its draft is all there is.")
                    .end();
        }
        app.workflows().discardDraft(key);
        return null;
    }

    private Object publish(Request q) {
        WorkflowKey key = key(q);
        PublishBody body = q.body(PublishBody.class);
        WorkflowVersion draft = app.workflows()
                .draft(key)
                .map(Workflows.Draft::version)
                .orElseThrow(() -> Problem.conflict(
                                "There is no draft to publish: nothing was changed since the live version.")
                        .end());
        List<Finding> blocking = Findings.of(draft, app.workflows().triggers(key), around()).stream()
                .filter(Finding::blocks)
                .toList();
        if (!blocking.isEmpty()) {
            Finding first = blocking.getFirst();
            throw new Problem(
                            "urn:dastur:problem:findings",
                            blocking.size() + (blocking.size() == 1 ? " finding keeps" : " findings keep")
                                    + " it from being published",
                            422,
                            String.join(
                                    " ",
                                    blocking.stream()
                                            .limit(20)
                                            .map(Finding::message)
                                            .toList()),
                            first.step() == null ? null : first.step().value())
                    .end();
        }
        List<String> broken = app.workflows().cases(key).stream()
                .map(c -> c.play(draft, app.look()).problem())
                .filter(java.util.Objects::nonNull)
                .toList();
        if (!broken.isEmpty()) {
            throw new Problem(
                            "urn:dastur:problem:rehearsals",
                            "Kept rehearsals end otherwise",
                            422,
                            String.join(" ", broken) + " Mend the draft, or keep the rehearsal anew if this is meant.",
                            "cases")
                    .end();
        }
        int number = app.workflows()
                .publish(
                        key,
                        Request.needed(body.revision(), "revision"),
                        q.person().id(),
                        app.clock().instant())
                .orElseThrow(() -> Problem.conflict("The draft was changed meanwhile. Look at it again, then publish.")
                        .end());
        int moved = Boolean.TRUE.equals(body.move()) ? RunRoutes.move(app, key, number, q.commandId(), q.actor()) : 0;
        return new PublishedView(number, moved);
    }

    private static @Nullable Object retire(App app, Request q, boolean retired) {
        WorkflowKey key = q.path("key", WorkflowKey::new);
        if (app.workflows().liveVersion(key).isEmpty()) {
            throw Problem.notFound("There is no published workflow '" + key + "'.")
                    .end();
        }
        app.workflows().setRetired(SetUpRoutes.by(app, q), key, retired);
        return null;
    }

    private Object setTriggers(Request q) {
        WorkflowKey key = key(q);
        List<Trigger> triggers = Request.needed(q.body(TriggersBody.class).triggers(), "triggers");
        if (triggers.size() > 50) {
            throw Problem.invalid("triggers", "A workflow has at most 50 triggers.")
                    .end();
        }
        Expressions expressions =
                new Expressions(Vocabulary.ofTicket(app.organisation().fields()));
        Set<String> ids = new HashSet<>();
        for (int i = 0; i < triggers.size(); i++) {
            Trigger t = triggers.get(i);
            String where = "triggers[" + i + "]";
            boolean foreign = app.workflows()
                    .workflowOf(t.id())
                    .filter(w -> !w.equals(key))
                    .isPresent();
            if (!ids.add(t.id().value()) || foreign) {
                throw Problem.invalid(where + ".id", "The trigger's id '" + t.id() + "' is taken.")
                        .end();
            }
            if (!Texts.blank(t.condition())) {
                expressions.problemWithCondition(t.condition()).ifPresent(p -> {
                    throw Problem.invalid(where + ".condition", p.message()).end();
                });
            }
            for (var service : t.services()) {
                if (app.organisation().service(service).isEmpty()) {
                    throw Problem.invalid(where + ".services", "There is no service '" + service + "'.")
                            .end();
                }
            }
        }
        app.workflows().setTriggers(SetUpRoutes.by(app, q), key, triggers);
        return null;
    }

    private Object orderTriggers(Request q) {
        List<TriggerId> order = Request.needed(q.body(OrderBody.class).order(), "order");
        for (TriggerId id : order) {
            if (app.workflows().workflowOf(id).isEmpty()) {
                throw Problem.invalid("order", "There is no trigger '" + id + "'.")
                        .end();
            }
        }
        app.workflows().orderTriggers(SetUpRoutes.by(app, q), order);
        return null;
    }

    private Object catalogue(Request q) {
        return new CatalogueView(
                app.workflows().actions(),
                app.workflows().ladders(),
                Vocabulary.ofTicket(app.organisation().fields()).paths().entrySet().stream()
                        .map(e -> new PathView(e.getKey(), e.getValue()))
                        .toList());
    }

    private Object check(Request q) {
        ExpressionBody body = q.body(ExpressionBody.class);
        String text = Request.needed(body.text(), "text");
        KnownOrganisation around = around();
        Vocabulary vocabulary = body.version() == null
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
        Answers.mustSee(app, q.person(), number);
        dastur.core.run.Case c = app.tickets().find(number).orElseThrow(() -> Problem.notFound(
                        "There is no ticket " + number + ".")
                .end());
        KnownOrganisation around = around();
        Expressions expressions = new Expressions(
                body.version() == null
                        ? Vocabulary.ofTicket(around.fields())
                        : Vocabulary.of(body.version(), around.fields(), around.declared()));
        var scope = dastur.core.run.Engine.scope(c, app.look(), app.clock().instant());
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
        app.setUp().ladder(SetUpRoutes.by(app, q), ladder);
        return ladder;
    }
}
