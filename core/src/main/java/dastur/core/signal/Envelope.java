package dastur.core.signal;

import com.fasterxml.jackson.core.JsonProcessingException;
import com.fasterxml.jackson.databind.JsonNode;
import com.fasterxml.jackson.databind.node.ObjectNode;
import dastur.core.json.Json;
import java.net.URLDecoder;
import java.nio.charset.StandardCharsets;
import java.util.ArrayList;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import org.jspecify.annotations.Nullable;

/**
 * Takes a request apart into the events it carries (I2): CloudEvents 1.0 in its three HTTP bindings (structured, binary, batch),
 * plain JSON, or the fields of a form. A binary event comes to look like a structured one, so that a mapping need not know.
 */
public final class Envelope {
    /** More events than that are not taken in one request. */
    public static final int MOST = 500;

    private static final String CE = "ce-";

    /** One event. @param delivery by what it is known again (CloudEvents source and id); null where nothing says so */
    public record Event(JsonNode body, @Nullable String delivery) {}

    /** It is none of what is understood. Its message says why, for the sender. */
    public static final class Unreadable extends Exception {
        private static final long serialVersionUID = 1;

        Unreadable(String message) {
            super(message);
        }
    }

    private Envelope() {}

    /** @param headers with names in small letters */
    public static List<Event> open(Map<String, String> headers, String body) throws Unreadable {
        String type = headers.getOrDefault("content-type", "application/json")
                .split(";")[0]
                .strip()
                .toLowerCase(Locale.ROOT);
        if (type.equals("application/cloudevents-batch+json")) {
            return batch(json(body));
        }
        if (type.equals("application/cloudevents+json")) {
            return List.of(structured(json(body)));
        }
        if (headers.containsKey("ce-specversion")) {
            return List.of(structured(binary(headers, type, body)));
        }
        if (type.equals("application/x-www-form-urlencoded")) {
            return List.of(new Event(form(body), null));
        }
        if (type.equals("application/json") || type.endsWith("+json")) {
            return List.of(new Event(json(body), null));
        }
        throw new Unreadable("'" + dastur.core.json.Texts.clip(type, 60)
                + "' is not understood here: send application/cloudevents+json, application/cloudevents-batch+json,"
                + " application/json or application/x-www-form-urlencoded.");
    }

    private static JsonNode json(String body) throws Unreadable {
        try {
            JsonNode node = Json.parse(body);
            if (node == null || node.isMissingNode() || !node.isContainerNode()) {
                throw new Unreadable("The body is to be a JSON object.");
            }
            return node;
        } catch (JsonProcessingException e) {
            throw new Unreadable(
                    e.getLocation() == null
                            ? "The body is not JSON that can be read: too deep, or a number or text in it is too long."
                            : "The body is not JSON: broken in line "
                                    + e.getLocation().getLineNr() + ", column "
                                    + e.getLocation().getColumnNr() + ".");
        }
    }

    private static List<Event> batch(JsonNode all) throws Unreadable {
        if (!all.isArray()) {
            throw new Unreadable("A batch is a JSON array of events.");
        }
        if (all.size() > MOST) {
            throw new Unreadable("A batch has at most " + MOST + " events.");
        }
        List<Event> events = new ArrayList<>();
        for (JsonNode one : all) {
            // One that is none is kept all the same, and stands as not understood: the others of the batch count.
            events.add(isEvent(one) ? structured(one) : new Event(one, null));
        }
        return events;
    }

    private static boolean isEvent(JsonNode node) {
        return node.isObject() && node.hasNonNull("id") && node.hasNonNull("source") && node.hasNonNull("type");
    }

    private static Event structured(JsonNode node) throws Unreadable {
        if (!isEvent(node) || !node.path("specversion").asText().startsWith("1.")) {
            throw new Unreadable("A CloudEvent of version 1.0 has specversion, id, source and type.");
        }
        return new Event(
                node, node.get("source").asText() + " " + node.get("id").asText());
    }

    private static JsonNode binary(Map<String, String> headers, String type, String body) throws Unreadable {
        ObjectNode event = Json.mapper().createObjectNode();
        headers.forEach((name, value) -> {
            if (name.startsWith(CE)) {
                // Percent-encoded where it is not plain (the HTTP binding, 3.1.3.2).
                event.put(name.substring(CE.length()), decoded(value));
            }
        });
        event.put("datacontenttype", type);
        if (!body.isBlank()) {
            if (type.equals("application/json") || type.endsWith("+json")) {
                event.set("data", json(body));
            } else {
                event.put("data", body);
            }
        }
        return event;
    }

    private static JsonNode form(String body) throws Unreadable {
        ObjectNode fields = Json.mapper().createObjectNode();
        for (String pair : body.split("&")) {
            int at = pair.indexOf('=');
            if (at > 0) {
                fields.put(decodedField(pair.substring(0, at)), decodedField(pair.substring(at + 1)));
            }
        }
        if (fields.isEmpty()) {
            throw new Unreadable("The form has no fields.");
        }
        return fields;
    }

    private static String decoded(String value) {
        try {
            return URLDecoder.decode(value.replace("+", "%2B"), StandardCharsets.UTF_8);
        } catch (IllegalArgumentException e) {
            return value;
        }
    }

    private static String decodedField(String value) throws Unreadable {
        try {
            return URLDecoder.decode(value, StandardCharsets.UTF_8);
        } catch (IllegalArgumentException e) {
            throw new Unreadable("The form is broken: a '%' is not followed by two hexadecimal digits.");
        }
    }
}
