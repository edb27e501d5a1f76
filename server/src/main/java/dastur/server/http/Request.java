package dastur.server.http;

import com.fasterxml.jackson.core.JsonProcessingException;
import com.fasterxml.jackson.databind.JsonMappingException;
import com.fasterxml.jackson.databind.JsonNode;
import com.fasterxml.jackson.databind.exc.UnrecognizedPropertyException;
import dastur.core.json.Json;
import dastur.core.json.Texts;
import dastur.core.people.Actor;
import dastur.core.people.Person;
import dastur.core.people.PersonId;
import dastur.core.record.Seal;
import io.javalin.http.Context;
import java.time.Instant;
import java.time.format.DateTimeParseException;
import java.util.Optional;
import java.util.UUID;
import java.util.function.Function;
import java.util.stream.Collectors;
import org.jspecify.annotations.Nullable;

/** One request, read safely: what cannot be read ends it with a problem that says where. */
public final class Request {
    /** No moment that is asked for lies here or later. */
    public static final Instant END = Instant.parse("9999-12-31T00:00:00Z");

    private final Context ctx;
    private final @Nullable Person person;
    private final @Nullable PersonId natural;

    /** @param natural who really asks, where somebody acts as the person because that one said so; else null */
    Request(Context ctx, @Nullable Person person, @Nullable PersonId natural) {
        this.ctx = ctx;
        this.person = person;
        this.natural = natural;
    }

    public Context context() {
        return ctx;
    }

    /** Who is asking; only on routes that need a right. */
    public Person person() {
        if (person == null) {
            throw Problem.notSignedIn().end();
        }
        return person;
    }

    public Optional<Person> personIfAny() {
        return Optional.ofNullable(person);
    }

    /** From where it comes, for limits. */
    public String address() {
        return Callers.address(ctx);
    }

    /** Both names, where somebody acts as the person. */
    public Actor actor() {
        PersonId id = person().id();
        return natural == null ? Actor.of(id) : new Actor.OfPerson(natural, id);
    }

    /** Room is left for what a command that does many things adds for each. */
    private static final int MAX_COMMAND = 80;

    /** The command's id: the client's, so that a repetition does nothing twice, or a fresh one. */
    public String commandId() {
        return commandId(null);
    }

    /** @param as whose command it is where nobody is signed in; null for the one who is */
    public String commandId(@Nullable PersonId as) {
        String given = ctx.header("Idempotency-Key");
        if (given == null) {
            return UUID.randomUUID().toString();
        }
        if (!given.matches("[A-Za-z0-9._-]{8,64}")) {
            throw Problem.malformed(
                            "Idempotency-Key",
                            "An Idempotency-Key has 8 to 64 letters, digits, dots, dashes or underscores.")
                    .end();
        }
        String own = (as == null ? person().id() : as) + "." + given;
        // A long name and a long key are more than is kept of a command's id.
        return own.length() <= MAX_COMMAND ? own : "hashed." + Seal.hash(own);
    }

    /** A path parameter as an id. */
    public <T> T path(String name, Function<String, T> type) {
        try {
            return type.apply(ctx.pathParam(name));
        } catch (IllegalArgumentException e) {
            throw Problem.notFound("There is nothing called '" + Texts.clip(ctx.pathParam(name), 60) + "'.")
                    .end();
        }
    }

    public Optional<String> query(String name) {
        return Optional.ofNullable(ctx.queryParam(name))
                .filter(v -> !v.isBlank())
                .map(v -> {
                    if (v.length() > 500) {
                        throw Problem.malformed(name, "The parameter '" + name + "' has at most 500 characters.")
                                .end();
                    }
                    return v;
                });
    }

    /** A moment in the query, of the years 1970 to 9999: what a database can compare. */
    public Optional<Instant> moment(String name) {
        return query(name).map(text -> {
            try {
                Instant moment = Instant.parse(text);
                if (!moment.isBefore(Instant.EPOCH) && moment.isBefore(END)) {
                    return moment;
                }
            } catch (DateTimeParseException e) {
                // Said below.
            }
            throw Problem.malformed(name, "'" + name + "' is a time such as 2026-11-23T14:30:00Z.")
                    .end();
        });
    }

    /** The body as a record. Unknown fields, wrong types and broken JSON end the request. */
    public <T> T body(Class<T> type) {
        String text = ctx.body();
        if (text.isBlank()) {
            throw Problem.malformed(null, "This needs a JSON body.").end();
        }
        try {
            JsonNode tree = Json.mapper().readTree(text);
            noEmptyPlaces(tree, "");
            T value = Json.mapper().treeToValue(tree, type);
            if (value == null) {
                throw Problem.malformed(null, "This needs a JSON object.").end();
            }
            Complete.missing(value).ifPresent(where -> {
                throw Problem.malformed(Texts.clip(where, 120), "'" + Texts.clip(where, 120) + "' is missing.")
                        .end();
            });
            return value;
        } catch (UnrecognizedPropertyException e) {
            throw Problem.malformed(
                            where(e),
                            "There is no field '" + Texts.clip(e.getPropertyName(), 60) + "' here. Known are: "
                                    + e.getKnownPropertyIds().stream()
                                            .map(String::valueOf)
                                            .sorted()
                                            .collect(Collectors.joining(", "))
                                    + ".")
                    .end();
        } catch (JsonMappingException e) {
            throw Problem.malformed(where(e), reason(e)).end();
        } catch (JsonProcessingException e) {
            throw Problem.malformed(
                            null,
                            e.getLocation() == null
                                    ? "This is not JSON that can be read: a number or a text in it is too long, or it is too deep."
                                    : "This is not JSON: broken in line "
                                            + e.getLocation().getLineNr() + ", column "
                                            + e.getLocation().getColumnNr() + ".")
                    .end();
        } catch (ArithmeticException | NumberFormatException e) {
            throw Problem.malformed(null, "A number in this is too long to be read.")
                    .end();
        }
    }

    /** No list of ours has places without a value, and no text the character that not every database keeps. */
    private static void noEmptyPlaces(JsonNode node, String where) {
        if (node.isTextual() && node.textValue().indexOf(0) >= 0) {
            throw Problem.malformed(Texts.clip(where, 120), "The character U+0000 cannot be kept; leave it out.")
                    .end();
        }
        if (node.isArray()) {
            for (int i = 0; i < node.size(); i++) {
                String place = where + "[" + i + "]";
                if (node.get(i).isNull()) {
                    throw Problem.malformed(Texts.clip(place, 120), "A list has no empty places.")
                            .end();
                }
                noEmptyPlaces(node.get(i), place);
            }
        } else if (node.isObject()) {
            node.properties().forEach(p -> {
                String place = where.isEmpty() ? p.getKey() : where + "." + p.getKey();
                if (p.getKey().indexOf(0) >= 0) {
                    throw Problem.malformed(
                                    Texts.clip(where, 120), "The character U+0000 cannot be kept; leave it out.")
                            .end();
                }
                noEmptyPlaces(p.getValue(), place);
            });
        }
    }

    /** What a model's own check said, or what is wrong with the type; never a class name. */
    private static String reason(JsonMappingException e) {
        for (Throwable cause = e.getCause(); cause != null; cause = cause.getCause()) {
            if (cause instanceof IllegalArgumentException
                    && cause.getMessage() != null
                    && !(cause instanceof NumberFormatException)
                    && !cause.getMessage().contains("java.")
                    && !cause.getMessage().contains("dastur.")) {
                return cause.getMessage();
            }
        }
        String where = where(e);
        return where == null
                ? "The body does not have the form this needs."
                : "'" + where + "' is missing or has the wrong type.";
    }

    private static @Nullable String where(JsonMappingException e) {
        StringBuilder path = new StringBuilder();
        for (JsonMappingException.Reference step : e.getPath()) {
            if (step.getFieldName() != null) {
                path.append(path.isEmpty() ? "" : ".").append(step.getFieldName());
            } else if (step.getIndex() >= 0) {
                path.append('[').append(step.getIndex()).append(']');
            }
        }
        return path.isEmpty() ? null : Texts.clip(path.toString(), 120);
    }

    /** A field of the body that must be there. */
    public static <T> T needed(@Nullable T value, String name) {
        if (value == null) {
            throw Problem.invalid(name, "'" + name + "' is needed.").end();
        }
        return value;
    }
}
