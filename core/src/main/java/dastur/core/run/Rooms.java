package dastur.core.run;

import dastur.core.json.Texts;
import java.util.List;
import java.util.Optional;

/** A ticket's room in chat: what a workflow says there, and what people say there (N61, N63). */
final class Rooms {
    private static final int MOST_LINES = 200;

    private final Deciding d;

    Rooms(Deciding d) {
        this.d = d;
    }

    Optional<Refusal> opened(Command.OpenRoom c) {
        if (d.now().room() == null) {
            d.emitTicket(new Event.RoomOpened(c.room(), c.keepsAll(), c.name()));
        }
        return Optional.empty();
    }

    /** What is said in another room, or in one that was never opened, is none of this ticket's business. */
    Optional<Refusal> heard(Command.HearRoom c) {
        Case.Room room = d.now().room();
        if (room == null || !room.id().equals(c.room()) || c.said().isEmpty()) {
            return Optional.of(new Refusal(Refusal.Code.NOT_FOUND, "That room is not this ticket's.", "room"));
        }
        List<Event.RoomLine> said = c.said().stream()
                .limit(MOST_LINES)
                .map(l -> new Event.RoomLine(l.by(), Texts.clip(l.name(), 200), Texts.clip(l.text(), Texts.MAX_TEXT)))
                .toList();
        d.emitTicket(new Event.RoomTalked(c.room(), said.size(), said));
        return Optional.empty();
    }

    Optional<Refusal> failed(Command.RoomFailed c) {
        d.emitTicket(new Event.RoomFailed(c.message(), c.why()));
        return Optional.empty();
    }
}
