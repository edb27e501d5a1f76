package dastur.store;

import dastur.core.json.Json;
import dastur.core.people.Actor;
import dastur.core.people.GroupId;
import dastur.core.people.PersonId;
import dastur.core.run.Assigned;
import dastur.core.run.Case;
import dastur.core.run.Event;
import dastur.core.run.Intervention;
import dastur.core.run.Recorded;
import dastur.core.run.Run;
import dastur.core.run.Target;
import dastur.core.run.Visit;
import dastur.core.run.VisitId;
import dastur.core.run.Waiting;
import dastur.core.ticket.LinkKind;
import dastur.core.ticket.TicketId;
import dastur.core.ticket.TicketKind;
import dastur.core.workflow.Action;
import dastur.core.workflow.ActionKey;
import dastur.core.workflow.TriggerId;
import java.sql.PreparedStatement;
import java.time.Instant;
import java.util.HashSet;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Map;
import java.util.Objects;
import java.util.Optional;
import java.util.Set;
import java.util.TreeMap;
import java.util.stream.Stream;
import org.hibernate.StatelessSession;
import org.jspecify.annotations.Nullable;

/**
 * Writes what lists and workers read: a pure function of events (D3), in the transaction that appends them. Nothing here
 * decides anything; it could be rebuilt from the record.
 */
final class Projection {
    private final StatelessSession session;
    private final TicketId ticket;
    private final Set<VisitId> reopened = new HashSet<>();
    private final FilesProjection files;
    private Case after;

    Projection(StatelessSession session, TicketId ticket) {
        this.session = session;
        this.ticket = ticket;
        this.after = Case.none(ticket);
        this.files = new FilesProjection(session, ticket);
    }

    static void ofTicket(Rows.TicketRow row, Case after) {
        TicketKind kind = after.kind();
        row.kind = kind == null ? "" : kind.word();
        row.title = after.text("title").orElse("(redacted)");
        row.state = after.state();
        row.ended = TicketKind.ended(after.state());
        row.priority = after.text("priority").orElse("P4");
        row.requester = after.text("requester").orElse(null);
        row.service = after.text("service").orElse(null);
        row.ci = after.text("ci").orElse(null);
        row.team = after.text("group").orElse(null);
        row.assignee = after.text("assignee").orElse(null);
        row.createdAt = after.createdAt();
        Optional<Map.Entry<Target.Kind, Target>> next = after.targets().entrySet().stream()
                .filter(t -> t.getValue().metAt() == null)
                .findFirst();
        row.target = next.map(t -> t.getKey().word()).orElse(null);
        row.targetDue = next.map(t -> t.getValue().due()).orElse(null);
        row.targetMissed = next.filter(t -> t.getValue().missed()).isPresent();
        row.updatedAt = after.lastAt();
        row.seq = after.seq();
    }

    void project(List<Recorded> events, Case after) {
        this.after = after;
        for (Recorded r : events) {
            if (r.event() instanceof Event.Intervened && r.visit() != null) {
                reopened.add(r.visit());
            }
            project(r);
        }
        stalls(events, after);
        boolean ends = TicketKind.ended(after.state())
                && events.stream()
                        .anyMatch(r -> r.event() instanceof Event.TicketChanged || r.event() instanceof Event.Updated);
        if (ends) {
            session.createMutationQuery(
                            "update WorkItemRow set isOpen = false, outcome = 'the ticket ended' where ticket = ?1 and kind = 'start' and isOpen = true")
                    .setParameter(1, ticket.value())
                    .executeUpdate();
        }
    }

    // --- proposals to start

    /** Those who are asked see it on their desk; its id is the ticket's and the trigger's, since it has no visit yet. */
    private void startOffered(Recorded r, Event.StartOffered e) {
        if (e.asked().nobody()) {
            return;
        }
        String id = offerId(ticket, e.trigger());
        Rows.WorkItemRow before = session.get(Rows.WorkItemRow.class, id);
        Rows.WorkItemRow row = before == null ? new Rows.WorkItemRow() : before;
        row.visit = id;
        row.ticket = ticket.value();
        row.kind = "start";
        row.name = "Start “" + e.name() + "”?";
        row.workflow = e.name();
        row.openedAt = r.at();
        row.isOpen = true;
        if (before == null) {
            session.insert(row);
        } else {
            session.update(row);
            dropWorkFor(id);
        }
        workFor(id, false, e.asked());
    }

    /** Endings of the ids of items that stand beside a visit's own. */
    private static final String QUESTION = "?question";

    private static final String LATE = "?late";

    private static String offerId(TicketId ticket, TriggerId trigger) {
        return ticket + "/" + trigger;
    }

    private void offerGone(Recorded r, TriggerId trigger, String outcome) {
        close(offerId(ticket, trigger), r, outcome);
    }

    private void project(Recorded r) {
        Words.index(session, ticket.value(), r);
        switch (r.event()) {
            case Event.RunStarted e -> runStarted(r, e);
            case Event.RunEnded e -> runEnded(r, e);
            case Event.TaskOffered e -> offered(r, e);
            case Event.TaskClaimed e -> claimed(r, e.by());
            case Event.TaskHandedBack e -> claimed(r, null);
            case Event.ApprovalAsked e -> asked(r, e);
            case Event.VoteCast e -> voted(r, e);
            case Event.ApprovalTurn e -> {
                dropWorkFor(r);
                workFor(r, new Assigned(List.of(), e.people()));
            }
            case Event.AskedBack e -> question(r);
            case Event.AnsweredBack e -> {
                close(r.visit() + QUESTION, r, "answered");
                Run run = r.run() == null ? null : after.open().get(r.run());
                if (run != null && run.open().get(r.visit()) != null) {
                    due(run.open().get(r.visit()));
                }
            }
            case Event.HelpAsked e -> workFor(text(r.visit()), true, e.to());
            case Event.VoteWithdrawn e -> workFor(text(r.visit()), true, new Assigned(List.of(), List.of(e.by())));
            case Event.RungFired e -> rung(r, e);
            case Event.CallRequested e -> outgoingCall(r, e.attempt(), e.action(), e.repeat(), e.key(), e.call());
            case Event.CallRepeated e -> outgoingCall(r, e.attempt(), e.action(), e.repeat(), e.key(), e.call());
            case Event.CallUnsure e -> dropCall(r, e.attempt());
            case Event.AttemptFailed e -> dropCall(r, e.attempt());
            case Event.CallDone e -> dropCall(r, e.attempt());
            case Event.CallFailed e -> dropCall(r, e.attempts());
            case Event.TaskPassedOn e -> {
                dropWorkFor(r);
                claimed(r, null);
                workFor(r, e.to());
            }
            case Event.TaskTakenBack e -> takenBack(r);
            case Event.TargetsSet e -> {}
            case Event.TargetMissed e -> {}
            case Event.TaskDone e -> closed(r, e.exit());
            case Event.TaskLeftOut e -> closed(r, e.exit());
            case Event.ReviewAsked e -> {
                item(r, "review", e.name(), null);
                workFor(r, e.to());
            }
            case Event.Reviewed e -> closed(r, e.verdict());
            case Event.CallInBegan e -> item(r, "call-in", e.name(), e.until());
            case Event.CallInAnswered e -> answered(r, e);
            case Event.WaitBegan e -> waitsForSignal(r, e);
            case Event.SignalCame e -> signalCame(r, e);
            case Event.Measured e -> dropCall(r, e.attempt());
            case Event.ApprovalClosed e -> closed(r, e.exit());
            case Event.Branched e -> {}
            case Event.Left e -> closedAny(r, e.exit());
            case Event.RoomTold e -> room(r, e);
            case Event.RoomOpened e -> {}
            case Event.RoomTalked e -> {}
            case Event.RoomFailed e -> {}
            case Event.MessageQueued e -> messages(r, e);
            case Event.Updated e -> updated(r, e);
            case Event.Withdrawn e -> closedAny(r, "withdrawn");
            case Event.CameTooLate e -> cameLate(r, e.by());
            case Event.Redacted e -> redact(e.seq());
            case Event.TicketRaised e -> {}
            case Event.TicketChanged e -> {}
            case Event.NoteAdded e -> {}
            case Event.FileAttached e -> files.attached(r, e);
            case Event.TriggersLookedAt e -> {}
            case Event.StartOffered e -> startOffered(r, e);
            case Event.StartAnswered e -> offerGone(r, e.trigger(), e.starts() ? "started" : "not started");
            case Event.ApprovalVoided e -> {}
            case Event.Ended e -> {}
            case Event.ConditionMet e -> {}
            case Event.BracketOpened e -> {}
            case Event.LineBegan e -> {}
            case Event.LineEnded e -> {}
            case Event.RoundJudged e -> {}
            case Event.BracketLeft e -> {}
            case Event.PutBackBegan e -> {}
            case Event.PutBackEnded e -> {}
            case Event.WorkflowCalled e -> {}
            case Event.WorkflowSent e -> errand(r, new Errand.Send(Objects.requireNonNull(r.visit()), e));
            case Event.SentRunBegan e -> {}
            case Event.SentRunEnded e -> {}
            case Event.SentRunRecalled e -> errand(r, new Errand.Recall(e.run(), e.why()));
            case Event.TicketLinked e -> linked(r, e.other(), e.as(), e.mirrors(), true);
            case Event.TicketUnlinked e -> linked(r, e.other(), e.as(), e.mirrors(), false);
            case Event.ReplyCame e -> {}
            case Event.CalledEnded e -> {}
            case Event.CheckJudged e -> {}
            case Event.Checked e -> {}
            case Event.LateResult e -> late(r, e);
            case Event.LateSettled e -> close(r.visit() + LATE, r, "looked at");
            case Event.MessageDelivered e -> dropMessage(e.message(), e.person());
            case Event.MessageFailed e -> Undelivered.keep(session, r, e);
            case Event.MessageResent e -> Undelivered.sendAgain(session, r, e);
            case Event.Stalled e -> {}
            case Event.Intervened e -> intervened(r, e);
        }
    }

    /** A moved run stands in lists with its new version; after a hold, what is due is due later. */
    private void intervened(Recorded r, Event.Intervened e) {
        if (e.version() != null) {
            session.createMutationQuery("update RunRow set version = ?1 where id = ?2")
                    .setParameter(1, e.version())
                    .setParameter(2, text(r.run()))
                    .executeUpdate();
        }
        Run run = r.run() == null ? null : after.open().get(r.run());
        if (e.kind() == Intervention.RESUME && run != null) {
            run.open().values().forEach(this::due);
        }
    }

    private void due(Visit visit) {
        Instant due =
                switch (visit.waiting()) {
                    case Waiting.Task t -> t.due();
                    case Waiting.Votes v -> v.due();
                    case Waiting.CallIn in -> in.until();
                    default -> null;
                };
        session.createMutationQuery("update WorkItemRow set due = ?1 where visit = ?2 and isOpen = true")
                .setParameter(1, due)
                .setParameter(2, visit.id().value())
                .executeUpdate();
    }

    // --- runs

    private void runStarted(Recorded r, Event.RunStarted e) {
        Rows.RunRow row = new Rows.RunRow();
        row.id = text(r.run());
        row.ticket = ticket.value();
        row.workflow = e.workflow().value();
        row.version = e.version();
        row.name = e.name();
        row.owner = e.owner().value();
        row.parent = e.parent() == null ? null : e.parent().value();
        row.triggerId = e.trigger() == null ? null : e.trigger().value();
        row.status = "under way";
        row.startedAt = r.at();
        session.insert(row);
    }

    private void runEnded(Recorded r, Event.RunEnded e) {
        session.createMutationQuery(
                        "update RunRow set status = ?1, endedAt = ?2, result = ?3, stalledSince = null where id = ?4")
                .setParameter(1, e.stopped() ? "stopped" : "finished")
                .setParameter(2, r.at())
                .setParameter(3, e.result())
                .setParameter(4, text(r.run()))
                .executeUpdate();
        if (e.answers() != null) {
            Map<String, Object> results = e.results() == null ? Map.of() : e.results();
            errand(
                    r,
                    new Errand.Answer(e.answers(), Objects.requireNonNull(r.run()), e.result(), e.stopped(), results));
        }
    }

    // --- other tickets

    private void linked(Recorded r, TicketId other, LinkKind as, boolean mirrors, boolean made) {
        if (!mirrors) {
            errand(r, new Errand.Link(other, as, r.actor(), made));
        }
    }

    private void errand(Recorded r, Errand errand) {
        // A withdrawn step takes what it sent back as long as nobody has taken it.
        String of = errand instanceof Errand.Send ? text(r.visit()) : ticket.value();
        Rows.OutboxRow row = outgoing(r, of + ".errand-" + r.seq(), "errand", "errand", "errand:" + ticket);
        row.payload = Json.write(errand);
        session.insert(row);
    }

    /** A run is stalled while one of its visits is. */
    private void stalls(List<Recorded> events, Case after) {
        boolean touched = events.stream()
                .anyMatch(r -> r.event() instanceof Event.Stalled
                        || r.event() instanceof Event.CallUnsure
                        || r.event() instanceof Event.Intervened);
        if (!touched) {
            return;
        }
        for (Run run : after.open().values()) {
            session.createMutationQuery(
                            "update RunRow set status = ?1, stalledSince = ?2 where id = ?3 and status <> ?1")
                    .setParameter(1, run.held() ? "held" : run.stalled() ? "stalled" : "under way")
                    .setParameter(2, run.stalled() ? after.lastAt() : null)
                    .setParameter(3, run.id().value())
                    .executeUpdate();
        }
    }

    private void redact(long seq) {
        files.redacted(seq);
        Words.forget(session, ticket.value(), seq);
        session.createMutationQuery(
                        "update EntryRow set content = null, salt = null where key.ticket = ?1 and key.seq = ?2")
                .setParameter(1, ticket.value())
                .setParameter(2, seq)
                .executeUpdate();
    }

    // --- work items

    private void offered(Recorded r, Event.TaskOffered e) {
        item(r, "task", e.name(), e.due());
        workFor(r, e.to(), e.overseers());
    }

    private void asked(Recorded r, Event.ApprovalAsked e) {
        if (e.round() == 1) {
            item(r, "approval", e.name(), e.due());
        } else {
            session.createMutationQuery("update WorkItemRow set due = ?1 where visit = ?2")
                    .setParameter(1, e.due())
                    .setParameter(2, text(r.visit()))
                    .executeUpdate();
            dropWorkFor(r);
            close(r.visit() + QUESTION, r, "void");
        }
        boolean inOrder = e.terms() != null && e.terms().inOrder() && e.sets() != null;
        workFor(r, new Assigned(List.of(), inOrder ? e.sets().getFirst() : e.electorate()));
    }

    /** What an approver asks is for the requester and for those who have the ticket to answer. */
    private void question(Recorded r) {
        extra(r, r.visit() + QUESTION, "question", "Answer a question");
        workFor(
                r.visit() + QUESTION,
                false,
                new Assigned(
                        after.text("group").map(GroupId::new).stream().toList(),
                        Stream.concat(after.text("requester").stream(), after.text("assignee").stream())
                                .map(PersonId::new)
                                .toList()));
    }

    /** A result came after its step was over and changed the world, or may have: the owner must look (D15). */
    private void late(Recorded r, Event.LateResult e) {
        if (e.owner() != null && r.visit() != null) {
            extra(r, r.visit() + LATE, "late result", "Look at what came too late");
            workFor(r.visit() + LATE, false, new Assigned(List.of(), List.of(e.owner())));
        }
    }

    /** An item beside the visit's own. */
    private void extra(Recorded r, String id, String kind, String name) {
        Rows.WorkItemRow before = session.get(Rows.WorkItemRow.class, id);
        Rows.WorkItemRow row = before == null ? new Rows.WorkItemRow() : before;
        row.visit = id;
        row.ticket = ticket.value();
        row.kind = kind;
        row.name = name;
        row.workflow = workflowName(r);
        row.openedAt = r.at();
        row.isOpen = true;
        if (before == null) {
            session.insert(row);
        } else {
            session.update(row);
            dropWorkFor(id);
        }
    }

    private void item(Recorded r, String kind, String name, @Nullable Instant due) {
        String visit = text(r.visit());
        // Only a visit that somebody intervened in can be there already.
        boolean again = r.visit() != null && reopened.contains(r.visit());
        Rows.WorkItemRow before = again ? session.get(Rows.WorkItemRow.class, visit) : null;
        boolean isNew = before == null;
        Rows.WorkItemRow row = isNew ? new Rows.WorkItemRow() : before;
        row.visit = visit;
        row.ticket = ticket.value();
        row.kind = kind;
        row.name = name;
        row.workflow = workflowName(r);
        row.due = due;
        row.openedAt = r.at();
        row.isOpen = true;
        if (isNew) {
            session.insert(row);
        } else {
            session.update(row);
            dropWorkFor(r);
        }
    }

    private String workflowName(Recorded r) {
        Run run = r.run() == null ? null : after.open().get(r.run());
        return run != null
                ? run.name()
                : session.createSelectionQuery("select name from RunRow where id = ?1", String.class)
                        .setParameter(1, text(r.run()))
                        .getSingleResult();
    }

    private void workFor(Recorded r, @Nullable Assigned... all) {
        // A person may be asked by two rungs.
        workFor(text(r.visit()), r.event() instanceof Event.RungFired, all);
    }

    private void workFor(String item, boolean mayStand, @Nullable Assigned... all) {
        Set<String> who = new LinkedHashSet<>();
        for (Assigned assigned : all) {
            if (assigned != null) {
                assigned.groups().forEach(g -> who.add("g:" + g));
                assigned.people().forEach(p -> who.add("p:" + p));
            }
        }
        for (String one : who) {
            Rows.WorkForRow row = new Rows.WorkForRow();
            row.key = new Rows.WorkForKey(item, one);
            if (!mayStand || session.get(Rows.WorkForRow.class, row.key) == null) {
                session.insert(row);
            }
        }
    }

    /** Who cannot come is no longer asked; who comes ends it for all. */
    private void answered(Recorded r, Event.CallInAnswered e) {
        if (e.accepted()) {
            closed(r, "accepted");
        } else {
            dropWorkFor(r, e.by());
        }
    }

    /** The item is open as it was before its outcome. */
    private void takenBack(Recorded r) {
        Run run = after.open().get(Objects.requireNonNull(r.run()));
        Rows.WorkItemRow row = session.get(Rows.WorkItemRow.class, text(r.visit()));
        row.isOpen = true;
        row.closedAt = null;
        row.closedBy = null;
        row.outcome = null;
        session.update(row);
        if (run.open().get(r.visit()).waiting() instanceof Waiting.Task t) {
            workFor(text(r.visit()), true, t.to(), t.overseers());
        }
    }

    private void dropWorkFor(Recorded r, PersonId person) {
        session.createMutationQuery("delete WorkForRow where key.visit = ?1 and key.who = ?2")
                .setParameter(1, text(r.visit()))
                .setParameter(2, "p:" + person)
                .executeUpdate();
    }

    private void dropWorkFor(Recorded r) {
        dropWorkFor(text(r.visit()));
    }

    private void dropWorkFor(String item) {
        straight("delete from work_for where visit = ?", item);
    }

    private void claimed(Recorded r, @Nullable PersonId by) {
        session.createMutationQuery("update WorkItemRow set claimedBy = ?1 where visit = ?2")
                .setParameter(1, by == null ? null : by.value())
                .setParameter(2, text(r.visit()))
                .executeUpdate();
    }

    private void voted(Recorded r, Event.VoteCast e) {
        dropWorkFor(r, e.by());
    }

    private void rung(Recorded r, Event.RungFired e) {
        if (e.handedTo() != null) {
            dropWorkFor(r);
            claimed(r, null);
            workFor(r, e.handedTo());
        }
        if (!e.joined().isEmpty()) {
            workFor(r, new Assigned(List.of(), e.joined()));
        }
    }

    /** Closes the work item of a visit of people, with what its decision has asked; other visits have none. */
    private void closed(Recorded r, @Nullable String outcome) {
        String item = text(r.visit());
        close(item, r, outcome);
        if (!(r.event() instanceof Event.TaskDone)) {
            close(item + QUESTION, r, outcome);
        }
    }

    private void close(String item, Recorded r, @Nullable String outcome) {
        int items = straight(
                "update work_item set is_open = false, closed_at = ?, closed_by = ?, outcome = ? where visit = ? and is_open = true",
                r.at(),
                by(r.actor()),
                outcome,
                item);
        if (items > 0) {
            dropWorkFor(item);
        }
    }

    /**
     * Runs one of the few statements that nearly every step needs without Hibernate between: they write rows by their key,
     * and no row of theirs is held as an object in this session.
     */
    private int straight(String sql, @Nullable Object... values) {
        return session.doReturningWork(connection -> {
            try (PreparedStatement statement = connection.prepareStatement(sql)) {
                for (int i = 0; i < values.length; i++) {
                    statement.setObject(i + 1, values[i]);
                }
                return statement.executeUpdate();
            }
        });
    }

    /** Closes a visit of which it is not known whether people or a machine had it. */
    private void closedAny(Recorded r, @Nullable String outcome) {
        closed(r, outcome);
        dropCalls(r);
        dropSignalWait(r);
    }

    // --- signals

    private void waitsForSignal(Recorded r, Event.WaitBegan e) {
        if (e.signal() != null) {
            Rows.SignalWaitRow row = new Rows.SignalWaitRow();
            row.visit = text(r.visit());
            row.ticket = ticket.value();
            row.signal = e.signal();
            row.signalKey = e.key();
            row.since = r.at();
            session.insert(row);
        }
    }

    private void signalCame(Recorded r, Event.SignalCame e) {
        dropSignalWait(r);
        session.createMutationQuery("delete SignalKeptRow where id = ?1")
                .setParameter(1, e.signalId() == null ? "" : e.signalId())
                .executeUpdate();
    }

    private void dropSignalWait(Recorded r) {
        session.createMutationQuery("delete SignalWaitRow where visit = ?1")
                .setParameter(1, text(r.visit()))
                .executeUpdate();
    }

    private static String by(Actor actor) {
        return switch (actor) {
            case Actor.OfPerson p -> "p:" + p.person();
            case Actor.OfAction a -> "the action " + a.action();
            case Actor.System s -> "the system";
            case Actor.Clock c -> "the clock";
            case Actor.Outside o -> o.party();
        };
    }

    private void cameLate(Recorded r, PersonId by) {
        session.createMutationQuery(
                        "update WorkItemRow set cameLate = concat(coalesce(cameLate, ''), ',', ?1) where visit = ?2")
                .setParameter(1, by.value())
                .setParameter(2, text(r.visit()))
                .executeUpdate();
    }

    // --- outbox

    private void outgoingCall(
            Recorded r, int attempt, ActionKey action, Action.Repeat repeat, String key, Event.@Nullable Call call) {
        if (call != null) {
            Rows.OutboxRow row = outgoing(r, r.visit() + "." + attempt, "call", "call", text(r.visit()));
            row.payload = Json.write(new Outbox.CallPayload(action.value(), attempt, key, repeat, call));
            session.insert(row);
        }
    }

    /** Taken ones too: a worker that is out brings its result back, and nobody shall take the row after it. */
    private void dropCalls(Recorded r) {
        session.createMutationQuery("delete OutboxRow where id like ?1")
                .setParameter(1, text(r.visit()) + ".%")
                .executeUpdate();
    }

    private void dropCall(Recorded r, int attempt) {
        straight("delete from outbox where id = ?", text(r.visit()) + "." + attempt);
    }

    private void dropMessage(String message, PersonId person) {
        straight("delete from outbox where id = ?", message + "." + person);
    }

    private void messages(Recorded r, Event.MessageQueued e) {
        for (PersonId person : e.people()) {
            Rows.OutboxRow row = outgoing(r, e.message() + "." + person, "mail", e.purpose(), "mail:" + person);
            row.payload = Json.write(new Outbox.MailPayload(
                    e.message(), person, e.subject() == null ? "" : e.subject(), e.text() == null ? "" : e.text()));
            session.insert(row);
        }
    }

    /** Not under the visit's own id: what is said stays to be said when the run goes on. */
    private void room(Recorded r, Event.RoomTold e) {
        Rows.OutboxRow row = outgoing(r, "room." + e.message(), "room", "room", "room:" + ticket);
        row.payload = Json.write(new Outbox.RoomPayload(
                e.message(),
                e.name() == null ? ticket.value() : e.name(),
                e.keepsAll(),
                e.invited(),
                e.text() == null ? "" : e.text()));
        session.insert(row);
    }

    private Rows.OutboxRow outgoing(Recorded r, String id, String kind, String purpose, String queue) {
        Rows.OutboxRow row = new Rows.OutboxRow();
        row.id = id;
        row.ticket = ticket.value();
        row.visit = r.visit() == null ? null : r.visit().value();
        row.kind = kind;
        row.purpose = purpose;
        row.queue = queue;
        row.createdAt = r.at();
        row.due = r.at();
        return row;
    }

    // --- CIs

    private void updated(Recorded r, Event.Updated e) {
        if (e.ci() != null && e.ciChanges() != null) {
            Rows.CiRow ci = session.get(Rows.CiRow.class, e.ci().value(), org.hibernate.LockMode.PESSIMISTIC_WRITE);
            e.ciChanges().forEach((name, change) -> changeCi(ci, r, name, change));
            session.update(ci);
        }
    }

    private void changeCi(Rows.CiRow ci, Recorded r, String name, Event.Change change) {
        String after = change.after() == null ? null : String.valueOf(change.after());
        switch (name) {
            case "name" -> ci.name = after == null ? ci.name : after;
            case "life" -> ci.life = after == null ? ci.life : after;
            case "site" -> ci.site = after;
            case "address" -> ci.address = after;
            case "owner" -> ci.owner = after;
            default -> {
                Map<String, Object> attributes = new TreeMap<>(Json.readMap(ci.attributes));
                if (change.after() == null) {
                    attributes.remove(name);
                } else {
                    attributes.put(name, change.after());
                }
                ci.attributes = Json.write(attributes);
            }
        }
        Rows.CiChangeRow row = new Rows.CiChangeRow();
        row.key = new Rows.CiChangeKey(ticket.value(), r.seq(), name);
        row.ci = ci.id;
        row.at = r.at();
        row.beforeValue = change.before() == null ? null : String.valueOf(change.before());
        row.afterValue = after;
        session.insert(row);
    }

    private static String text(@Nullable Object id) {
        return id == null ? "" : id.toString();
    }
}
