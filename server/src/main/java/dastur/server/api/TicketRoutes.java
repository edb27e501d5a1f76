package dastur.server.api;

import dastur.core.json.Json;
import dastur.core.people.GroupId;
import dastur.core.people.Person;
import dastur.core.people.PersonId;
import dastur.core.people.Right;
import dastur.core.run.Assigned;
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
import dastur.server.api.Answers.Accepted;
import dastur.server.http.Problem;
import dastur.server.http.Request;
import dastur.server.http.Route;
import dastur.store.FormDrafts;
import dastur.store.Page;
import dastur.store.Tickets;
import java.time.InstantSource;
import java.util.List;
import java.util.Map;
import java.util.stream.Stream;
import org.jspecify.annotations.Nullable;

/** Tickets, their record, and the work on them. */
final class TicketRoutes {
    record RaiseBody(
            String kind,
            Map<String, Object> fields,
            @Nullable String priorityReason) {}

    record EditBody(
            Map<String, @Nullable Object> fields, @Nullable String reason) {}

    /** @param values of its other fields, by their names; null for none */
    record PlanBody(String id, String kind, @Nullable Map<String, Object> values) {}

    record NoteBody(String text, boolean toRequester) {}

    /** @param text what is said with it; needed where it is not solved */
    record SolvedBody(Boolean solved, @Nullable String text) {}

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

    private final OnTickets on;
    private final Tickets tickets;
    private final FormDrafts drafts;
    private final TicketViews ticketViews;
    private final AskViews asks;
    private final Sight sight;
    private final InstantSource clock;

    private TicketRoutes(
            OnTickets on,
            Tickets tickets,
            FormDrafts drafts,
            TicketViews ticketViews,
            AskViews asks,
            Sight sight,
            InstantSource clock) {
        this.on = on;
        this.tickets = tickets;
        this.drafts = drafts;
        this.ticketViews = ticketViews;
        this.asks = asks;
        this.sight = sight;
        this.clock = clock;
    }

    static Stream<Route> of(
            OnTickets on,
            Tickets tickets,
            FormDrafts drafts,
            TicketViews ticketViews,
            AskViews asks,
            Sight sight,
            InstantSource clock) {
        TicketRoutes r = new TicketRoutes(on, tickets, drafts, ticketViews, asks, sight, clock);
        return Stream.of(
                Route.get("/api/tickets", Right.SIGNED_IN, "Tickets", TicketPage.class, r::list, TicketFilters.NAMES),
                Route.post("/api/tickets", Right.ASK, "Raise a ticket", RaiseBody.class, Accepted.class, r::raise)
                        .created(),
                Route.get("/api/tickets/{number}", Right.SIGNED_IN, "One ticket", Views.TicketView.class, r::one),
                Route.put(
                        "/api/tickets/{number}", Right.WORK, "Change fields", EditBody.class, Accepted.class, r::edit),
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
                        "/api/tickets/{number}/planned-ci",
                        Right.ASK,
                        "Wish for a CI inside a request or a change: it is planned, and the ticket is about it",
                        PlanBody.class,
                        Accepted.class,
                        r::plan),
                Route.post(
                        "/api/tickets/{number}/solved",
                        Right.ASK,
                        "As its requester, say whether what is said to be done is solved",
                        SolvedBody.class,
                        Accepted.class,
                        r::solved),
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
                        q -> on.visit(q, ClaimTask::new)),
                Route.post(
                        "/api/tasks/{id}/handback",
                        Right.SIGNED_IN,
                        "Hand a task back",
                        null,
                        Accepted.class,
                        q -> on.visit(q, HandBackTask::new)),
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
                        q -> on.visit(q, TakeBack::new)),
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
                        q -> on.visit(q, WithdrawVote::new)),
                Route.post(
                        "/api/approvals/{id}/vote",
                        Right.SIGNED_IN,
                        "Vote on an approval",
                        VoteBody.class,
                        Accepted.class,
                        r::vote));
    }

    private Object list(Request q) {
        Page<Tickets.Row> page = tickets.list(TicketFilters.of(q));
        return new TicketPage(page.items(), page.more());
    }

    private Object raise(Request q) {
        RaiseBody body = q.body(RaiseBody.class);
        TicketKind kind = TicketKind.of(Request.needed(body.kind(), "kind"))
                .orElseThrow(() -> Problem.invalid("kind", "A ticket is an incident, a change or a request.")
                        .end());
        Map<String, Object> fields = new java.util.HashMap<>(Request.needed(body.fields(), "fields"));
        Person person = q.person();
        fields.putIfAbsent("requester", person.id().value());
        return on.raise(q, kind, new Command.RaiseTicket(kind, fields, body.priorityReason()));
    }

    private Object one(Request q) {
        return ticketViews.of(on.found(q), q.person());
    }

    private Object edit(Request q) {
        EditBody body = q.body(EditBody.class);
        return on.ticket(
                q, on.visible(q), new Command.EditTicket(Request.needed(body.fields(), "fields"), body.reason()));
    }

    private Object note(Request q) {
        NoteBody body = q.body(NoteBody.class);
        // What a requester writes is theirs to see.
        boolean open = body.toRequester() || !Right.WORK.of(q.person());
        return on.ticket(q, on.visible(q), new Command.AddNote(Request.needed(body.text(), "text"), open));
    }

    private Object plan(Request q) {
        PlanBody body = q.body(PlanBody.class);
        return on.ticket(
                q,
                on.visible(q),
                new Command.PlanCi(
                        Request.needed(body.id(), "id"),
                        Request.needed(body.kind(), "kind"),
                        body.values() == null ? Map.of() : body.values()));
    }

    private Object solved(Request q) {
        SolvedBody body = q.body(SolvedBody.class);
        return on.ticket(q, on.visible(q), new Command.SaySolved(Request.needed(body.solved(), "solved"), body.text()));
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
        return on.ticket(q, on.visible(q), new Command.Redact(seq, Request.needed(body.reason(), "reason")));
    }

    private Object start(Request q) {
        StartBody body = q.body(StartBody.class);
        return on.ticket(
                q,
                on.visible(q),
                new Command.StartRun(
                        id("workflow", body.workflow(), WorkflowKey::new),
                        body.inputs() == null ? Map.of() : body.inputs()));
    }

    private Object answerOffer(Request q) {
        AnswerOfferBody body = q.body(AnswerOfferBody.class);
        return on.ticket(
                q,
                on.visible(q),
                new Command.AnswerOffer(
                        q.path("trigger", TriggerId::new),
                        Request.needed(body.start(), "start"),
                        body.inputs() == null ? Map.of() : body.inputs(),
                        body.reason()));
    }

    private Object intervene(Request q) {
        InterveneBody body = q.body(InterveneBody.class);
        TicketId ticket = on.visible(q);
        RunId run = id("run", body.run(), RunId::new);
        VisitId visit = body.visit() == null ? null : id("visit", body.visit(), VisitId::new);
        return on.ticket(
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
        return on.visit(q, visit -> new PassOnTask(visit, to, Request.needed(body.reason(), "reason")));
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
        return on.visit(
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
        boolean offered = tickets.find(visit.ticket()).stream()
                .flatMap(c -> asks.of(c, q.person()).stream())
                .anyMatch(a -> a.mine() && a.kind().equals("task") && a.visit().equals(visit.value()));
        if (!offered) {
            throw Problem.notFound("There is no open task " + visit + ".").end();
        }
        Map<String, Object> form = body.form() == null ? Map.of() : body.form();
        if (form.size() > 100 || Json.write(form).length() > MAX_DRAFT) {
            throw Problem.invalid("form", "What is filled in has at most 64,000 characters.")
                    .end();
        }
        drafts.put(visit, q.person().id(), form, clock.instant());
        return null;
    }

    private Object leaveOut(Request q) {
        LeaveOutBody body = q.body(LeaveOutBody.class);
        return on.visit(q, visit -> new LeaveOut(visit, Request.needed(body.reason(), "reason")));
    }

    private Object review(Request q) {
        ReviewBody body = q.body(ReviewBody.class);
        return on.visit(q, visit -> new ReviewCheck(visit, Request.needed(body.verdict(), "verdict"), body.reason()));
    }

    private Object answerCallIn(Request q) {
        CallInBody body = q.body(CallInBody.class);
        return on.visit(q, visit -> new AnswerCallIn(visit, Request.needed(body.accept(), "accept")));
    }

    private Object vote(Request q) {
        VoteBody body = q.body(VoteBody.class);
        return on.visit(
                q,
                visit -> new Vote(
                        visit,
                        Request.needed(body.round(), "round"),
                        Request.needed(body.digest(), "digest"),
                        Request.needed(body.approve(), "approve"),
                        body.comment(),
                        body.condition()));
    }

    static <T> T id(String where, @Nullable String text, java.util.function.Function<String, T> type) {
        try {
            return type.apply(Request.needed(text, where));
        } catch (IllegalArgumentException e) {
            throw Problem.invalid(where, e.getMessage()).end();
        }
    }
}
