package dastur.server.api;

import dastur.core.finding.Finding;
import dastur.core.finding.Findings;
import dastur.core.finding.KnownOrganisation;
import dastur.core.json.Texts;
import dastur.core.people.Group;
import dastur.core.people.GroupId;
import dastur.core.people.PersonId;
import dastur.core.people.Right;
import dastur.core.run.LookupKey;
import dastur.core.ticket.TicketKind;
import dastur.core.workflow.Level;
import dastur.core.workflow.Trigger;
import dastur.core.workflow.TriggerId;
import dastur.core.workflow.WorkflowKey;
import dastur.core.workflow.WorkflowVersion;
import dastur.server.http.Problem;
import dastur.server.http.Request;
import dastur.server.http.Route;
import dastur.server.work.CommandService;
import dastur.store.Organisation;
import dastur.store.SetUp;
import dastur.store.Tickets;
import dastur.store.Workflows;
import java.time.Instant;
import java.time.InstantSource;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.function.Function;
import java.util.stream.Stream;
import org.jspecify.annotations.Nullable;

/** Designing: the library, drafts, findings, publishing, triggers, and what workflows are made of. */
final class WorkflowRoutes {
    record NewWorkflow(
            String key,
            String name,
            @Nullable String purpose,
            @Nullable String kind,
            @Nullable String copyOf,
            @Nullable FromGallery from) {}

    /**
     * A beginning from the gallery.
     *
     * @param work the group that does the work
     * @param decide the group that decides; needed where the template says so
     */
    record FromGallery(
            String template, String work, @Nullable String decide) {}

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

    private final Gallery gallery = new Gallery();
    private final InstantSource clock;
    private final Function<LookupKey, Optional<?>> look;
    private final Organisation organisation;
    private final SetUp setUp;
    private final Tickets tickets;
    private final Workflows workflows;
    private final CommandService commands;

    private WorkflowRoutes(
            InstantSource clock,
            Function<LookupKey, Optional<?>> look,
            Organisation organisation,
            SetUp setUp,
            Tickets tickets,
            Workflows workflows,
            CommandService commands) {
        this.clock = clock;
        this.look = look;
        this.organisation = organisation;
        this.setUp = setUp;
        this.tickets = tickets;
        this.workflows = workflows;
        this.commands = commands;
    }

    static Stream<Route> of(
            InstantSource clock,
            Function<LookupKey, Optional<?>> look,
            Organisation organisation,
            SetUp setUp,
            Tickets tickets,
            Workflows workflows,
            CommandService commands) {
        WorkflowRoutes r = new WorkflowRoutes(clock, look, organisation, setUp, tickets, workflows, commands);
        return Stream.of(
                Route.list(
                        "/api/gallery",
                        Right.DESIGN,
                        "Workflows that ship with the product, to begin with",
                        Gallery.Template.class,
                        q -> r.gallery.all()),
                Route.list("/api/workflows", Right.SEE, "The library", Workflows.Summary.class, q -> workflows.all()),
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
                Route.post("/api/workflows/{key}/retire", Right.DESIGN, "Retire", null, null, q -> r.retire(q, true)),
                Route.post(
                        "/api/workflows/{key}/revive",
                        Right.DESIGN,
                        "Bring back",
                        null,
                        null,
                        q -> r.retire(q, false)));
    }

    private WorkflowKey key(Request q) {
        return key(q, workflows);
    }

    /** The workflow of the path's {@code key}. */
    static WorkflowKey key(Request q, Workflows workflows) {
        WorkflowKey key = q.path("key", WorkflowKey::new);
        if (!workflows.exists(key)) {
            throw Problem.notFound("There is no workflow '" + key + "'.").end();
        }
        return key;
    }

    private Object one(Request q) {
        return view(key(q), q);
    }

    private WorkflowView view(WorkflowKey key, Request q) {
        Optional<Workflows.Draft> draft = workflows.draft(key);
        Optional<Integer> live = workflows.liveVersion(key);
        Optional<WorkflowVersion> liveVersion = live.flatMap(n -> workflows.version(key, n));
        List<Trigger> triggers = workflows.triggers(key);
        Map<String, Long> firings = workflows.firings(key);
        WorkflowVersion shown =
                draft.map(Workflows.Draft::version).or(() -> liveVersion).orElseThrow();
        return new WorkflowView(
                key.value(),
                live.orElse(null),
                workflows.retired(key),
                draft.map(Workflows.Draft::version).orElse(null),
                workflows.draftRevision(key),
                draft.map(Workflows.Draft::by).map(PersonId::value).orElse(null),
                draft.map(Workflows.Draft::at).orElse(null),
                liveVersion.orElse(null),
                workflows.versions(key),
                triggers.stream()
                        .map(t -> new TriggerView(t, firings.getOrDefault(t.id().value(), 0L)))
                        .toList(),
                Findings.of(shown, triggers, around()),
                Right.DESIGN.of(q.person()));
    }

    private KnownOrganisation around() {
        return OrganisationNow.of(organisation, workflows);
    }

    private Object create(Request q) {
        NewWorkflow body = q.body(NewWorkflow.class);
        WorkflowKey key = keyOf(body.key());
        if (Texts.blank(body.name()) || body.name().length() > 120) {
            throw Problem.invalid("name", "A workflow's name has 1 to 120 characters.")
                    .end();
        }
        if (workflows.exists(key)) {
            throw Problem.conflict("There is already a workflow '" + key + "'. Choose another key.")
                    .end();
        }
        TicketKind kind = body.kind() == null
                ? null
                : TicketKind.of(body.kind()).orElseThrow(() -> Problem.invalid(
                                "kind", "A ticket is an incident, a change, a request or a routine.")
                        .end());
        if (body.from() != null) {
            WorkflowVersion v = fromGallery(key, body, body.from(), q.person().id());
            workflows.create(v, q.person().id(), clock.instant());
            // So that it can be tried on a ticket as soon as it is published.
            workflows.setTriggers(
                    Answers.by(q, clock),
                    key,
                    List.of(new Trigger(
                            new TriggerId(key + "-by-hand"), true, new Trigger.ByHand(v.kind()), List.of(), null)));
            return view(key, q);
        }
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
        workflows.create(draft, q.person().id(), clock.instant());
        return view(key, q);
    }

    private WorkflowVersion fromGallery(WorkflowKey key, NewWorkflow body, FromGallery from, PersonId owner) {
        GroupId work = group("from.work", from.work());
        GroupId decide = gallery.decides(Request.needed(from.template(), "from.template"))
                ? group("from.decide", from.decide())
                : work;
        return gallery.of(from.template(), owner, work, decide)
                .map(v -> named(v, key, body, owner))
                .orElseThrow(() -> Problem.invalid(
                                "from.template",
                                "There is no '" + from.template() + "' in the gallery. There are: "
                                        + String.join(", ", Gallery.KEYS) + ".")
                        .end());
    }

    private GroupId group(String where, @Nullable String id) {
        return Optional.of(Request.needed(id, where))
                .flatMap(text -> {
                    try {
                        return organisation.group(new GroupId(text));
                    } catch (IllegalArgumentException e) {
                        throw Problem.invalid(where, e.getMessage()).end();
                    }
                })
                .map(Group::id)
                .orElseThrow(() -> Problem.invalid(where, "There is no group '" + id + "'. Make it under People first.")
                        .end());
    }

    private WorkflowVersion copied(WorkflowKey key, NewWorkflow body, PersonId owner) {
        WorkflowKey from = keyOf(body.copyOf());
        WorkflowVersion v = workflows
                .liveVersion(from)
                .flatMap(n -> workflows.version(from, n))
                .or(() -> workflows.draft(from).map(Workflows.Draft::version))
                .orElseThrow(() -> Problem.invalid("copyOf", "There is no workflow '" + from + "' to copy.")
                        .end());
        return named(v, key, body, owner);
    }

    private static WorkflowVersion named(WorkflowVersion v, WorkflowKey key, NewWorkflow body, PersonId owner) {
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
        return workflows.version(key, number).orElseThrow(() -> Problem.notFound(
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
        if (organisation.person(given.owner()).isEmpty()) {
            throw Problem.invalid("version.owner", "There is no person '" + given.owner() + "' to own it.")
                    .end();
        }
        int next = workflows.versions(key).stream()
                        .mapToInt(Workflows.Published::number)
                        .max()
                        .orElse(0)
                + 1;
        WorkflowVersion draft = given.numbered(next);
        return switch (workflows.saveDraft(
                draft, Request.needed(body.revision(), "revision"), q.person().id(), clock.instant())) {
            case Workflows.Saved.Ok ok ->
                new DraftSaved(ok.revision(), Findings.of(draft, workflows.triggers(key), around()));
            case Workflows.Saved.Conflict conflict -> {
                String who = Optional.ofNullable(conflict.by())
                        .map(PersonId::new)
                        .flatMap(organisation::person)
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
        if (workflows.liveVersion(key).isEmpty()) {
            throw Problem.conflict("'" + key + "' was never published: its draft is all there is.")
                    .end();
        }
        workflows.discardDraft(key);
        return null;
    }

    private Object publish(Request q) {
        WorkflowKey key = key(q);
        PublishBody body = q.body(PublishBody.class);
        WorkflowVersion draft = workflows
                .draft(key)
                .map(Workflows.Draft::version)
                .orElseThrow(() -> Problem.conflict(
                                "There is no draft to publish: nothing was changed since the live version.")
                        .end());
        List<Finding> blocking = Findings.of(draft, workflows.triggers(key), around()).stream()
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
        List<String> broken = workflows.cases(key).stream()
                .map(c -> c.play(draft, look).problem())
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
        int number = workflows
                .publish(
                        key,
                        Request.needed(body.revision(), "revision"),
                        q.person().id(),
                        clock.instant())
                .orElseThrow(() -> Problem.conflict("The draft was changed meanwhile. Look at it again, then publish.")
                        .end());
        int moved = Boolean.TRUE.equals(body.move())
                ? RunRoutes.move(commands, tickets, key, number, q.commandId(), q.actor())
                : 0;
        return new PublishedView(number, moved);
    }

    private @Nullable Object retire(Request q, boolean retired) {
        WorkflowKey key = q.path("key", WorkflowKey::new);
        if (workflows.liveVersion(key).isEmpty()) {
            throw Problem.notFound("There is no published workflow '" + key + "'.")
                    .end();
        }
        workflows.setRetired(Answers.by(q, clock), key, retired);
        return null;
    }
}
