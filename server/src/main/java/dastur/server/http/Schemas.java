package dastur.server.http;

import com.fasterxml.jackson.annotation.JsonIgnore;
import com.fasterxml.jackson.annotation.JsonInclude;
import com.fasterxml.jackson.annotation.JsonSubTypes;
import com.fasterxml.jackson.annotation.JsonTypeInfo;
import com.fasterxml.jackson.annotation.JsonValue;
import com.fasterxml.jackson.databind.node.ArrayNode;
import com.fasterxml.jackson.databind.node.ObjectNode;
import dastur.core.json.Json;
import dastur.core.record.Seal;
import dastur.core.run.Content;
import dastur.core.workflow.Kinds;
import dastur.core.workflow.Step;
import java.lang.reflect.AnnotatedType;
import java.lang.reflect.Method;
import java.lang.reflect.ParameterizedType;
import java.lang.reflect.RecordComponent;
import java.lang.reflect.Type;
import java.math.BigDecimal;
import java.time.Instant;
import java.time.LocalDate;
import java.time.LocalDateTime;
import java.time.LocalTime;
import java.time.ZoneId;
import java.util.Arrays;
import java.util.Collection;
import java.util.HashSet;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.function.Predicate;
import java.util.stream.Stream;
import org.jspecify.annotations.Nullable;

/**
 * JSON Schema (2020-12, as OpenAPI 3.1 uses it) from our records. What is not {@code @Nullable} is required, a sealed
 * interface is one of its records told apart by its discriminator: facts that general generators do not take from records.
 */
final class Schemas {
    private final ObjectNode components = Json.mapper().createObjectNode();
    private final Set<Class<?>> seen = new HashSet<>();

    ObjectNode components() {
        return components;
    }

    ObjectNode of(Type type) {
        if (type instanceof ParameterizedType parameterized) {
            return ofParameterized(parameterized);
        }
        return type instanceof Class<?> c ? ofClass(c) : Json.mapper().createObjectNode();
    }

    private ObjectNode ofParameterized(ParameterizedType type) {
        Class<?> raw = (Class<?>) type.getRawType();
        ObjectNode schema = Json.mapper().createObjectNode();
        if (Collection.class.isAssignableFrom(raw)) {
            schema.put("type", "array").set("items", of(type.getActualTypeArguments()[0]));
        } else if (Map.class.isAssignableFrom(raw)) {
            schema.put("type", "object").set("additionalProperties", of(type.getActualTypeArguments()[1]));
        } else {
            return ofGenericRecord(type, raw);
        }
        return schema;
    }

    /** A record such as Page of something: written out in place. */
    private ObjectNode ofGenericRecord(ParameterizedType type, Class<?> raw) {
        ObjectNode schema = Json.mapper().createObjectNode().put("type", "object");
        ObjectNode properties = schema.putObject("properties");
        ArrayNode required = schema.putArray("required");
        for (RecordComponent c : raw.getRecordComponents()) {
            Type component = c.getGenericType();
            boolean listOfVariable = component instanceof ParameterizedType p
                    && p.getActualTypeArguments()[0] == raw.getTypeParameters()[0];
            properties.set(
                    c.getName(),
                    listOfVariable
                            ? Json.mapper()
                                    .createObjectNode()
                                    .put("type", "array")
                                    .set("items", of(type.getActualTypeArguments()[0]))
                            : of(component));
            required.add(c.getName());
        }
        return schema;
    }

    private ObjectNode ofClass(Class<?> type) {
        ObjectNode schema = Json.mapper().createObjectNode();
        if (type == String.class || type == ZoneId.class || type == LocalTime.class || type == LocalDateTime.class) {
            return schema.put("type", "string");
        }
        if (type == Instant.class) {
            return schema.put("type", "string").put("format", "date-time");
        }
        if (type == LocalDate.class) {
            return schema.put("type", "string").put("format", "date");
        }
        if (type == int.class || type == Integer.class || type == long.class || type == Long.class) {
            return schema.put("type", "integer");
        }
        if (type == double.class || type == Double.class || type == BigDecimal.class) {
            return schema.put("type", "number");
        }
        if (type == boolean.class || type == Boolean.class) {
            return schema.put("type", "boolean");
        }
        if (type == Object.class) {
            return schema;
        }
        if (hasTextForm(type) && !type.isEnum()) {
            return schema.put("type", "string");
        }
        if (type.isEnum() || type.isRecord() || type.isInterface()) {
            define(type);
            return schema.put("$ref", "#/components/schemas/" + name(type));
        }
        return schema;
    }

    private static boolean hasTextForm(Class<?> type) {
        boolean method = Arrays.stream(type.getDeclaredMethods()).anyMatch(m -> m.isAnnotationPresent(JsonValue.class));
        return method
                || type.isRecord()
                        && Arrays.stream(type.getRecordComponents())
                                .anyMatch(c -> c.isAnnotationPresent(JsonValue.class))
                || type.isRecord()
                        && Arrays.stream(type.getRecordComponents())
                                .anyMatch(c -> c.getAccessor().isAnnotationPresent(JsonValue.class));
    }

    /** The type's name, with the names of those around it: HumanTask is StepHumanTask. */
    private static String name(Class<?> type) {
        Class<?> outer = type.getEnclosingClass();
        return (outer == null ? "" : name(outer)) + type.getSimpleName();
    }

    private void define(Class<?> type) {
        if (!seen.add(type)) {
            return;
        }
        if (components.has(name(type))) {
            throw new IllegalStateException("two records of the API are called " + name(type) + ": rename one");
        }
        ObjectNode schema = components.putObject(name(type));
        if (type.isEnum()) {
            schema.put("type", "string");
            ArrayNode values = schema.putArray("enum");
            Stream.of(type.getEnumConstants()).map(v -> Json.tree(v).asText()).forEach(values::add);
        } else if (type.isInterface()) {
            ArrayNode oneOf = schema.putArray("oneOf");
            words(type).values().forEach(one -> oneOf.add(ofClass(one)));
        } else if (type.isAnnotationPresent(Shape.ByKind.class)) {
            defineByKind(type, schema);
        } else {
            defineRecord(type, schema);
        }
    }

    /** One of as many as there are kinds of entries: what all have, and what this kind's body and content hold. */
    private void defineByKind(Class<?> type, ObjectNode schema) {
        ObjectNode common = components.putObject(name(type) + "Common");
        defineRecord(type, common);
        Set<String> own = Set.of("kind", "body", "content");
        ((ObjectNode) common.get("properties")).remove(own);
        ArrayNode required = common.putArray("required");
        Arrays.stream(type.getRecordComponents())
                .filter(c -> !mayBeMissing(c) && !own.contains(c.getName()))
                .forEach(c -> required.add(c.getName()));
        ArrayNode oneOf = schema.putArray("oneOf");
        Seal.types().forEach((kind, event) -> {
            String called = "Entry" + Character.toUpperCase(kind.charAt(0)) + kind.substring(1);
            ArrayNode parts = components.putObject(called).putArray("allOf");
            parts.addObject().put("$ref", "#/components/schemas/" + name(type) + "Common");
            ofKind(kind, event, parts.addObject());
            oneOf.addObject().put("$ref", "#/components/schemas/" + called);
        });
    }

    private void ofKind(String kind, Class<?> event, ObjectNode schema) {
        schema.put("type", "object");
        schema.putArray("required").add("kind").add("body");
        ObjectNode properties = schema.putObject("properties");
        properties.putObject("kind").put("type", "string").putArray("enum").add(kind);
        ObjectNode body = properties.putObject("body").put("type", "object");
        ObjectNode content = properties.putObject("content").put("type", "object");
        components(event, c -> !c.isAnnotationPresent(Content.class), body);
        components(event, c -> c.isAnnotationPresent(Content.class), content);
    }

    private void components(Class<?> type, Predicate<RecordComponent> of, ObjectNode schema) {
        ObjectNode properties = schema.putObject("properties");
        ArrayNode required = schema.putArray("required");
        for (RecordComponent c : type.getRecordComponents()) {
            if (of.test(c) && !c.getAccessor().isAnnotationPresent(JsonIgnore.class)) {
                properties.set(c.getName(), of(c.getGenericType()));
                if (!mayBeMissing(c)) {
                    required.add(c.getName());
                }
            }
        }
    }

    private void defineRecord(Class<?> type, ObjectNode schema) {
        schema.put("type", "object");
        ObjectNode properties = schema.putObject("properties");
        ArrayNode required = schema.putArray("required");
        discriminator(type, properties, required);
        for (RecordComponent c : type.getRecordComponents()) {
            Method accessor = c.getAccessor();
            if (accessor.isAnnotationPresent(JsonIgnore.class)) {
                continue;
            }
            Shape.Of shape = c.getAnnotation(Shape.Of.class);
            properties.set(c.getName(), of(shape == null ? c.getGenericType() : shape.value()));
            if (!mayBeMissing(c)) {
                required.add(c.getName());
            }
        }
    }

    private static void discriminator(Class<?> type, ObjectNode properties, ArrayNode required) {
        for (Class<?> above : type.getInterfaces()) {
            discriminator(type, above, properties, required);
        }
    }

    /** The type's own interfaces and those above them. */
    private static void discriminator(Class<?> type, Class<?> above, ObjectNode properties, ArrayNode required) {
        for (Class<?> further : above.getInterfaces()) {
            discriminator(type, further, properties, required);
        }
        JsonTypeInfo info = above.getAnnotation(JsonTypeInfo.class);
        if (info == null) {
            return;
        }
        words(above).forEach((word, one) -> {
            if (one == type) {
                properties
                        .putObject(info.property())
                        .put("type", "string")
                        .putArray("enum")
                        .add(word);
                required.add(info.property());
            }
        });
    }

    /** What an interface may stand for, by the words that tell it; steps are as many as there are kinds of them. */
    private static Map<String, Class<?>> words(Class<?> type) {
        Map<String, Class<?>> words = new LinkedHashMap<>();
        JsonSubTypes subTypes = type.getAnnotation(JsonSubTypes.class);
        if (type == Step.class) {
            Kinds.all().forEach(kind -> words.put(kind.word(), kind.model()));
        } else if (subTypes != null) {
            Stream.of(subTypes.value()).forEach(sub -> words.put(sub.name(), sub.value()));
        }
        return words;
    }

    /** Absent, or left out where it is empty. */
    private static boolean mayBeMissing(RecordComponent c) {
        JsonInclude included = c.getAccessor().getAnnotation(JsonInclude.class);
        return isNullable(c) || included != null && included.value() == JsonInclude.Include.NON_EMPTY;
    }

    static boolean isNullable(RecordComponent c) {
        AnnotatedType type = c.getAnnotatedType();
        return type.isAnnotationPresent(Nullable.class)
                || List.of(c.getType().getAnnotations()).stream().anyMatch(a -> a.annotationType() == Nullable.class);
    }
}
