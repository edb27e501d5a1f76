package dastur.store;

import dastur.core.people.Actor;
import dastur.core.people.GroupId;
import dastur.core.people.PersonId;
import dastur.core.run.Assigned;
import dastur.core.run.Case;
import dastur.core.run.Event;
import dastur.core.run.Recorded;
import dastur.core.run.Run;
import dastur.core.run.Visit;
import dastur.core.run.VisitId;
import dastur.core.run.Waiting;
import dastur.core.ticket.TicketId;
import dastur.core.workflow.TriggerId;
import java.time.Instant;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Objects;
import java.util.Set;
import java.util.stream.Stream;
import org.hibernate.StatelessSession;
import org.jspecify.annotations.Nullable;

/** The rows of desks: what people are asked, for whom it is, and how it ended. */
final class WorkItemProjection {
    /** Endings of the ids of items that stand beside a visit's own. */
    private static final String QUESTION = "?question";

    private static final String LATE = "?late";

    private final StatelessSession session;
    private final TicketId ticket;
    private final Case after;
    private final Set<VisitId> reopened;

    /** @param reopened visits that somebody intervened in: their items can be there already */
    WorkItemProjection(StatelessSession session, TicketId ticket, Case after, Set<VisitId> reopened) {
        this.session = session;
        this.ticket = ticket;
        this.after = after;
        this.reopened = reopened;
    }

    /** Nobody is asked to start anything on a ticket that has ended. */
    void ticketEnded() {
        session.createMutationQuery(
                        "update WorkItemRow set isOpen = false, outcome = 'the ticket ended' where ticket = ?1 and kind = 'start' and isOpen = true")
                .setParameter(1, ticket.value())
                .executeUpdate();
    }

    /** Those who are asked see it on their desk; its id is the ticket's and the trigger's, since it has no visit yet. */
    void startOffered(Recorded r, Event.StartOffered e) {
        if (e.asked().nobody()) {
            return;
        }
        String id = offerId(ticket, e.trigger());
        extra(r, id, "start", "Start “" + e.name() + "”?", e.name());
        workFor(id, false, e.asked());
    }

    private static String offerId(TicketId ticket, TriggerId trigger) {
        return ticket + "/" + trigger;
    }

    void offerGone(Recorded r, TriggerId trigger, String outcome) {
        close(offerId(ticket, trigger), r, outcome);
    }

    void due(Visit visit) {
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

    void offered(Recorded r, Event.TaskOffered e) {
        item(r, "task", e.name(), e.due());
        workFor(r, e.to(), e.overseers());
    }

    void asked(Recorded r, Event.ApprovalAsked e) {
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
    void question(Recorded r) {
        extra(r, r.visit() + QUESTION, "question", "Answer a question", workflowName(r));
        workFor(
                r.visit() + QUESTION,
                false,
                new Assigned(
                        after.text("group").map(GroupId::new).stream().toList(),
                        Stream.concat(after.text("requester").stream(), after.text("assignee").stream())
                                .map(PersonId::new)
                                .toList()));
    }

    void answeredBack(Recorded r) {
        close(r.visit() + QUESTION, r, "answered");
        Run run = r.run() == null ? null : after.open().get(r.run());
        if (run != null && run.open().get(r.visit()) != null) {
            due(run.open().get(r.visit()));
        }
    }

    void lateSettled(Recorded r) {
        close(r.visit() + LATE, r, "looked at");
    }

    /** A result came after its step was over and changed the world, or may have: the owner must look (D15). */
    void late(Recorded r, Event.LateResult e) {
        if (e.owner() != null && r.visit() != null) {
            extra(r, r.visit() + LATE, "late result", "Look at what came too late", workflowName(r));
            workFor(r.visit() + LATE, false, new Assigned(List.of(), List.of(e.owner())));
        }
    }

    /** An item that is not a visit's own: it may be there already. */
    private void extra(Recorded r, String id, String kind, String name, String workflow) {
        Rows.WorkItemRow before = session.get(Rows.WorkItemRow.class, id);
        Rows.WorkItemRow row = before == null ? new Rows.WorkItemRow() : before;
        row.visit = id;
        row.ticket = ticket.value();
        row.kind = kind;
        row.name = name;
        row.workflow = workflow;
        row.openedAt = r.at();
        row.isOpen = true;
        if (before == null) {
            session.insert(row);
        } else {
            session.update(row);
            dropWorkFor(id);
        }
    }

    void item(Recorded r, String kind, String name, @Nullable Instant due) {
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

    void workFor(Recorded r, @Nullable Assigned... all) {
        // A person may be asked by two rungs.
        workFor(text(r.visit()), r.event() instanceof Event.RungFired, all);
    }

    void workFor(String item, boolean mayStand, @Nullable Assigned... all) {
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
    void answered(Recorded r, Event.CallInAnswered e) {
        if (e.accepted()) {
            closed(r, "accepted");
        } else {
            dropWorkFor(r, e.by());
        }
    }

    /** The item is open as it was before its outcome. */
    void takenBack(Recorded r) {
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

    void dropWorkFor(Recorded r, PersonId person) {
        session.createMutationQuery("delete WorkForRow where key.visit = ?1 and key.who = ?2")
                .setParameter(1, text(r.visit()))
                .setParameter(2, "p:" + person)
                .executeUpdate();
    }

    void dropWorkFor(Recorded r) {
        dropWorkFor(text(r.visit()));
    }

    void dropWorkFor(String item) {
        Straight.execute(session, "delete from work_for where visit = ?", item);
    }

    void claimed(Recorded r, @Nullable PersonId by) {
        session.createMutationQuery("update WorkItemRow set claimedBy = ?1 where visit = ?2")
                .setParameter(1, by == null ? null : by.value())
                .setParameter(2, text(r.visit()))
                .executeUpdate();
    }

    void voted(Recorded r, Event.VoteCast e) {
        dropWorkFor(r, e.by());
    }

    void rung(Recorded r, Event.RungFired e) {
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
    void closed(Recorded r, @Nullable String outcome) {
        String item = text(r.visit());
        close(item, r, outcome);
        if (!(r.event() instanceof Event.TaskDone)) {
            close(item + QUESTION, r, outcome);
        }
    }

    void close(String item, Recorded r, @Nullable String outcome) {
        int items = Straight.execute(
                session,
                "update work_item set is_open = false, closed_at = ?, closed_by = ?, outcome = ? where visit = ? and is_open = true",
                r.at(),
                by(r.actor()),
                outcome,
                item);
        if (items > 0) {
            dropWorkFor(item);
        }
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

    void cameLate(Recorded r, PersonId by) {
        session.createMutationQuery(
                        "update WorkItemRow set cameLate = concat(coalesce(cameLate, ''), ',', ?1) where visit = ?2")
                .setParameter(1, by.value())
                .setParameter(2, text(r.visit()))
                .executeUpdate();
    }

    private static String text(@Nullable Object id) {
        return id == null ? "" : id.toString();
    }
}
