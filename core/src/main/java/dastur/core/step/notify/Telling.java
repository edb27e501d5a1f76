package dastur.core.step.notify;

import dastur.core.expression.Outcome;
import dastur.core.json.Texts;
import dastur.core.people.Actor;
import dastur.core.people.PersonId;
import dastur.core.run.CannotOpen;
import dastur.core.run.Event;
import dastur.core.run.Here;
import dastur.core.run.Meeting;
import dastur.core.run.VisitId;
import dastur.core.workflow.StepId;
import java.time.Instant;
import java.time.format.DateTimeParseException;
import java.util.List;
import java.util.Objects;
import org.jspecify.annotations.Nullable;

/** Tells people, by themselves or in the ticket's room (N60, N61, law 8). */
final class Telling {
    private static final int MAX_SUBJECT = 200;

    private final Here here;

    Telling(Here here) {
        this.here = here;
    }

    void tell(VisitId visit, Notify step) {
        TicketRoom room = step.room();
        here.emit(Actor.SYSTEM, step.id(), visit, room == null ? toEach(visit, step) : inRoom(visit, step, room));
    }

    /** Goes on at once, unless it is to be known whether all were reached. */
    private Event toEach(VisitId visit, Notify step) {
        List<PersonId> to = here.members(step.to());
        boolean awaited = Here.way(step, "undelivered") != null;
        if (awaited && to.isEmpty()) {
            throw new CannotOpen("nobody", "'" + step.name() + "' has nobody to tell.");
        }
        return new Event.MessageQueued(
                here.nextMessage(),
                "notice",
                to,
                awaited,
                awaited ? null : "sent",
                awaited ? null : Here.way(step, "sent"),
                here.said(oneLine(step.subject())),
                here.render(step.text()),
                null,
                step.invites() == null ? null : meeting(visit, step, step.invites()));
    }

    /** What is said of it by a later passage, or by another step, is said of the same entry in calendars. */
    private Meeting meeting(VisitId visit, Notify step, Invites invites) {
        StepId by = invites.off() == null ? step.id() : invites.off();
        String key = visit.run() + "." + by;
        if (invites.off() != null) {
            return new Meeting(key, visit.number(), null, null, null);
        }
        Instant from = moment(step, invites.from());
        Instant until = moment(step, invites.until());
        if (!until.isAfter(from)) {
            throw new CannotOpen("no time", "'" + step.name() + "' would invite to what ends before it begins.");
        }
        String place = invites.place() == null ? "" : oneLine(invites.place());
        return new Meeting(key, visit.number(), from, until, place.isBlank() ? null : place);
    }

    private Instant moment(Notify step, @Nullable String expression) {
        if (here.evaluate(Objects.requireNonNullElse(expression, "")) instanceof Outcome.Value v) {
            try {
                return Instant.parse(String.valueOf(v.value()));
            } catch (DateTimeParseException e) {
                // Said below, as for what gives nothing.
            }
        }
        throw new CannotOpen("no time", "'" + expression + "' gives no time to invite '" + step.name() + "' to.");
    }

    /** Says it in the room, which opens with the first word; moves on at once (law 8). */
    private Event inRoom(VisitId visit, Notify step, TicketRoom room) {
        List<PersonId> invited = here.members(step.to());
        String said = here.render(step.subject()) + "\n" + here.render(step.text());
        return new Event.RoomTold(
                visit + ".room",
                room.keepsAll(),
                invited,
                "sent",
                Here.way(step, "sent"),
                oneLine(room.name()),
                said.strip());
    }

    private String oneLine(String text) {
        return Texts.clip(here.render(text).replaceAll("\\R", " "), MAX_SUBJECT);
    }
}
