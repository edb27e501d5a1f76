package dastur.store;

import dastur.core.run.Assigned;
import dastur.core.run.Case;
import dastur.core.run.Event;
import dastur.core.run.Intervention;
import dastur.core.run.Recorded;
import dastur.core.run.Run;
import dastur.core.run.Target;
import dastur.core.run.VisitId;
import dastur.core.ticket.TicketId;
import dastur.core.ticket.TicketKind;
import java.util.HashSet;
import java.util.List;
import java.util.Map;
import java.util.Objects;
import java.util.Optional;
import java.util.Set;
import org.hibernate.StatelessSession;
import org.jspecify.annotations.Nullable;

/**
 * Writes what lists and workers read: a pure function of events (D3), in the transaction that appends them. Nothing here
 * decides anything; it could be rebuilt from the record.
 */
final class Projection {
    private final StatelessSession session;
    private final TicketId ticket;
    private final Case after;
    private final Set<VisitId> reopened = new HashSet<>();
    private final WorkItemProjection items;
    private final OutboxProjection outbox;
    private final CiProjection cis;
    private final FilesProjection files;

    /** @param after the case as it is after the events that will be projected */
    Projection(StatelessSession session, TicketId ticket, Case after) {
        this.session = session;
        this.ticket = ticket;
        this.after = after;
        this.items = new WorkItemProjection(session, ticket, after, reopened);
        this.outbox = new OutboxProjection(session, ticket);
        this.cis = new CiProjection(session, ticket);
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

    void project(List<Recorded> events) {
        for (Recorded r : events) {
            if (r.event() instanceof Event.Intervened && r.visit() != null) {
                reopened.add(r.visit());
            }
            project(r);
        }
        stalls(events);
        boolean ends = TicketKind.ended(after.state())
                && events.stream()
                        .anyMatch(r -> r.event() instanceof Event.TicketChanged || r.event() instanceof Event.Updated);
        if (ends) {
            items.ticketEnded();
        }
    }

    private void project(Recorded r) {
        Words.index(session, ticket.value(), r);
        switch (r.event()) {
            case Event.RunStarted e -> runStarted(r, e);
            case Event.RunEnded e -> runEnded(r, e);
            case Event.TaskOffered e -> items.offered(r, e);
            case Event.TaskClaimed e -> items.claimed(r, e.by());
            case Event.TaskHandedBack e -> items.claimed(r, null);
            case Event.ApprovalAsked e -> items.asked(r, e);
            case Event.VoteCast e -> items.voted(r, e);
            case Event.ApprovalTurn e -> {
                items.dropWorkFor(r);
                items.workFor(r, new Assigned(List.of(), e.people()));
            }
            case Event.AskedBack e -> items.question(r);
            case Event.AnsweredBack e -> items.answeredBack(r);
            case Event.HelpAsked e -> items.workFor(text(r.visit()), true, e.to());
            case Event.VoteWithdrawn e ->
                items.workFor(text(r.visit()), true, new Assigned(List.of(), List.of(e.by())));
            case Event.RungFired e -> items.rung(r, e);
            case Event.CallRequested e ->
                outbox.outgoingCall(r, e.attempt(), e.action(), e.repeat(), e.key(), e.call());
            case Event.CallRepeated e -> outbox.outgoingCall(r, e.attempt(), e.action(), e.repeat(), e.key(), e.call());
            case Event.CallUnsure e -> outbox.dropCall(r, e.attempt());
            case Event.ResultKept e -> outbox.dropCall(r, e.attempt());
            case Event.AttemptFailed e -> outbox.dropCall(r, e.attempt());
            case Event.CallDone e -> outbox.dropCall(r, e.attempt());
            case Event.CallFailed e -> outbox.dropCall(r, e.attempts());
            case Event.TaskPassedOn e -> {
                items.dropWorkFor(r);
                items.claimed(r, null);
                items.workFor(r, e.to());
            }
            case Event.TaskTakenBack e -> items.takenBack(r);
            case Event.TargetsSet e -> {}
            case Event.TargetMissed e -> {}
            case Event.TaskDone e -> items.closed(r, e.exit());
            case Event.TaskLeftOut e -> items.closed(r, e.exit());
            case Event.ReviewAsked e -> {
                items.item(r, "review", e.name(), null);
                items.workFor(r, e.to());
            }
            case Event.Reviewed e -> items.closed(r, e.verdict());
            case Event.CallInBegan e -> items.item(r, "call-in", e.name(), e.until());
            case Event.CallInAnswered e -> items.answered(r, e);
            case Event.WaitBegan e -> waitsForSignal(r, e);
            case Event.SignalCame e -> signalCame(r, e);
            case Event.Measured e -> outbox.dropCall(r, e.attempt());
            case Event.ApprovalClosed e -> items.closed(r, e.exit());
            case Event.Branched e -> {}
            case Event.Left e -> closedAny(r, e.exit());
            case Event.RoomTold e -> outbox.room(r, e);
            case Event.RoomOpened e -> {}
            case Event.RoomTalked e -> {}
            case Event.RoomFailed e -> {}
            case Event.MessageQueued e -> outbox.messages(r, e);
            case Event.Updated e -> cis.updated(r, e);
            case Event.Withdrawn e -> closedAny(r, "withdrawn");
            case Event.CameTooLate e -> items.cameLate(r, e.by());
            case Event.Redacted e -> redact(e.seq());
            case Event.TicketRaised e -> {}
            case Event.TicketChanged e -> {}
            case Event.NoteAdded e -> {}
            case Event.FileAttached e -> files.attached(r, e);
            case Event.TriggersLookedAt e -> {}
            case Event.StartOffered e -> items.startOffered(r, e);
            case Event.StartAnswered e -> items.offerGone(r, e.trigger(), e.starts() ? "started" : "not started");
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
            case Event.WorkflowSent e -> outbox.errand(r, new Errand.Send(Objects.requireNonNull(r.visit()), e));
            case Event.SentRunBegan e -> {}
            case Event.SentRunEnded e -> {}
            case Event.SentRunRecalled e -> outbox.errand(r, new Errand.Recall(e.run(), e.why()));
            case Event.TicketLinked e -> outbox.linked(r, e.other(), e.as(), e.mirrors(), true);
            case Event.TicketUnlinked e -> outbox.linked(r, e.other(), e.as(), e.mirrors(), false);
            case Event.ReplyCame e -> {}
            case Event.CalledEnded e -> {}
            case Event.CheckJudged e -> {}
            case Event.Checked e -> {}
            case Event.LateResult e -> items.late(r, e);
            case Event.LateSettled e -> items.lateSettled(r);
            case Event.MessageDelivered e -> outbox.dropMessage(e.message(), e.person());
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
            run.open().values().forEach(items::due);
        }
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
            outbox.errand(
                    r,
                    new Errand.Answer(e.answers(), Objects.requireNonNull(r.run()), e.result(), e.stopped(), results));
        }
    }

    /** A run is stalled while one of its visits is. */
    private void stalls(List<Recorded> events) {
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

    /** Closes a visit of which it is not known whether people or a machine had it. */
    private void closedAny(Recorded r, @Nullable String outcome) {
        items.closed(r, outcome);
        outbox.dropCalls(r);
        dropSignalWait(r);
    }

    private static String text(@Nullable Object id) {
        return id == null ? "" : id.toString();
    }
}
