package dastur.core.step.notify;

import dastur.core.json.Texts;
import dastur.core.people.Actor;
import dastur.core.people.PersonId;
import dastur.core.run.CannotOpen;
import dastur.core.run.Event;
import dastur.core.run.Here;
import dastur.core.run.VisitId;
import java.util.List;

/** Tells people, by themselves or in the ticket's room (N60, N61, law 8). */
final class Telling {
    private static final int MAX_SUBJECT = 200;

    private final Here here;

    Telling(Here here) {
        this.here = here;
    }

    void tell(VisitId visit, Notify step) {
        TicketRoom room = step.room();
        here.emit(Actor.SYSTEM, step.id(), visit, room == null ? toEach(step) : inRoom(visit, step, room));
    }

    /** Goes on at once, unless it is to be known whether all were reached. */
    private Event toEach(Notify step) {
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
                oneLine(step.subject()),
                here.render(step.text()));
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
