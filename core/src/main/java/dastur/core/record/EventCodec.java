package dastur.core.record;

import com.fasterxml.jackson.core.JsonProcessingException;
import com.fasterxml.jackson.databind.JsonNode;
import com.fasterxml.jackson.databind.node.ObjectNode;
import dastur.core.json.Json;
import dastur.core.run.Content;
import dastur.core.run.Event;
import dastur.core.workflow.Brings;
import dastur.core.workflow.Kinds;
import java.lang.reflect.RecordComponent;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import org.jspecify.annotations.Nullable;

/** Splits an event into its sealed body and its content, and puts it together again. */
final class EventCodec {
    /** The version of the bodies written now; older ones are upcast on reading (D24). */
    static final int VERSION = 1;

    record Encoded(String kind, ObjectNode body, @Nullable ObjectNode content) {}

    private record Shape(Class<? extends Event> type, List<String> content) {}

    private static final Map<String, Shape> SHAPES = new HashMap<>();

    private static final Map<Class<?>, String> KINDS = new HashMap<>();

    static {
        collect(Event.class);
        Kinds.brought(Event.class).forEach(EventCodec::add);
    }

    private EventCodec() {}

    /** The engine's own; what rooms bring is no part of the sealed tree. */
    private static void collect(Class<?> sealedType) {
        for (Class<?> type : sealedType.getPermittedSubclasses()) {
            if (type.isSealed()) {
                collect(type);
            } else if (type.isRecord()) {
                add(Brings.of(type).word(), type.asSubclass(Event.class));
            }
        }
    }

    private static void add(String kind, Class<? extends Event> type) {
        List<String> content = Arrays.stream(type.getRecordComponents())
                .filter(c -> c.isAnnotationPresent(Content.class))
                .map(RecordComponent::getName)
                .toList();
        if (SHAPES.put(kind, new Shape(type, content)) != null) {
            throw new IllegalStateException("two events are called '" + kind + "'");
        }
        KINDS.put(type, kind);
    }

    /** The kind's word on the record. */
    static String kind(Class<?> type) {
        return KINDS.get(type);
    }

    /** The kinds of entries, by their words. */
    static List<String> kinds() {
        return new ArrayList<>(SHAPES.keySet()).stream().sorted().toList();
    }

    /** The events of a kind. */
    static Class<? extends Event> type(String kind) {
        return SHAPES.get(kind).type();
    }

    static Encoded encode(Event event) {
        ObjectNode body = (ObjectNode) Json.tree(event);
        Shape shape = SHAPES.get(kind(event.getClass()));
        ObjectNode content = null;
        for (String name : shape.content()) {
            JsonNode value = body.remove(name);
            if (value != null) {
                content = content == null ? Json.mapper().createObjectNode() : content;
                content.set(name, value);
            }
        }
        return new Encoded(kind(event.getClass()), body, content);
    }

    /** @throws UnreadableRecord when the kind or its version is not known to this release */
    static Event decode(int version, String kind, JsonNode body, @Nullable JsonNode content) {
        Shape shape = SHAPES.get(kind);
        if (version != VERSION || shape == null) {
            throw new UnreadableRecord(
                    "this release does not know entries of kind '" + kind + "' in version " + version);
        }
        ObjectNode whole = body.deepCopy();
        if (content != null) {
            whole.setAll((ObjectNode) content);
        }
        try {
            return Json.mapper().treeToValue(whole, shape.type());
        } catch (JsonProcessingException e) {
            throw new UnreadableRecord("an entry of kind '" + kind + "' does not have the form this release expects");
        }
    }
}
