package dastur.store;

import dastur.core.people.PersonId;
import dastur.core.run.VisitId;
import dastur.core.ticket.TicketId;
import jakarta.persistence.Column;
import jakarta.persistence.Entity;
import jakarta.persistence.Id;
import jakarta.persistence.Table;
import java.time.Instant;
import java.time.LocalTime;
import java.time.ZoneId;
import java.util.List;
import java.util.Optional;
import org.jspecify.annotations.Nullable;

/** How people want to be reached, their chat rooms, and what was asked there (N41, N60). */
public final class Chats {
    /** By what a person is told. */
    public enum Channel {
        MAIL("mail"),
        CHAT("chat");

        private final String word;

        Channel(String word) {
            this.word = word;
        }

        @com.fasterxml.jackson.annotation.JsonValue
        public String word() {
            return word;
        }
    }

    /**
     * How a person wants to be reached.
     *
     * @param chat their name on the chat server; null when they have none
     * @param urgent by what they are asked for decisions, called in, and told of escalations; mail stands in when chat fails
     * @param other by what they are told of the rest
     * @param digestAt when what is not urgent reaches them in one mail a day; null for at once
     * @param quietFrom when their quiet hours begin, in which only urgent messages reach them; null for none
     */
    public record Reach(
            @Nullable String chat,
            Channel urgent,
            Channel other,
            @Nullable LocalTime quietFrom,
            @Nullable LocalTime quietUntil,
            ZoneId zone,
            @Nullable LocalTime digestAt) {
        /** Without a digest. */
        public Reach(
                @Nullable String chat,
                Channel urgent,
                Channel other,
                @Nullable LocalTime quietFrom,
                @Nullable LocalTime quietUntil,
                ZoneId zone) {
            this(chat, urgent, other, quietFrom, quietUntil, zone, null);
        }

        /** By mail, at any time. */
        public static final Reach MAIL = new Reach(null, Channel.MAIL, Channel.MAIL, null, null, ZoneId.of("UTC"));
    }

    /**
     * A decision that was asked for in a room.
     *
     * @param matter what it is about, as people know it
     * @param settled whether it was decided, or asked anew
     */
    public record Asked(
            String event,
            String room,
            PersonId person,
            VisitId visit,
            int round,
            String digest,
            String matter,
            Instant at,
            boolean settled) {}

    @Entity(name = "ReachRow")
    @Table(name = "reach")
    static class ReachRow {
        @Id
        String person;

        @Nullable String chat;

        String body;
    }

    @Entity(name = "ChatRoomRow")
    @Table(name = "chat_room")
    static class RoomRow {
        @Id
        String person;

        String room;
    }

    @Entity(name = "ChatAskRow")
    @Table(name = "chat_ask")
    static class AskRow {
        @Id
        String event;

        long number;

        String room;

        String person;

        String visit;

        @Column(name = "round_number")
        int round;

        String digest;

        String matter;

        @Column(name = "asked_at")
        Instant at;

        boolean settled;
    }

    @Entity(name = "ChatHeardRow")
    @Table(name = "chat_heard")
    static class HeardRow {
        @Id
        int id;

        String since;

        @Nullable String server;
    }

    private final Database database;

    public Chats(Database database) {
        this.database = database;
    }

    public Reach reach(PersonId person) {
        return database.read(session -> Optional.ofNullable(session.get(ReachRow.class, person.value()))
                .map(r -> dastur.core.json.Json.read(r.body, Reach.class))
                .orElse(Reach.MAIL));
    }

    public void putReach(PersonId person, Reach reach) {
        database.run(session -> {
            ReachRow row = new ReachRow();
            row.person = person.value();
            row.chat = reach.chat();
            row.body = dastur.core.json.Json.write(reach);
            session.upsert(row);
            // A room with an earlier name would reach somebody else.
            session.createMutationQuery("delete ChatRoomRow where person = ?1")
                    .setParameter(1, person.value())
                    .executeUpdate();
        });
    }

    /** Whose name on the chat server it is; empty when nobody's. */
    public Optional<PersonId> personCalled(String chat) {
        return database.read(session -> session
                .createSelectionQuery("from ReachRow where chat = ?1", ReachRow.class)
                .setParameter(1, chat)
                .getResultList()
                .stream()
                .findFirst()
                .map(r -> new PersonId(r.person)));
    }

    public Optional<String> roomWith(PersonId person) {
        return database.read(session ->
                Optional.ofNullable(session.get(RoomRow.class, person.value())).map(r -> r.room));
    }

    public void keepRoom(PersonId person, String room) {
        database.run(session -> {
            RoomRow row = new RoomRow();
            row.person = person.value();
            row.room = room;
            session.upsert(row);
        });
    }

    public void keepAsk(Asked asked) {
        database.run(session -> {
            AskRow row = new AskRow();
            row.event = asked.event();
            Long last = session.createSelectionQuery("select max(number) from ChatAskRow", Long.class)
                    .getSingleResultOrNull();
            row.number = last == null ? 1 : last + 1;
            row.room = asked.room();
            row.person = asked.person().value();
            row.visit = asked.visit().value();
            row.round = asked.round();
            row.digest = asked.digest();
            row.matter = asked.matter();
            row.at = asked.at();
            row.settled = asked.settled();
            session.upsert(row);
        });
    }

    /** What was asked by an event in a room. */
    public Optional<Asked> asked(String room, String event) {
        return database.read(session -> session
                .createSelectionQuery("from ChatAskRow where room = ?1 and event = ?2", AskRow.class)
                .setParameter(1, room)
                .setParameter(2, event)
                .getResultList()
                .stream()
                .findFirst()
                .map(Chats::asked));
    }

    /** What was asked in a room, the last first, settled or not. */
    public List<Asked> askedIn(String room, int most) {
        return database.read(session -> session
                .createSelectionQuery("from ChatAskRow where room = ?1 order by number desc", AskRow.class)
                .setParameter(1, room)
                .setMaxResults(most)
                .getResultList()
                .stream()
                .map(Chats::asked)
                .toList());
    }

    /** Everything that was asked for a visit up to a round and is not settled in chat. */
    public List<Asked> asksOf(VisitId visit, int upTo) {
        return database.read(session -> session
                .createSelectionQuery(
                        "from ChatAskRow where visit = ?1 and round <= ?2 and settled = false order by number",
                        AskRow.class)
                .setParameter(1, visit.value())
                .setParameter(2, upTo)
                .setMaxResults(1000)
                .getResultList()
                .stream()
                .map(Chats::asked)
                .toList());
    }

    public void settle(VisitId visit, int upTo) {
        database.run(session -> session.createMutationQuery(
                        "update ChatAskRow set settled = true where visit = ?1 and round <= ?2")
                .setParameter(1, visit.value())
                .setParameter(2, upTo)
                .executeUpdate());
    }

    /** Forgets settled questions from before a moment. */
    public void forgetSettledBefore(Instant moment) {
        database.run(session -> session.createMutationQuery("delete ChatAskRow where settled = true and at < ?1")
                .setParameter(1, moment)
                .executeUpdate());
    }

    /** A ticket's room. */
    public record TicketRoom(TicketId ticket, String room, boolean keepsAll) {}

    @Entity(name = "TicketRoomRow")
    @Table(name = "ticket_room")
    static class TicketRoomRow {
        @Id
        String ticket;

        String room;

        @Column(name = "keeps_all")
        boolean keepsAll;

        TicketRoom asRoom() {
            return new TicketRoom(new TicketId(ticket), room, keepsAll);
        }
    }

    public Optional<TicketRoom> roomOf(TicketId ticket) {
        return database.read(session -> Optional.ofNullable(session.get(TicketRoomRow.class, ticket.value())))
                .map(TicketRoomRow::asRoom);
    }

    /** Whose room it is; empty when it is no ticket's. */
    public Optional<TicketRoom> ticketRoom(String room) {
        return database.read(session -> session
                .createSelectionQuery("from TicketRoomRow where room = ?1", TicketRoomRow.class)
                .setParameter(1, room)
                .getResultList()
                .stream()
                .findFirst()
                .map(TicketRoomRow::asRoom));
    }

    public void keepTicketRoom(TicketRoom room) {
        database.run(session -> {
            TicketRoomRow row = new TicketRoomRow();
            row.ticket = room.ticket().value();
            row.room = room.room();
            row.keepsAll = room.keepsAll();
            session.upsert(row);
        });
    }

    /** Where to go on hearing at a server; empty when nothing was heard of it yet. */
    public Optional<String> since(String server) {
        return database.read(session -> Optional.ofNullable(session.get(HeardRow.class, 1))
                .filter(r -> r.server == null || r.server.equals(server))
                .map(r -> r.since));
    }

    public void keepSince(String server, String since) {
        database.run(session -> {
            HeardRow row = new HeardRow();
            row.id = 1;
            row.since = since;
            row.server = server;
            session.upsert(row);
        });
    }

    private static Asked asked(AskRow r) {
        return new Asked(
                r.event,
                r.room,
                new PersonId(r.person),
                new VisitId(r.visit),
                r.round,
                r.digest,
                r.matter,
                r.at,
                r.settled);
    }
}
