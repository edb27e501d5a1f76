package dastur.connectors;

import com.fasterxml.jackson.core.JsonProcessingException;
import com.fasterxml.jackson.databind.JsonNode;
import com.fasterxml.jackson.databind.node.ArrayNode;
import com.fasterxml.jackson.databind.node.ObjectNode;
import dastur.connectors.Answers.Definite;
import dastur.connectors.Answers.Doubtful;
import dastur.core.json.Json;
import dastur.core.json.Texts;
import dastur.core.run.Event;
import dastur.core.step.calling.CallingCommands.CallOutcome;
import dastur.core.workflow.Connection;
import java.io.IOException;
import java.net.URI;
import java.net.URLDecoder;
import java.nio.charset.StandardCharsets;
import java.time.Duration;
import java.util.List;
import org.jspecify.annotations.Nullable;
import org.xbill.DNS.DClass;
import org.xbill.DNS.Flags;
import org.xbill.DNS.Message;
import org.xbill.DNS.Name;
import org.xbill.DNS.Rcode;
import org.xbill.DNS.Record;
import org.xbill.DNS.Section;
import org.xbill.DNS.SimpleResolver;
import org.xbill.DNS.TSIG;
import org.xbill.DNS.TextParseException;
import org.xbill.DNS.Type;
import org.xbill.DNS.Update;

/**
 * Asks a name server and updates it. A query ({@code ASK}, path {@code /name/TYPE}) answers with the values; an update
 * ({@code UPDATE}, RFC 2136) puts the values of its body in place of all that stood there and answers with what it was
 * before. Updates are signed when the connection has a key (RFC 8945). To repeat an update does no harm.
 */
final class DnsConnector implements Connector {
    private static final int PORT = 53;
    private static final int MOST_VALUES = 100;

    /** What an update's body says. An empty list of values takes the name's records of this type away. */
    private record Change(Name zone, Name name, int type, long ttl, JsonNode values) {
        static Change read(@Nullable String body) throws Definite {
            try {
                JsonNode json = Json.parse(body == null ? "" : body);
                int type = Type.value(json.path("type").asText(""));
                if (type < 0
                        || !json.path("values").isArray()
                        || json.path("values").size() > MOST_VALUES) {
                    throw Definite.ours("An update names zone, name, type, ttl (seconds) and a list of values.");
                }
                return new Change(
                        absolute(json.path("zone").asText("")),
                        absolute(json.path("name").asText("")),
                        type,
                        json.path("ttl").asLong(300),
                        json.path("values"));
            } catch (JsonProcessingException e) {
                throw Definite.ours("The body of an update is JSON: zone, name, type, ttl and values.");
            }
        }
    }

    private static Name absolute(String text) throws Definite {
        try {
            return Name.fromString(text, Name.root);
        } catch (TextParseException e) {
            throw Definite.ours("'" + Texts.clip(text, 80) + "' is no name (RFC 1035).");
        }
    }

    /** Asks who answers for the root, which any name server has something to say to; an update would have to be made. */
    Greeted greet(Connection connection, @Nullable String secret, List<Event.Call> calls) throws Definite {
        try {
            server(connection, secret, Duration.ofSeconds(Greeter.SECONDS))
                    .send(Message.newQuery(Record.newRecord(Name.root, Type.NS, DClass.IN)));
        } catch (IOException e) {
            throw Definite.unreached("No connection to " + connection.name() + ".");
        }
        return new Greeted(
                Greeted.Says.YES,
                Greeted.Says.CANNOT_SAY,
                null,
                calls.stream()
                        .map(c -> c.method().equals("ASK")
                                ? Greeted.Given.YES
                                : Greeted.Given.cannotSay("Only an update would tell."))
                        .toList());
    }

    @Override
    public CallOutcome call(Event.Call call, Connection connection, @Nullable String secret, Heartbeat heartbeat) {
        long started = System.nanoTime();
        var scrub = Answers.scrub(secret);
        boolean changes = call.method().equals("UPDATE");
        try {
            SimpleResolver server = server(connection, secret, Duration.ofSeconds(call.limitSeconds()));
            JsonNode answer = changes ? update(server, Change.read(call.body())) : ask(server, call.path());
            long millis = (System.nanoTime() - started) / 1_000_000;
            String log = call.method() + " " + (changes ? call.body() : call.path()) + " → " + Json.write(answer)
                    + " in " + millis + " ms";
            heartbeat.answered(scrub.apply(answer.toString()));
            return Answers.done(call, answer, scrub, Texts.clip(log, Answers.MAX_LOGGED), millis, 0);
        } catch (Definite e) {
            return e.outcome(scrub);
        } catch (Doubtful e) {
            return new CallOutcome.Unknown(scrub.apply(e.getMessage()));
        } catch (IOException e) {
            return changes
                    ? new CallOutcome.Unknown(connection.name() + " did not answer within the time limit.")
                    : new CallOutcome.Failed(connection.name() + " did not answer within the time limit.", true);
        }
    }

    private static SimpleResolver server(Connection connection, @Nullable String secret, Duration limit)
            throws IOException, Definite {
        URI uri = URI.create(connection.base());
        SimpleResolver server = new SimpleResolver(uri.getHost());
        server.setPort(uri.getPort() < 0 ? PORT : uri.getPort());
        server.setTimeout(limit);
        // Answers of any length come whole; and nobody can put one in between.
        server.setTCP(true);
        if (secret != null) {
            String[] parts = secret.split(":", 2);
            if (parts.length != 2) {
                throw Definite.ours("The key of " + connection.name() + " is written name:base64.");
            }
            try {
                server.setTSIGKey(new TSIG(TSIG.HMAC_SHA256, parts[0], parts[1]));
            } catch (IllegalArgumentException e) {
                throw Definite.ours("The key of " + connection.name() + " is written name:base64.");
            }
        }
        return server;
    }

    private static JsonNode ask(SimpleResolver server, String path) throws IOException, Definite {
        String[] parts = path.replaceFirst("^/", "").split("/", 2);
        int type = Type.value(parts.length == 2 ? parts[1] : "A");
        if (type < 0) {
            throw Definite.ours("'" + Texts.clip(parts[1], 40) + "' is no type of records, such as A or TXT.");
        }
        return found(server, absolute(URLDecoder.decode(parts[0], StandardCharsets.UTF_8)), type);
    }

    private static ObjectNode found(SimpleResolver server, Name name, int type) throws IOException, Definite {
        Message query = Message.newQuery(Record.newRecord(name, type, DClass.IN));
        query.getHeader().setFlag(Flags.RD);
        Message response = server.send(query);
        int code = response.getRcode();
        if (code != Rcode.NOERROR && code != Rcode.NXDOMAIN) {
            throw new Definite("It answered " + Rcode.string(code) + ".");
        }
        ObjectNode answer = Json.mapper().createObjectNode();
        ArrayNode values = answer.putArray("values");
        for (Record r : response.getSection(Section.ANSWER)) {
            if (r.getType() == type) {
                values.add(r.rdataToString().replaceFirst("\\.$", ""));
                answer.put("ttl", r.getTTL());
            }
        }
        answer.put("found", !values.isEmpty());
        return answer;
    }

    /** Whoever cannot even be asked was not changed either. */
    private static JsonNode before(SimpleResolver server, Change change) throws Definite {
        try {
            return found(server, change.name(), change.type()).get("values");
        } catch (IOException e) {
            throw Definite.unreached("No connection to the name server.");
        }
    }

    private static JsonNode update(SimpleResolver server, Change change) throws IOException, Definite, Doubtful {
        JsonNode before = before(server, change);
        Update update = new Update(change.zone());
        update.delete(change.name(), change.type());
        for (JsonNode value : change.values()) {
            try {
                update.add(change.name(), change.type(), change.ttl(), value.asText());
            } catch (IOException e) {
                throw Definite.ours("'" + Texts.clip(value.asText(), 80) + "' is no value of a record of this type.");
            }
        }
        int code = server.send(update).getRcode();
        if (code == Rcode.SERVFAIL) {
            throw new Doubtful("It answered SERVFAIL.");
        }
        if (code != Rcode.NOERROR) {
            throw new Definite("It answered " + Rcode.string(code) + ": nothing was changed.");
        }
        ObjectNode answer = Json.mapper().createObjectNode();
        answer.set("before", before);
        answer.set("values", change.values());
        return answer;
    }
}
