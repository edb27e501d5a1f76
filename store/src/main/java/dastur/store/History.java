package dastur.store;

import dastur.core.json.Json;
import dastur.core.json.Texts;
import dastur.core.people.PersonId;
import dastur.core.run.Case;
import dastur.core.run.Event;
import dastur.core.run.Recorded;
import dastur.core.run.Visit;
import dastur.core.run.Waiting;
import dastur.core.step.calling.CallUnderWay;
import dastur.core.step.calling.CallingEvents.AttemptFailed;
import dastur.core.step.calling.CallingEvents.CallDone;
import dastur.core.step.calling.CallingEvents.CallFailed;
import dastur.core.step.calling.CallingEvents.CallUnsure;
import dastur.core.step.calling.CallingEvents.ResultKept;
import dastur.core.step.check.CheckEvents.Measured;
import dastur.core.ticket.TicketId;
import java.time.Duration;
import java.util.ArrayList;
import java.util.List;
import java.util.Objects;
import org.jspecify.annotations.Nullable;

/**
 * What an entry itself gives, whatever the case: messages and errands to send, changes of CIs, uses of files, how calls went. How a delivery
 * stands after that is its own matter; what is open is said by {@link StandingRows}.
 */
final class History {
    private final TicketId ticket;
    private final List<Write> writes = new ArrayList<>();

    History(TicketId ticket) {
        this.ticket = ticket;
    }

    List<Write> writes() {
        return writes;
    }

    /** @param before the case before the entry */
    void see(Case before, Recorded r) {
        if (r.event() instanceof Event.Sending e) {
            sends(r, e);
        }
        if (r.event() instanceof Event.MessageQueued e && e.about() != null) {
            writes.add(Write.of(Sql.KEEPER_TOLD, ticket + " " + r.seq(), ticket.value(), r.seq(), e.about(), r.at()));
        }
        if (r.event() instanceof Event.OfDelivery e) {
            delivery(r, e);
        }
        // Without its name it was redacted, and its bytes are gone.
        if (r.event() instanceof Event.FileAttached e && e.name() != null) {
            writes.add(Write.of(Sql.FILE, ticket + " " + r.seq(), ticket.value(), r.seq(), e.hash()));
        }
        if (r.event() instanceof Event.CameTooLate e && r.visit() != null) {
            String item = r.visit().value();
            writes.add(Write.of(Sql.ITEM_CAME_LATE, item, e.by().value(), item));
        }
        if (r.event() instanceof Event.Withdrawn || r.event() instanceof Event.Left) {
            takenBack(before, r);
        }
        if (r.visit() != null && went(r.event()) instanceof CallsMade.Went how) {
            before.visit(r.visit()).ifPresent(v -> made(v, r, how));
        }
    }

    /** How a call went that an entry ends; null for other entries. */
    private static CallsMade.@Nullable Went went(Event event) {
        return switch (event) {
            case CallDone e -> CallsMade.Went.OK;
            case ResultKept e -> CallsMade.Went.OK;
            case Measured e -> CallsMade.Went.OK;
            case AttemptFailed e -> e.unknown() ? CallsMade.Went.UNSURE : CallsMade.Went.FAILED;
            case CallFailed e -> CallsMade.Went.FAILED;
            case CallUnsure e -> CallsMade.Went.UNSURE;
            case Event e -> null;
        };
    }

    private void made(Visit visit, Recorded r, CallsMade.Went how) {
        if (!(visit.waiting() instanceof CallUnderWay call) || call.call() == null) {
            return;
        }
        long millis =
                switch (r.event()) {
                    case CallDone e -> e.tookMillis();
                    case ResultKept e -> e.tookMillis();
                    case Measured e -> e.tookMillis();
                    case Event e ->
                        Math.max(0, Duration.between(call.startedAt(), r.at()).toMillis());
                };
        writes.add(Write.of(
                Sql.CALL_MADE,
                ticket + " " + r.seq(),
                ticket.value(),
                r.seq(),
                call.action().value(),
                call.call().connection(),
                r.at(),
                how.name(),
                millis));
    }

    /** A step that is over before what it sent has begun takes it back, as long as nobody has it. */
    private void takenBack(Case before, Recorded r) {
        boolean sent = r.visit() != null
                && before.visit(r.visit())
                        .filter(v -> v.waiting() instanceof Waiting.Sent)
                        .isPresent();
        if (sent) {
            writes.add(Write.of(Sql.ERRAND_BACK, r.visit().value(), r.visit() + ".errand-", r.visit() + ".errand."));
        }
    }

    private void delivery(Recorded r, Event.OfDelivery event) {
        String id = outOf(event.message(), event.person());
        switch (event) {
            case Event.MessageDelivered e -> add(Sql.OUT_OVER, id);
            case Event.MessageFailed e -> {
                add(Sql.OUT_FORGOTTEN, id);
                String why = e.why() == null ? null : Texts.clip(e.why(), 1000);
                writes.add(
                        Write.of(Sql.OUT_GIVEN_UP, id, e.message(), e.person().value(), why, r.at(), id));
                add(Sql.OUT_OVER, id);
            }
            case Event.MessageResent e -> {
                writes.add(Write.of(Sql.OUT_AGAIN, id, r.at(), r.at(), id));
                add(Sql.OUT_SENT_AGAIN, id);
            }
        }
    }

    private void add(Sql sql, String id) {
        writes.add(Write.of(sql, id, id));
    }

    private static String outOf(String message, PersonId person) {
        return message + "." + person;
    }

    private void sends(Recorded r, Event.Sending event) {
        switch (event) {
            case Event.MessageQueued e -> {
                for (PersonId person : e.people()) {
                    out(
                            r,
                            outOf(e.message(), person),
                            "mail",
                            e.purpose(),
                            "mail:" + person,
                            new Outbox.MailPayload(
                                    e.message(),
                                    person,
                                    e.subject() == null ? "" : e.subject(),
                                    e.text() == null ? "" : e.text(),
                                    e.meeting()));
                }
            }
            // Not under the visit's own id: what is said stays to be said when the run goes on.
            case Event.RoomTold e ->
                out(
                        r,
                        "room." + e.message(),
                        "room",
                        "room",
                        "room:" + ticket,
                        new Outbox.RoomPayload(
                                e.message(),
                                e.name() == null ? ticket.value() : e.name(),
                                e.keepsAll(),
                                e.invited(),
                                e.text() == null ? "" : e.text()));
            case Event.WorkflowSent e -> errand(r, new Errand.Send(Objects.requireNonNull(r.visit()), e));
            case Event.SentRunRecalled e -> errand(r, new Errand.Recall(e.run(), e.why()));
            case Event.TicketLinked e -> {
                if (!e.mirrors()) {
                    errand(r, new Errand.Link(e.other(), e.as(), r.actor(), true));
                }
            }
            case Event.TicketUnlinked e -> {
                if (!e.mirrors()) {
                    errand(r, new Errand.Link(e.other(), e.as(), r.actor(), false));
                }
            }
            case Event.RunEnded e -> {
                if (e.answers() != null) {
                    errand(
                            r,
                            new Errand.Answer(
                                    e.answers(),
                                    Objects.requireNonNull(r.run()),
                                    e.result(),
                                    e.stopped(),
                                    e.results() == null ? java.util.Map.of() : e.results()));
                }
            }
        }
    }

    /** What a step sends bears the id of its visit, so that it can be taken back. */
    private void errand(Recorded r, Errand errand) {
        Object of = errand instanceof Errand.Send ? Objects.requireNonNull(r.visit()) : ticket;
        out(r, of + ".errand-" + r.seq(), "errand", "errand", "errand:" + ticket, errand);
    }

    private void out(Recorded r, String id, String kind, String purpose, String queue, Object payload) {
        @Nullable String visit = r.visit() == null ? null : r.visit().value();
        writes.add(Write.of(
                Sql.OUT, id, id, ticket.value(), visit, kind, purpose, queue, Json.write(payload), r.at(), r.at()));
    }
}
