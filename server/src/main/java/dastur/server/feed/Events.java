package dastur.server.feed;

import com.fasterxml.jackson.databind.JsonNode;
import com.fasterxml.jackson.databind.node.ObjectNode;
import dastur.core.expression.Expressions;
import dastur.core.expression.Verdict;
import dastur.core.expression.Vocabulary;
import dastur.core.feed.Wanted;
import dastur.core.json.Json;
import dastur.core.people.Person;
import dastur.core.record.Entry;
import dastur.core.run.Case;
import dastur.core.run.Engine;
import dastur.core.run.LookupKey;
import dastur.core.ticket.TicketId;
import dastur.store.Feed;
import dastur.store.Organisation;
import dastur.store.Tickets;
import java.time.Instant;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.function.BiPredicate;
import java.util.function.Function;
import org.jspecify.annotations.Nullable;

/**
 * What happened, as CloudEvents 1.0. An event carries what its entry sealed, and chosen fields of the ticket; texts that can be taken
 * away from a record are never in it.
 */
public final class Events {
    /** The version of what an event's data says: members are only added. */
    private static final String VERSION = "v1";

    /** One event. @param body as it is sent @param place in the log */
    public record Event(String id, TicketId ticket, long place, String kind, Map<String, Object> body) {
        public String json() {
            return Json.write(body);
        }

        /** The same, which says that one before it was given up. */
        Event afterGap(String parked) {
            Map<String, Object> more = new LinkedHashMap<>(body);
            more.put("gap", parked);
            return new Event(id, ticket, place, kind, more);
        }
    }

    private final Tickets tickets;
    private final Organisation organisation;
    private final Function<LookupKey, Optional<?>> look;
    private final BiPredicate<Person, TicketId> maySee;

    /** @param look looks values up for conditions @param maySee who may know of which ticket */
    public Events(
            Tickets tickets,
            Organisation organisation,
            Function<LookupKey, Optional<?>> look,
            BiPredicate<Person, TicketId> maySee) {
        this.tickets = tickets;
        this.organisation = organisation;
        this.look = look;
        this.maySee = maySee;
    }

    /** The events of a change that are wanted and that a person may know of. */
    public List<Event> of(Feed.Change change, Wanted wanted, List<String> fields, Person as, Instant now) {
        Optional<Case> ticket = tickets.find(change.ticket());
        // What is only tried has not happened to anybody.
        if (ticket.isEmpty()
                || ticket.get().test() != null
                || !maySee.test(as, change.ticket())
                || !holds(wanted.condition(), ticket.get(), now)) {
            return List.of();
        }
        List<Event> events = new ArrayList<>();
        for (Entry entry : change.entries()) {
            if (wanted.isOfKind(entry.kind(), ticket.get().kind())) {
                events.add(event(change, entry, ticket.get(), fields));
            }
        }
        return events;
    }

    private boolean holds(@Nullable String condition, Case ticket, Instant now) {
        return condition == null
                || new Expressions(Vocabulary.ofTicket(organisation.fields()))
                                .explain(condition, Engine.scope(ticket, look, now))
                                .verdict()
                        == Verdict.TRUE;
    }

    private static Event event(Feed.Change change, Entry entry, Case ticket, List<String> fields) {
        JsonNode sealed = readable(entry.sealed());
        Map<String, Object> data = new LinkedHashMap<>();
        data.put("ticket", entry.ticket().value());
        data.put("ticketKind", ticket.kind() == null ? "" : ticket.kind().word());
        data.put("seq", entry.seq());
        data.put("actor", sealed.path("actor"));
        put(data, "run", sealed.path("run").textValue());
        put(data, "step", sealed.path("step").textValue());
        data.put("entry", sealed.path("body"));
        data.put("hash", entry.hash());
        if (!fields.isEmpty()) {
            Map<String, Object> chosen = new LinkedHashMap<>();
            fields.forEach(f -> put(chosen, f, ticket.fields().get(f)));
            data.put("fields", chosen);
        }
        String id = entry.ticket() + "/" + entry.seq();
        return new Event(
                id,
                entry.ticket(),
                change.place(),
                entry.kind(),
                envelope(id, entry.kind(), entry, change.place(), data));
    }

    private static Map<String, Object> envelope(
            String id, String kind, Entry entry, long place, Map<String, Object> data) {
        Map<String, Object> body = new LinkedHashMap<>();
        body.put("specversion", "1.0");
        body.put("id", id);
        body.put("source", "/dastur");
        body.put("type", type(kind));
        body.put("subject", entry.ticket().value());
        body.put("time", entry.at().toString());
        body.put("datacontenttype", "application/json");
        // The extension that orders events of a source; here their place in the log.
        body.put("sequence", String.valueOf(place));
        body.put("data", data);
        return body;
    }

    static String type(String kind) {
        return "dastur." + kind + "." + VERSION;
    }

    /** One that says nothing but that it came, for trying an address. */
    static Event trial(Instant now) {
        String id = "trial/" + now.toEpochMilli();
        Map<String, Object> body = new LinkedHashMap<>();
        body.put("specversion", "1.0");
        body.put("id", id);
        body.put("source", "/dastur");
        body.put("type", type("trial"));
        body.put("time", now.toString());
        body.put("datacontenttype", "application/json");
        body.put("data", Map.of("trial", true));
        return new Event(id, new TicketId("trial"), -1, "trial", body);
    }

    private static void put(Map<String, Object> map, String name, @Nullable Object value) {
        if (value != null) {
            map.put(name, value);
        }
    }

    private static JsonNode readable(String text) {
        try {
            return Json.parse(text);
        } catch (com.fasterxml.jackson.core.JsonProcessingException e) {
            ObjectNode nothing = Json.mapper().createObjectNode();
            return nothing;
        }
    }
}
