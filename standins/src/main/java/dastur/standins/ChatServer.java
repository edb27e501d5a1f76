package dastur.standins;

import com.fasterxml.jackson.databind.JsonNode;
import com.fasterxml.jackson.databind.ObjectMapper;
import com.fasterxml.jackson.databind.node.ArrayNode;
import com.fasterxml.jackson.databind.node.ObjectNode;
import io.javalin.config.JavalinConfig;
import io.javalin.http.Context;
import java.io.IOException;
import java.time.Instant;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.LinkedHashMap;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.TreeMap;
import java.util.UUID;

/**
 * A chat server that speaks the needed part of the Matrix client-server API (v3): rooms, messages under transaction ids,
 * long-polled news. People read and answer on its page.
 */
public final class ChatServer {
    private static final ObjectMapper JSON = new ObjectMapper();
    /** The account that the token belongs to. */
    private static final String APPLICATION = "@dastur:kestrel.example";

    /** The reaction that makes a ticket of a message. */
    private static final String MARK = "🎫";
    /** Any moment in the past: numbers stay small. */
    private static final long BEFORE_ANY = 1_700_000_000L;

    /** One event of a room. @param answersTo the event it replies to; null for none */
    public record Event(int number, String id, String room, String sender, String text, String answersTo) {}

    /** A room with its name and those who were invited. */
    public record Room(String id, String name, boolean direct, Set<String> users) {}

    private final String token;
    private final Faults faults;
    private final List<Event> events = new ArrayList<>();
    private final Map<String, Room> rooms = new LinkedHashMap<>();
    private final Map<String, String> transactions = new HashMap<>();
    /** Events of this start are counted on from here, so that none is taken for one of a start before. */
    private final int first = (int) (Instant.now().getEpochSecond() - BEFORE_ANY);

    ChatServer(String token, Faults faults) {
        this.token = token;
        this.faults = faults;
    }

    void routes(JavalinConfig config) {
        String api = "/_matrix/client";
        config.routes.get(api + "/versions", ctx -> ctx.json(Map.of("versions", List.of("v1.11"))));
        config.routes.post(api + "/v3/createRoom", ctx -> guarded(ctx, () -> createRoom(ctx)));
        config.routes.put(
                api + "/v3/rooms/{room}/send/m.room.message/{transaction}", ctx -> guarded(ctx, () -> send(ctx)));
        config.routes.get(
                api + "/v3/account/whoami", ctx -> guarded(ctx, () -> ctx.json(Map.of("user_id", APPLICATION))));
        config.routes.post(api + "/v3/rooms/{room}/invite", ctx -> guarded(ctx, () -> invite(ctx)));
        config.routes.get(api + "/v3/rooms/{room}/event/{event}", ctx -> guarded(ctx, () -> event(ctx)));
        config.routes.get(api + "/v3/sync", ctx -> guarded(ctx, () -> sync(ctx)));
    }

    private void guarded(Context ctx, Runnable work) {
        if (Guarded.allowed(ctx, token) && !Guarded.faulty(ctx, faults.of("chat"))) {
            work.run();
        }
    }

    private synchronized void createRoom(Context ctx) {
        JsonNode asked = read(ctx);
        // Never one that was there before this server began: somebody may still hold its name.
        String id = "!" + UUID.randomUUID().toString().substring(0, 13) + ":kestrel.example";
        Set<String> users = new LinkedHashSet<>();
        asked.path("invite").forEach(u -> users.add(u.asText()));
        rooms.put(
                id,
                new Room(
                        id,
                        asked.path("name").asText("Dastur"),
                        asked.path("is_direct").asBoolean(),
                        users));
        ctx.json(Map.of("room_id", id));
    }

    private synchronized void invite(Context ctx) {
        Room room = rooms.get(ctx.pathParam("room"));
        if (room == null) {
            ctx.status(404).json(Map.of("errcode", "M_NOT_FOUND"));
        } else if (room.users().add(read(ctx).path("user_id").asText())) {
            ctx.json(Map.of());
        } else {
            ctx.status(403).json(Map.of("errcode", "M_FORBIDDEN"));
        }
    }

    private void send(Context ctx) {
        String room = ctx.pathParam("room");
        JsonNode content = read(ctx);
        String text = content.path("body").asText();
        String replaces = content.path("m.relates_to").path("rel_type").asText().equals("m.replace")
                ? content.path("m.relates_to").path("event_id").asText()
                : null;
        synchronized (this) {
            if (!rooms.containsKey(room)) {
                ctx.status(404).json(Map.of("errcode", "M_NOT_FOUND"));
                return;
            }
            String id = transactions.computeIfAbsent(
                    room + " " + ctx.pathParam("transaction"),
                    t -> replaces == null
                            ? add(room, APPLICATION, text, null)
                            : replace(
                                    replaces,
                                    content.path("m.new_content").path("body").asText()));
            ctx.json(Map.of("event_id", id));
        }
    }

    private String add(String room, String sender, String text, String answersTo) {
        int number = first + events.size() + 1;
        String id = "$event" + number;
        events.add(new Event(number, id, room, sender, text, answersTo));
        notifyAll();
        return id;
    }

    /** Another text stands in the place of a message from now on. */
    private String replace(String id, String text) {
        events.replaceAll(
                e -> e.id().equals(id) ? new Event(e.number(), e.id(), e.room(), e.sender(), text, e.answersTo()) : e);
        return id + "-replaced";
    }

    /** A person says something in their room with Dastur. @param answersTo the event replied to; null for none */
    public synchronized void say(String user, String text, String answersTo) {
        roomsOf(user).stream()
                .filter(Room::direct)
                .findFirst()
                .ifPresent(room -> add(room.id(), user, text, answersTo));
    }

    /** A person says something in a room that they were invited to. @param answersTo the event replied to; null for none */
    public synchronized void sayIn(String id, String user, String text, String answersTo) {
        Room room = rooms.get(id);
        if (room != null && room.users().contains(user)) {
            add(id, user, text, answersTo);
        }
    }

    /** A person puts the mark of tickets on a message. */
    public void mark(String id, String user, String event) {
        sayIn(id, user, MARK, event);
    }

    /** What was said with a person in their room with Dastur, in order. */
    public synchronized List<Event> with(String user) {
        return events.stream()
                .filter(e -> rooms.containsKey(e.room())
                        && rooms.get(e.room()).direct()
                        && rooms.get(e.room()).users().contains(user))
                .toList();
    }

    /** Closes every room, as an administrator of such a server may. */
    public synchronized void closeRooms() {
        rooms.clear();
    }

    /** The rooms that a person was invited to. */
    public synchronized List<Room> roomsOf(String user) {
        return rooms.values().stream().filter(r -> r.users().contains(user)).toList();
    }

    /** What was said in a room, in order. */
    public synchronized List<Event> in(String room) {
        return events.stream().filter(e -> e.room().equals(room)).toList();
    }

    /** The people who have a room. */
    public synchronized List<String> people() {
        return rooms.values().stream()
                .flatMap(r -> r.users().stream())
                .distinct()
                .sorted()
                .toList();
    }

    private void sync(Context ctx) {
        String since = ctx.queryParam("since");
        long wait = Math.clamp(
                Long.parseLong(String.valueOf(
                        ctx.queryParamAsClass("timeout", Long.class).getOrDefault(0L))),
                0,
                30_000);
        synchronized (this) {
            int from = since == null ? events.size() : Math.max(0, Integer.parseInt(since.substring(1)) - first);
            long end = System.currentTimeMillis() + wait;
            while (since != null && events.size() <= from && System.currentTimeMillis() < end) {
                try {
                    wait(Math.max(1, end - System.currentTimeMillis()));
                } catch (InterruptedException e) {
                    Thread.currentThread().interrupt();
                    break;
                }
            }
            ctx.contentType("application/json").result(news(from).toString());
        }
    }

    private synchronized void event(Context ctx) {
        events.stream()
                .filter(e -> e.room().equals(ctx.pathParam("room")) && e.id().equals(ctx.pathParam("event")))
                .findFirst()
                .ifPresentOrElse(
                        e -> ctx.contentType("application/json")
                                .result(written(JSON.createObjectNode(), e).toString()),
                        () -> ctx.status(404).json(Map.of("errcode", "M_NOT_FOUND")));
    }

    private ObjectNode news(int from) {
        ObjectNode answer = JSON.createObjectNode().put("next_batch", "s" + (first + events.size()));
        ObjectNode join = answer.putObject("rooms").putObject("join");
        Map<String, ArrayNode> timelines = new TreeMap<>();
        for (Event e : events.subList(Math.min(from, events.size()), events.size())) {
            ArrayNode timeline = timelines.computeIfAbsent(
                    e.room(), r -> join.putObject(r).putObject("timeline").putArray("events"));
            written(timeline.addObject(), e);
        }
        return answer;
    }

    private static ObjectNode written(ObjectNode event, Event e) {
        event.put("event_id", e.id()).put("sender", e.sender());
        if (e.text().equals(MARK)) {
            event.put("type", "m.reaction")
                    .putObject("content")
                    .putObject("m.relates_to")
                    .put("rel_type", "m.annotation")
                    .put("event_id", e.answersTo())
                    .put("key", MARK);
            return event;
        }
        ObjectNode content = event.put("type", "m.room.message")
                .putObject("content")
                .put("msgtype", "m.text")
                .put("body", e.text());
        if (e.answersTo() != null) {
            content.putObject("m.relates_to").putObject("m.in_reply_to").put("event_id", e.answersTo());
        }
        return event;
    }

    private static JsonNode read(Context ctx) {
        try {
            return JSON.readTree(ctx.body());
        } catch (IOException e) {
            throw new IllegalArgumentException(e);
        }
    }
}
