package dastur.connectors.relay;

import com.fasterxml.jackson.core.JsonParser;
import com.fasterxml.jackson.core.JsonProcessingException;
import com.fasterxml.jackson.databind.DeserializationFeature;
import com.fasterxml.jackson.databind.JsonNode;
import com.fasterxml.jackson.databind.ObjectMapper;
import dastur.core.json.Json;
import dastur.core.json.Texts;
import dastur.core.run.Event;
import dastur.core.workflow.Protocol;
import dastur.core.workflow.SqlStatement;
import dastur.core.workflow.ZoneKey;
import java.util.ArrayList;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Optional;
import java.util.regex.Pattern;
import java.util.regex.PatternSyntaxException;
import java.util.stream.Stream;
import org.jspecify.annotations.Nullable;

/**
 * What the file of a zone allows its relays (M13). The server cannot change it, and nothing that it does not name is ever done:
 * whoever takes over the server gets what stands here, with values that match, at these rates, and nothing else.
 *
 * @param connections by the name that the server's connections say
 * @param scripts by their names, which are those of files in the relay's folder of scripts
 */
public record Allowed(ZoneKey zone, Map<String, Place> connections, Map<String, Script> scripts) {
    /** What a {@code *} stands for in a command or an argument: never the beginning of an option, and nothing a shell reads. */
    public static final String PLAIN = "[A-Za-z0-9][A-Za-z0-9._:/-]{0,199}";

    private static final int MOST = 200_000;
    private static final int PER_MINUTE = 60;
    /** Headers that change neither who asks nor what is done. */
    private static final List<String> HEADERS =
            List.of("accept", "content-type", "idempotency-key", "if-match", "if-none-match");

    private static final String ONE_SEGMENT = "(?:[A-Za-z0-9._~:@=,+-]|%(?!2[fFeE]|5[cC]|00)[0-9A-Fa-f]{2})+";
    private static final ObjectMapper FILE = Json.mapper()
            .copy()
            .enable(JsonParser.Feature.ALLOW_COMMENTS)
            .enable(DeserializationFeature.FAIL_ON_UNKNOWN_PROPERTIES);

    /**
     * An outside system in the zone.
     *
     * @param address as the address of a connection that the server would use itself
     * @param hosts further hosts that answers may lead to
     * @param secret the name of a file in the relay's folder of secrets; null for none
     * @param headers further headers that may be sent along
     * @param perMinute how many calls a minute; 60 where it says nothing
     */
    public record Place(
            String address,
            @Nullable List<String> hosts,
            @Nullable String secret,
            @Nullable List<String> headers,
            List<Rule> allow,
            @Nullable Integer perMinute) {
        public int rate() {
            return perMinute == null ? PER_MINUTE : perMinute;
        }
    }

    /**
     * Calls that may be made.
     *
     * @param path for HTTP, SFTP and DNS; {@code *} stands for one part of it
     * @param words for a command over SSH, word by word; {@code *} stands for {@link #PLAIN}
     * @param statement for SQL: this one, with {@code ?} where values stand
     */
    public record Rule(
            String method,
            @Nullable String path,
            @Nullable List<String> words,
            @Nullable String statement) {}

    /**
     * A script of the relay's folder.
     *
     * @param arguments a regular expression for each; {@code *} stands for {@link #PLAIN}
     * @param secret the name of a file in the relay's folder of secrets, whose text it finds in {@code DASTUR_SECRET}
     */
    public record Script(
            List<String> arguments,
            @Nullable String secret,
            @Nullable Integer perMinute) {
        public int rate() {
            return perMinute == null ? PER_MINUTE : perMinute;
        }
    }

    /** The file cannot be used; the message says what to mend. */
    public static final class Unusable extends Exception {
        Unusable(String message) {
            super(message);
        }
    }

    /** Reads the file: JSON, in which comments may stand. */
    public static Allowed read(String text) throws Unusable {
        if (text.length() > MOST) {
            throw new Unusable("It is longer than " + MOST + " characters.");
        }
        Allowed read;
        try {
            read = FILE.readValue(text, Allowed.class);
        } catch (JsonProcessingException e) {
            throw new Unusable("It cannot be read: " + Texts.clip(e.getOriginalMessage(), 200)
                    + (e.getLocation() == null
                            ? ""
                            : " (line " + e.getLocation().getLineNr() + ")"));
        }
        if (read.zone() == null) {
            throw new Unusable("It does not say which zone it is for: \"zone\": \"…\".");
        }
        Allowed all = new Allowed(
                read.zone(),
                read.connections() == null ? Map.of() : Map.copyOf(read.connections()),
                read.scripts() == null ? Map.of() : Map.copyOf(read.scripts()));
        for (Map.Entry<String, Place> place : all.connections().entrySet()) {
            check(place.getKey(), place.getValue());
        }
        for (Map.Entry<String, Script> script : all.scripts().entrySet()) {
            check(script.getKey(), script.getValue());
        }
        return all;
    }

    private static void check(String name, Place place) throws Unusable {
        String at = "The connection '" + name + "' ";
        if (!Texts.isId(name) || place.address() == null || place.allow() == null || place.rate() < 1) {
            throw new Unusable(at + "needs a key as its name, an address, what it allows, and a rate above 0.");
        }
        Protocol protocol;
        try {
            protocol = Protocol.of(place.address());
        } catch (IllegalArgumentException e) {
            throw new Unusable(at + "has no address that can be used: " + e.getMessage());
        }
        if (place.address().startsWith(Protocol.RELAY)) {
            throw new Unusable(at + "leads to a relay again.");
        }
        for (Rule rule : place.allow()) {
            if (!protocol.methods().contains(String.valueOf(rule.method()))) {
                throw new Unusable(at + "allows '" + rule.method() + "', but over it a method is "
                        + String.join(", ", protocol.methods()) + ".");
            }
            boolean fits =
                    switch (protocol) {
                        case HTTP, SFTP, DNS ->
                            rule.path() != null && rule.path().startsWith("/");
                        case SSH -> rule.words() != null && !rule.words().isEmpty();
                        case SQL -> rule.statement() != null;
                        case LDAP -> true;
                        case SCRIPT, WALK -> false;
                    };
            if (!fits) {
                throw new Unusable(at + "allows " + rule.method()
                        + " without saying which: a path, the words of a command, or a statement.");
            }
        }
    }

    private static void check(String name, Script script) throws Unusable {
        if (!name.matches("[a-z0-9][a-z0-9._-]{0,79}") || script.arguments() == null || script.rate() < 1) {
            throw new Unusable(
                    "The script '" + name
                            + "' needs a name of small letters, digits, dots and dashes, a list of its arguments (may be []), and a rate above 0.");
        }
        try {
            script.arguments().stream().filter(a -> !a.equals("*")).forEach(Pattern::compile);
        } catch (PatternSyntaxException e) {
            throw new Unusable(
                    "An argument of the script '" + name + "' is no regular expression: " + e.getDescription());
        }
    }

    /** How many calls a minute may be made of what a call names. */
    public int rate(String connection, Event.Call call) {
        Place place = connections.get(connection);
        Script script = scripts.get(script(call));
        return place != null ? place.rate() : script != null ? script.rate() : PER_MINUTE;
    }

    /** The script that a call names. */
    public static String script(Event.Call call) {
        return call.path().startsWith("/") ? call.path().substring(1) : call.path();
    }

    /** Why a call is not made; empty where the file allows it. */
    public Optional<String> refusal(String connection, Event.Call call) {
        if (Protocol.SCRIPT.methods().contains(call.method())) {
            return scriptRefusal(call);
        }
        Place place = connections.get(connection);
        if (place == null) {
            return Optional.of("The file of the zone names no connection '" + Texts.clip(connection, 80) + "'.");
        }
        Protocol protocol = Protocol.of(place.address());
        if (!protocol.methods().contains(call.method())) {
            return Optional.of("'" + connection + "' is not spoken to so: over it a method is "
                    + String.join(", ", protocol.methods()) + ".");
        }
        Optional<String> header = call.headers().keySet().stream()
                .filter(h -> !HEADERS.contains(h.toLowerCase(Locale.ROOT)))
                .filter(h -> place.headers() == null || place.headers().stream().noneMatch(h::equalsIgnoreCase))
                .findFirst();
        if (header.isPresent()) {
            return Optional.of(
                    "The file of the zone does not allow the header '" + Texts.clip(header.get(), 60) + "'.");
        }
        boolean allowed = place.allow().stream().anyMatch(rule -> allows(protocol, rule, call));
        return allowed
                ? Optional.empty()
                : Optional.of("The file of the zone does not allow " + call.method() + " "
                        + Texts.clip(what(protocol, call), 120) + " over '" + connection + "'.");
    }

    private static String what(Protocol protocol, Event.Call call) {
        return switch (protocol) {
            case SSH, SQL, LDAP -> call.body() == null ? "" : call.body();
            case HTTP, SFTP, DNS, SCRIPT, WALK -> call.path();
        };
    }

    private static boolean allows(Protocol protocol, Rule rule, Event.Call call) {
        if (!rule.method().equals(call.method())) {
            return false;
        }
        return switch (protocol) {
            case HTTP, DNS -> fits(rule.path(), call.path(), ONE_SEGMENT);
            case SFTP -> fits(rule.path(), call.path(), "[^/\\\\\\p{Cntrl}]+");
            case SSH -> words(rule.words(), call.body());
            case SQL -> statement(rule.statement(), call.body());
            case LDAP -> true;
            case SCRIPT, WALK -> false;
        };
    }

    /** Whether a long job may be asked after at this path over a connection. */
    public boolean mayAsk(String connection, String path) {
        return may(connection, "GET", path);
    }

    /** Whether a long job may be told to end at a path of a connection. */
    public boolean mayCancel(String connection, String path) {
        return may(connection, "DELETE", path);
    }

    private boolean may(String connection, String method, String path) {
        Place place = connections.get(connection);
        return place != null
                && place.allow().stream().anyMatch(r -> r.method().equals(method) && fits(r.path(), path, ONE_SEGMENT));
    }

    private static boolean fits(@Nullable String pattern, String path, String one) {
        if (pattern == null || (path + "/").contains("/./") || (path + "/").contains("/../")) {
            return false;
        }
        StringBuilder regex = new StringBuilder();
        for (String part : pattern.split("\\*", -1)) {
            regex.append(regex.isEmpty() ? "" : one).append(Pattern.quote(part));
        }
        return Pattern.matches(regex.toString(), path);
    }

    private static boolean words(@Nullable List<String> patterns, @Nullable String body) {
        Optional<List<String>> words = texts(body);
        return patterns != null && words.isPresent() && all(patterns, words.get(), true);
    }

    /** @param literal whether a pattern stands for itself, unless it is a star */
    private static boolean all(List<String> patterns, List<String> values, boolean literal) {
        if (patterns.size() != values.size()) {
            return false;
        }
        for (int i = 0; i < patterns.size(); i++) {
            String pattern = patterns.get(i);
            boolean fits = pattern.equals("*")
                    ? Pattern.matches(PLAIN, values.get(i))
                    : literal ? pattern.equals(values.get(i)) : Pattern.matches(pattern, values.get(i));
            if (!fits) {
                return false;
            }
        }
        return true;
    }

    private static boolean statement(@Nullable String allowed, @Nullable String body) {
        try {
            String sent = body == null
                    ? null
                    : Json.mapper().readValue(body, SqlStatement.Sent.class).statement();
            return allowed != null && sent != null && spaced(allowed).equals(spaced(sent));
        } catch (JsonProcessingException e) {
            return false;
        }
    }

    private static String spaced(String statement) {
        return statement.strip().replaceAll("\\s+", " ");
    }

    private Optional<String> scriptRefusal(Event.Call call) {
        Script script = scripts.get(script(call));
        if (script == null) {
            return Optional.of("The file of the zone names no script '" + Texts.clip(script(call), 80) + "'.");
        }
        Optional<List<String>> arguments = call.body() == null ? Optional.of(List.of()) : texts(call.body());
        return arguments.isPresent() && all(script.arguments(), arguments.get(), false)
                ? Optional.empty()
                : Optional.of("The arguments are not what the file of the zone allows '" + script(call) + "'.");
    }

    /** A JSON list of texts; empty where it is none. */
    public static Optional<List<String>> texts(@Nullable String body) {
        try {
            JsonNode list = body == null ? null : Json.parse(body);
            if (list == null || !list.isArray()) {
                return Optional.empty();
            }
            List<String> texts = new ArrayList<>();
            for (JsonNode one : list) {
                if (!one.isValueNode() || one.isNull()) {
                    return Optional.empty();
                }
                texts.add(one.asText());
            }
            return Optional.of(texts);
        } catch (JsonProcessingException e) {
            return Optional.empty();
        }
    }

    /** What it allows, line by line, for people. */
    public List<String> told() {
        List<String> lines = new ArrayList<>();
        connections.entrySet().stream().sorted(Map.Entry.comparingByKey()).forEach(c -> c.getValue()
                .allow()
                .forEach(r -> lines.add(c.getKey() + ": " + r.method() + " "
                        + (r.path() != null
                                ? r.path()
                                : r.words() != null
                                        ? String.join(" ", r.words())
                                        : r.statement() != null ? spaced(r.statement()) : "any entry")
                        + ", " + c.getValue().rate() + " a minute")));
        scripts.entrySet().stream()
                .sorted(Map.Entry.comparingByKey())
                .forEach(s -> lines.add(String.join(
                                " ",
                                Stream.concat(Stream.of("script", s.getKey()), s.getValue().arguments().stream())
                                        .toList())
                        + ", " + s.getValue().rate() + " a minute"));
        return lines;
    }
}
