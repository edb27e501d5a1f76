package dastur.server.chat;

import dastur.connectors.MatrixConnector.NotSent;
import dastur.connectors.MatrixConnector.Said;
import dastur.core.people.Actor;
import dastur.core.people.Person;
import dastur.core.people.PersonId;
import dastur.core.run.Command;
import dastur.core.run.Event.RoomLine;
import dastur.core.ticket.TicketId;
import dastur.store.Chats.TicketRoom;
import dastur.store.Outbox;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Objects;
import java.util.Optional;

/** Rooms of tickets: opened when a workflow first says something there; what people say there comes onto the record. */
public final class TicketRooms {
    /** Begins what is to come onto the record where not everything does. */
    static final String MARK = "!";

    private final Chat.Uses means;

    TicketRooms(Chat.Uses means) {
        this.means = means;
    }

    // --- saying

    /** Says something in a ticket's room, and opens it if need be. */
    public void say(Outbox.Taken taken) throws NotSent {
        Outbox.RoomPayload told = taken.room();
        List<String> users = told.invited().stream()
                .map(p -> means.chats().reach(p).chat())
                .filter(Objects::nonNull)
                .toList();
        Optional<TicketRoom> known = means.chats().roomOf(taken.ticket());
        if (known.isPresent()) {
            try {
                for (String user : users) {
                    means.matrix().invite(known.get().room(), user);
                }
                say(taken, known.get());
                return;
            } catch (NotSent e) {
                if (!e.gone()) {
                    throw e;
                }
            }
        }
        say(taken, open(taken.ticket(), told, users));
    }

    private void say(Outbox.Taken taken, TicketRoom room) throws NotSent {
        Outbox.RoomPayload told = taken.room();
        means.commands()
                .handleRepeatable(
                        taken.ticket(),
                        "room." + taken.ticket(),
                        new Actor.Outside("chat"),
                        new Command.OpenRoom(room.room(), told.name(), room.keepsAll()));
        means.matrix().say(room.room(), taken.id(), told.text());
    }

    private TicketRoom open(TicketId ticket, Outbox.RoomPayload told, List<String> users) throws NotSent {
        String topic = means.address().get() + "/tickets/" + ticket;
        TicketRoom room = new TicketRoom(ticket, means.matrix().roomFor(users, told.name(), topic), told.keepsAll());
        means.chats().keepTicketRoom(room);
        means.matrix()
                .say(
                        room.room(),
                        "opened." + ticket,
                        told.name() + "\n" + topic + "\n"
                                + (room.keepsAll()
                                        ? "All that is said here comes onto the ticket's record."
                                        : "What begins with " + MARK + " comes onto the ticket's record."));
        return room;
    }

    // --- hearing

    /** Brings what was said in rooms of tickets onto their records. @return whether anything was */
    boolean heard(List<Said> all) {
        Map<TicketRoom, List<Said>> kept = new LinkedHashMap<>();
        for (Said said : all) {
            means.chats()
                    .ticketRoom(said.room())
                    .filter(room -> said.isMessage() && isKept(room, said))
                    .ifPresent(room ->
                            kept.computeIfAbsent(room, r -> new ArrayList<>()).add(said));
        }
        kept.forEach((room, said) -> means.commands()
                .handle(
                        room.ticket(),
                        "room." + said.getLast().event(),
                        new Actor.Outside("chat"),
                        new Command.HearRoom(
                                room.room(), said.stream().map(this::line).toList())));
        return !kept.isEmpty();
    }

    /** What Dastur says there stands on the record already. */
    private boolean isKept(TicketRoom room, Said said) {
        return !said.text().isBlank()
                && !said.own()
                && (room.keepsAll() || said.text().startsWith(MARK));
    }

    private RoomLine line(Said said) {
        Optional<PersonId> person = means.chats().personCalled(said.sender());
        String text = said.text().startsWith(MARK)
                ? said.text().substring(MARK.length()).strip()
                : said.text();
        return new RoomLine(
                person.orElse(null),
                person.flatMap(means.person()).map(Person::name).orElse(said.sender()),
                text);
    }
}
