package dastur.server.api;

import dastur.core.json.Json;
import dastur.core.people.GroupId;
import dastur.core.people.Person;
import dastur.core.people.PersonId;
import dastur.core.people.Right;
import dastur.core.record.Export;
import dastur.core.record.Signer;
import dastur.core.run.Assigned;
import dastur.core.run.Case;
import dastur.core.run.Command;
import dastur.core.run.Intervention;
import dastur.core.run.RunId;
import dastur.core.run.VisitId;
import dastur.core.step.approval.ApprovalCommands.Vote;
import dastur.core.step.approval.ApprovalCommands.WithdrawVote;
import dastur.core.step.callin.AnswerCallIn;
import dastur.core.step.check.CheckCommands.ReviewCheck;
import dastur.core.step.check.CheckCommands.ReviewVerdict;
import dastur.core.step.task.TaskCommands.ClaimTask;
import dastur.core.step.task.TaskCommands.CompleteTask;
import dastur.core.step.task.TaskCommands.HandBackTask;
import dastur.core.step.task.TaskCommands.LeaveOut;
import dastur.core.step.task.TaskCommands.PassOnTask;
import dastur.core.step.task.TaskCommands.TakeBack;
import dastur.core.ticket.TicketId;
import dastur.core.ticket.TicketKind;
import dastur.core.workflow.StepId;
import dastur.core.workflow.TriggerId;
import dastur.core.workflow.WorkflowKey;
import dastur.server.App;
import dastur.server.api.Answers.Accepted;
import dastur.server.http.Problem;
import dastur.server.http.Request;
import dastur.server.http.Route;
import dastur.server.http.WebServer;
import dastur.store.Page;
import dastur.store.RecordLog;
import dastur.store.Records;
import dastur.store.Tickets;
import java.time.Duration;
import java.time.Instant;
import java.util.List;
import java.util.Map;
import java.util.stream.Stream;
import org.jspecify.annotations.Nullable;

/** Tickets, their record, and the work on them. */
public final class TicketRoutes {
    private static final String NDJSON = "application/x-ndjson";

    record RaiseBody(
            String kind,
            Map<String, Object> fields,
            @Nullable String priorityReason) {}

    record EditBody(
            Map<String, @Nullable Object> fields, @Nullable String reason) {}

    record NoteBody(String text, boolean toRequester) {}

    record RedactBody(String reason) {}

    record StartBody(String workflow, @Nullable Map<String, Object> inputs) {}

    private static final int MAX_DRAFT = 64_000;

    /** @param form values by field; as far as they are filled in */
    record DraftBody(@Nullable Map<String, Object> form) {}

    record CompleteBody(
            String outcome,
            @Nullable Map<String, Object> form,
            @Nullable String note) {}

    record VoteBody(
            Boolean approve,
            Integer round,
            String digest,
            @Nullable String comment,
            @Nullable String condition) {}

    record AnswerOfferBody(
            Boolean start,
            @Nullable Map<String, Object> inputs,
            @Nullable String reason) {}

    /** @param group to whom; or {@code person}, one of the two */
    record PassOnBody(@Nullable String group, @Nullable String person, String reason) {}

    record LeaveOutBody(String reason) {}

    record ReviewBody(ReviewVerdict verdict, @Nullable String reason) {}

    record CallInBody(Boolean accept) {}

    record InterveneBody(
            String run,
            @Nullable String visit,
            Intervention kind,
            @Nullable String exit,
            String reason,
            @Nullable String step,
            @Nullable Integer version) {}

    record TicketPage(List<Tickets.Row> items, boolean more) {}

    /** A draft that differs from what is live is shown to its owner after this long. */
    private static final Duration FORGOTTEN_AFTER = Duration.ofDays(1);

    private final App app;
    private final TicketViews views;

    private TicketRoutes(App app) {
        this.app = app;
        this.views = new TicketViews(app);
    }

    public static Stream<Route> of(App app) {
        TicketRoutes r = new TicketRoutes(app);
        return Stream.of(
                Route.get("/api/desk", Right.SIGNED_IN, "What needs me", Views.DeskView.class, r::desk),
                Route.get("/api/tickets", Right.SIGNED_IN, "Tickets", TicketPage.class, r::list, FILTERS),
                Route.post("/api/tickets", Right.ASK, "Raise a ticket", RaiseBody.class, Accepted.class, r::raise)
                        .created(),
                Route.get("/api/tickets/{number}", Right.SIGNED_IN, "One ticket", Views.TicketView.class, r::one),
                Route.put(
                        "/api/tickets/{number}", Right.WORK, "Change fields", EditBody.class, Accepted.class, r::edit),
                Route.get(
                        "/api/tickets/{number}/record",
                        Right.SEE,
                        "The record; as NDJSON when asked by Accept",
                        Views.RecordView.class,
                        r::record),
                Route.post(
                        "/api/tickets/{number}/record/{seq}/redaction",
                        Right.ADMINISTER,
                        "Take the content of an entry away for good",
                        RedactBody.class,
                        Accepted.class,
                        r::redact),
                Route.post(
                        "/api/tickets/{number}/notes",
                        Right.ASK,
                        "Add a note",
                        NoteBody.class,
                        Accepted.class,
                        r::note),
                Route.post(
                        "/api/tickets/{number}/runs",
                        Right.WORK,
                        "Start a workflow",
                        StartBody.class,
                        Accepted.class,
                        r::start),
                Route.post(
                        "/api/tickets/{number}/proposals/{trigger}",
                        Right.WORK,
                        "Say whether a proposed workflow is to start",
                        AnswerOfferBody.class,
                        Accepted.class,
                        r::answerOffer),
                Route.post(
                        "/api/tickets/{number}/interventions",
                        Right.WORK,
                        "Help a stalled run",
                        InterveneBody.class,
                        Accepted.class,
                        r::intervene),
                Route.post(
                        "/api/tasks/{id}/claim",
                        Right.SIGNED_IN,
                        "Claim a task",
                        null,
                        Accepted.class,
                        q -> onVisit(app, q, ClaimTask::new)),
                Route.post(
                        "/api/tasks/{id}/handback",
                        Right.SIGNED_IN,
                        "Hand a task back",
                        null,
                        Accepted.class,
                        q -> onVisit(app, q, HandBackTask::new)),
                Route.post(
                        "/api/tasks/{id}/pass-on",
                        Right.SIGNED_IN,
                        "Pass a task on to a group or a person",
                        PassOnBody.class,
                        Accepted.class,
                        r::passOn),
                Route.post(
                        "/api/tasks/{id}/complete",
                        Right.SIGNED_IN,
                        "Complete a task with an outcome",
                        CompleteBody.class,
                        Accepted.class,
                        r::complete),
                Route.put(
                        "/api/tasks/{id}/draft",
                        Right.SIGNED_IN,
                        "Keep what I have filled in of a task's form, for me alone",
                        DraftBody.class,
                        null,
                        r::keepDraft),
                Route.post(
                        "/api/tasks/{id}/take-back",
                        Right.SIGNED_IN,
                        "Take one's own outcome back, within ten seconds",
                        null,
                        Accepted.class,
                        q -> onVisit(app, q, TakeBack::new)),
                Route.post(
                        "/api/tasks/{id}/leave-out",
                        Right.SIGNED_IN,
                        "Leave an optional task out",
                        LeaveOutBody.class,
                        Accepted.class,
                        r::leaveOut),
                Route.post(
                        "/api/reviews/{id}",
                        Right.SIGNED_IN,
                        "Review a check that does not hold",
                        ReviewBody.class,
                        Accepted.class,
                        r::review),
                Route.post(
                        "/api/call-ins/{id}/answer",
                        Right.SIGNED_IN,
                        "Answer a call-in",
                        CallInBody.class,
                        Accepted.class,
                        r::answerCallIn),
                Route.post(
                        "/api/approvals/{id}/withdraw",
                        Right.SIGNED_IN,
                        "Take one's own vote back while the decision is open",
                        null,
                        Accepted.class,
                        q -> onVisit(app, q, WithdrawVote::new)),
                Route.post(
                        "/api/approvals/{id}/vote",
                        Right.SIGNED_IN,
                        "Vote on an approval",
                        VoteBody.class,
                        Accepted.class,
                        r::vote));
    }

    private Object desk(Request q) {
        String me = q.person().id().value();
        Tickets.Counts counts = Right.SEE.of(q.person()) ? app.tickets().counts() : new Tickets.Counts(0, 0);
        return new Views.DeskView(
                app.tickets().workFor(me),
                app.tickets().workNamed(me).stream()
                        .map(Tickets.WorkItem::visit)
                        .toList(),
                app.organisation().coveredBy(q.person().id(), app.clock().instant()).stream()
                        .flatMap(c -> app.tickets().workNamed(c.person().value()).stream()
                                .filter(w -> Covering.takesOver(c, w.kind()))
                                .map(w -> new Views.CoveredItem(c.person().value(), w)))
                        .toList(),
                app.tickets().stalledOf(me),
                Right.WORK.of(q.person()) ? app.tickets().heldBy(me) : List.of(),
                Right.DESIGN.of(q.person())
                        ? app.workflows()
                                .forgottenDrafts(
                                        q.person().id(), app.clock().instant().minus(FORGOTTEN_AFTER))
                        : List.of(),
                app.clock().instant(),
                counts.openTickets(),
                counts.stalledRuns(),
                Right.WORK.of(q.person()) ? app.undelivered().count() : 0);
    }

    private Object list(Request q) {
        Page<Tickets.Row> page = app.tickets().list(filter(q));
        return new TicketPage(page.items(), page.more());
    }

    /** The query parameters of a list of tickets. */
    static final String[] FILTERS = {"text", "open", "kind", "priority", "state", "service", "group", "ci", "after"};

    static Tickets.Filter filter(Request q) {
        boolean seesAll = Right.SEE.of(q.person());
        return new Tickets.Filter(
                q.query("text").orElse(null),
                q.query("open").map(Boolean::valueOf).orElse(null),
                q.query("kind").orElse(null),
                q.query("priority").orElse(null),
                q.query("service").orElse(null),
                q.query("group").orElse(null),
                q.query("ci").orElse(null),
                seesAll ? null : q.person().id().value(),
                q.query("after").map(t -> id("after", t, TicketId::new)).orElse(null),
                q.query("state").orElse(null));
    }

    private Object raise(Request q) {
        RaiseBody body = q.body(RaiseBody.class);
        TicketKind kind = TicketKind.of(Request.needed(body.kind(), "kind"))
                .orElseThrow(() -> Problem.invalid("kind", "A ticket is an incident, a change or a request.")
                        .end());
        Map<String, Object> fields = new java.util.HashMap<>(Request.needed(body.fields(), "fields"));
        Person person = q.person();
        fields.putIfAbsent("requester", person.id().value());
        return Answers.of(app.commands()
                .raise(kind, q.commandId(), q.actor(), new Command.RaiseTicket(kind, fields, body.priorityReason())));
    }

    private TicketId visible(Request q) {
        TicketId ticket = q.path("number", TicketId::new);
        Answers.mustSee(app, q.person(), ticket);
        return ticket;
    }

    private Case found(Request q) {
        TicketId ticket = visible(q);
        return app.tickets().find(ticket).orElseThrow(() -> missing(ticket).end());
    }

    /** One that the log knows was there: somebody deleted it past the application (K11). */
    private Problem missing(TicketId ticket) {
        return app.records().deleted(ticket)
                ? Problem.gone(
                        "The log knows " + ticket
                                + ", but the database does not: it was deleted past the application. Tell those who run Dastur.")
                : Problem.notFound("There is no ticket " + ticket + ".");
    }

    private Object one(Request q) {
        return views.of(found(q), q.person());
    }

    private Object edit(Request q) {
        EditBody body = q.body(EditBody.class);
        return handle(q, visible(q), new Command.EditTicket(Request.needed(body.fields(), "fields"), body.reason()));
    }

    private Object note(Request q) {
        NoteBody body = q.body(NoteBody.class);
        // What a requester writes is theirs to see.
        boolean open = body.toRequester() || !Right.WORK.of(q.person());
        return handle(q, visible(q), new Command.AddNote(Request.needed(body.text(), "text"), open));
    }

    private Object redact(Request q) {
        RedactBody body = q.body(RedactBody.class);
        long seq = q.path("seq", text -> {
            try {
                return Long.parseLong(text);
            } catch (NumberFormatException e) {
                throw new IllegalArgumentException("An entry's number is a whole number.", e);
            }
        });
        return handle(q, visible(q), new Command.Redact(seq, Request.needed(body.reason(), "reason")));
    }

    private Object start(Request q) {
        StartBody body = q.body(StartBody.class);
        return handle(
                q,
                visible(q),
                new Command.StartRun(
                        id("workflow", body.workflow(), WorkflowKey::new),
                        body.inputs() == null ? Map.of() : body.inputs()));
    }

    private Object answerOffer(Request q) {
        AnswerOfferBody body = q.body(AnswerOfferBody.class);
        return handle(
                q,
                visible(q),
                new Command.AnswerOffer(
                        q.path("trigger", TriggerId::new),
                        Request.needed(body.start(), "start"),
                        body.inputs() == null ? Map.of() : body.inputs(),
                        body.reason()));
    }

    private Object intervene(Request q) {
        InterveneBody body = q.body(InterveneBody.class);
        TicketId ticket = visible(q);
        RunId run = id("run", body.run(), RunId::new);
        VisitId visit = body.visit() == null ? null : id("visit", body.visit(), VisitId::new);
        return handle(
                q,
                ticket,
                new Command.Intervene(
                        run,
                        visit,
                        Request.needed(body.kind(), "kind"),
                        body.exit(),
                        Request.needed(body.reason(), "reason"),
                        body.step() == null ? null : id("step", body.step(), StepId::new),
                        body.version()));
    }

    private Object passOn(Request q) {
        PassOnBody body = q.body(PassOnBody.class);
        Assigned to = assigned(body.group(), body.person());
        return onVisit(app, q, visit -> new PassOnTask(visit, to, Request.needed(body.reason(), "reason")));
    }

    /** A group or a person, one of the two. */
    static Assigned assigned(@Nullable String group, @Nullable String person) {
        if ((group == null) == (person == null)) {
            throw Problem.invalid("group", "Name a group or a person, one of the two.")
                    .end();
        }
        return group != null
                ? new Assigned(List.of(id("group", group, GroupId::new)), List.of())
                : new Assigned(List.of(), List.of(id("person", person, PersonId::new)));
    }

    private Object complete(Request q) {
        CompleteBody body = q.body(CompleteBody.class);
        return onVisit(
                app,
                q,
                visit -> new CompleteTask(
                        visit,
                        Request.needed(body.outcome(), "outcome"),
                        body.form() == null ? Map.of() : body.form(),
                        body.note()));
    }

    /** No part of the record: what is filled in is kept for its writer until they give it (N40). */
    private @Nullable Object keepDraft(Request q) {
        DraftBody body = q.body(DraftBody.class);
        VisitId visit = q.path("id", VisitId::new);
        // Only for a task of one's own, or of somebody one covers: a draft of others would keep what is not theirs.
        boolean offered = app.tickets().find(visit.ticket()).stream()
                .flatMap(c -> new AskViews(app).of(c, q.person()).stream())
                .anyMatch(a -> a.mine() && a.kind().equals("task") && a.visit().equals(visit.value()));
        if (!offered) {
            throw Problem.notFound("There is no open task " + visit + ".").end();
        }
        Map<String, Object> form = body.form() == null ? Map.of() : body.form();
        if (form.size() > 100 || Json.write(form).length() > MAX_DRAFT) {
            throw Problem.invalid("form", "What is filled in has at most 64,000 characters.")
                    .end();
        }
        app.drafts().put(visit, q.person().id(), form, app.clock().instant());
        return null;
    }

    private Object leaveOut(Request q) {
        LeaveOutBody body = q.body(LeaveOutBody.class);
        return onVisit(app, q, visit -> new LeaveOut(visit, Request.needed(body.reason(), "reason")));
    }

    private Object review(Request q) {
        ReviewBody body = q.body(ReviewBody.class);
        return onVisit(
                app, q, visit -> new ReviewCheck(visit, Request.needed(body.verdict(), "verdict"), body.reason()));
    }

    private Object answerCallIn(Request q) {
        CallInBody body = q.body(CallInBody.class);
        return onVisit(app, q, visit -> new AnswerCallIn(visit, Request.needed(body.accept(), "accept")));
    }

    private Object vote(Request q) {
        VoteBody body = q.body(VoteBody.class);
        return onVisit(
                app,
                q,
                visit -> new Vote(
                        visit,
                        Request.needed(body.round(), "round"),
                        Request.needed(body.digest(), "digest"),
                        Request.needed(body.approve(), "approve"),
                        body.comment(),
                        body.condition()));
    }

    /** Whom a task or approval is offered to is decided by the engine; to others it is not told that there is one. */
    static Object onVisit(App app, Request q, java.util.function.Function<VisitId, Command> command) {
        VisitId visit = q.path("id", VisitId::new);
        if (!Visibility.mayAnswer(app, q.person(), visit)) {
            throw Problem.notFound("There is nothing called '" + visit + "'.").end();
        }
        return Answers.of(app.commands()
                .handle(visit.ticket(), q.commandId(), Covering.actor(app, q, visit), command.apply(visit)));
    }

    private Object handle(Request q, TicketId ticket, Command command) {
        return handle(app, q, ticket, command);
    }

    private static Object handle(App app, Request q, TicketId ticket, Command command) {
        return Answers.of(app.commands().handle(ticket, q.commandId(), q.actor(), command));
    }

    static <T> T id(String where, @Nullable String text, java.util.function.Function<String, T> type) {
        try {
            return type.apply(Request.needed(text, where));
        } catch (IllegalArgumentException e) {
            throw Problem.invalid(where, e.getMessage()).end();
        }
    }

    // --- record

    private Object record(Request q) {
        Case c = found(q);
        String accept = q.context().header("Accept");
        return accept != null && accept.contains("ndjson")
                ? new WebServer.Raw(NDJSON, export(c))
                : views.record(c, after(q));
    }

    private static long after(Request q) {
        try {
            return Math.max(0, q.query("after").map(Long::parseLong).orElse(0L));
        } catch (NumberFormatException e) {
            throw Problem.malformed("after", "'after' is the number of an entry.")
                    .end();
        }
    }

    /**
     * All entries, and a signed trailer with what shows that the log holds them (D23). What was written a moment ago is entered
     * and signed first; a record that is not what was written is not given out.
     */
    private String export(Case c) {
        Instant now = app.clock().instant();
        app.log().catchUp();
        try {
            app.log().sign(now);
        } catch (Signer.NotAnExtension e) {
            throw Problem.conflict(e.getMessage() + " Nothing is signed or given out until that is looked into.")
                    .end();
        }
        Records.Checked checked = app.records().checked(c.id());
        checked.problem().ifPresent(broken -> {
            throw Problem.conflict("The record of " + c.id() + " is broken at entry " + broken.seq() + ": "
                            + broken.message() + ". It is not signed and not given out.")
                    .end();
        });
        RecordLog.Covered covered = app.log().covered(c.id()).orElseThrow();
        StringBuilder out = new StringBuilder();
        // Not what was written since: the log would not show it yet.
        checked.entries().stream().filter(e -> e.seq() <= covered.seq()).forEach(e -> out.append(Export.line(e))
                .append('\n'));
        return out.append(Export.trailer(c.id(), covered.seq(), covered.hash(), covered.proof(), now, app.signingKey()))
                .append('\n')
                .toString();
    }
}
