package dastur.server;

import static org.assertj.core.api.Assertions.assertThat;

import com.fasterxml.jackson.databind.JsonNode;
import dastur.core.json.Json;
import java.net.URLEncoder;
import java.nio.charset.StandardCharsets;
import java.sql.Connection;
import java.sql.ResultSet;
import java.sql.SQLException;
import java.sql.Statement;
import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Random;
import java.util.Set;
import org.junit.jupiter.api.Test;

/**
 * Everything that writes, with bodies made from the description of the interface and then spoiled, by everybody: the answer is
 * never a fault of ours, and what was refused has changed nothing. The seed is always the same, so that one change is judged
 * like the next; {@code -Dfuzz.seed} takes another one ({@code new} for one never seen) and {@code -Dfuzz.requests} more of them.
 */
class FuzzTest extends OnDemo {
    private static final int REQUESTS = Integer.getInteger("fuzz.requests", 8_000);
    private static final int TOGETHER = 25;
    /** It ends some time though a server hangs; a slow machine is no fault. */
    private static final Duration MOST = Duration.ofSeconds(60 + REQUESTS / 30);

    private static final List<String> PEOPLE =
            List.of("ada", "runa", "teo", "priya", "ines", "mira", "halvard", "oskar");

    /** What would shut accounts or sign people out, move the clock, or take minutes. */
    private static final Set<String> LEFT_OUT = Set.of(
            "/api/session",
            "/api/session/as",
            "/api/session/see-as",
            "/api/setup",
            "/api/demo/clock",
            "/api/me/password",
            "/api/people/{id}",
            "/api/people/{id}/password",
            "/api/keeping/copies",
            "/api/keeping/audits");

    private static final List<String> TEXTS = List.of(
            "",
            " ",
            "ada",
            "runa",
            "I-1045",
            "I-1045.1.2",
            "C-301",
            "ALD-G1",
            "pier-technicians",
            "gate-stands-open",
            "incident",
            "Close the lane",
            "2026-03-01T08:00:00Z",
            "2026-13-45T99:00:00Z",
            "30 min",
            "-1 h",
            "{{ ticket.title }}",
            "{{",
            "ticket.impact == 1",
            "((((((((((",
            "1 / 0",
            "=cmd|' /C calc'!A0",
            "<script>alert(1)</script>",
            "' or '1'='1",
            "../../etc/passwd",
            "\u0000",
            "\ud800",
            "a\u202eb",
            "\ufeff",
            "x".repeat(5_000),
            "9".repeat(400),
            "null",
            "true");

    private final long seed = seed(System.getProperty("fuzz.seed", "20261128"));
    private final Random random = new Random(seed);
    private final JsonNode api3 = parsed(Main.describe());

    private record Op(String method, String path, JsonNode schema) {}

    private static long seed(String given) {
        return given.equals("new") ? System.nanoTime() : Long.parseLong(given);
    }

    private static JsonNode parsed(String text) {
        try {
            return Json.parse(text);
        } catch (com.fasterxml.jackson.core.JsonProcessingException e) {
            throw new IllegalStateException(e);
        }
    }

    private List<Op> writing() {
        List<Op> all = new ArrayList<>();
        api3.path("paths")
                .properties()
                .forEach(path -> path.getValue().properties().forEach(op -> {
                    if (!op.getKey().equals("get") && !LEFT_OUT.contains(path.getKey())) {
                        JsonNode content = op.getValue().path("requestBody").path("content");
                        all.add(new Op(
                                op.getKey().toUpperCase(java.util.Locale.ROOT),
                                path.getKey(),
                                content.path("application/json").path("schema")));
                    }
                }));
        return all;
    }

    @Test
    void nothingIsAnsweredByAFaultAndWhatIsRefusedChangesNothing() throws SQLException {
        System.out.println("fuzz seed " + seed);
        api.untilQuiet();
        PEOPLE.forEach(api::as);
        List<Op> ops = writing();
        assertThat(ops).hasSizeGreaterThan(60);
        Map<Integer, Integer> statuses = new HashMap<>();
        List<String> faults = new ArrayList<>();
        Instant end = Instant.now().plus(MOST);
        int done = 0;
        while (done < REQUESTS && Instant.now().isBefore(end)) {
            String before = state();
            boolean accepted = false;
            List<String> sent = new ArrayList<>();
            for (int i = 0; i < TOGETHER; i++, done++) {
                String person = PEOPLE.get(random.nextInt(PEOPLE.size()));
                Op op = ops.get(random.nextInt(ops.size()));
                String path = filled(op.path());
                String body = body(op);
                int status = status(person, op.method(), path, body);
                statuses.merge(status, 1, Integer::sum);
                accepted |= status < 400;
                String one = person + " " + op.method() + " " + path + " " + body + " → " + status;
                sent.add(one);
                if (status >= 500) {
                    faults.add(one.length() > 600 ? one.substring(0, 600) + "…" : one);
                }
            }
            if (!accepted && !before.equals(state())) {
                faults.add("refused, but something changed: " + sent);
            }
        }
        System.out.println("fuzz: " + done + " requests over " + ops.size() + " routes, answers " + statuses);
        assertThat(faults).as("seed %d", seed).isEmpty();
        assertThat(done).isEqualTo(REQUESTS);
        assertThat(statuses).containsKey(200).containsKey(422).containsKey(403);
    }

    /** What a refused request must not change. Not the rows of workers: they go on by themselves. */
    private static String state() throws SQLException {
        try (Connection connection = api.app().database().dataSource().getConnection();
                Statement statement = connection.createStatement();
                ResultSet rows = statement.executeQuery("select (select max(number) from journal),"
                        + " (select number from revision), (select count(*) from ticket), (select count(*) from run),"
                        + " (select count(*) from workflow_version), (select count(*) from document),"
                        + " (select count(*) from file_bytes), (select count(*) from api_token)")) {
            rows.next();
            StringBuilder state = new StringBuilder();
            for (int i = 1; i <= rows.getMetaData().getColumnCount(); i++) {
                state.append(rows.getString(i)).append(' ');
            }
            return state.toString();
        }
    }

    private static int status(String person, String method, String path, String body) {
        try {
            int status = api.call(person, method, path, body).status();
            if (status != 401) {
                return status;
            }
            // Signed out by something before.
            System.out.println("fuzz signed in again: " + person);
            api.signAnew(person);
            return api.call(person, method, path, body).status();
        } catch (IllegalStateException e) {
            // A connection that was closed behind an answer before; once more on another.
            return api.call(person, method, path, body).status();
        }
    }

    private String filled(String path) {
        StringBuilder filled = new StringBuilder();
        for (String part : path.substring(1).split("/")) {
            filled.append('/');
            if (part.startsWith("{")) {
                String value = random.nextInt(3) == 0 ? text() : known(part);
                filled.append(
                        URLEncoder.encode(value.isBlank() || value.length() > 500 ? "x" : value, StandardCharsets.UTF_8)
                                .replace("+", "%20"));
            } else {
                filled.append(part);
            }
        }
        return filled.toString();
    }

    private String known(String parameter) {
        return switch (parameter) {
            case "{number}" ->
                List.of("I-1043", "I-1044", "I-1045", "I-1046", "C-301", "R-201")
                        .get(random.nextInt(6));
            case "{key}" ->
                List.of("gate-stands-open", "frozen-departure-board", "lanes", "board-monitor", "gate-log")
                        .get(random.nextInt(5));
            default ->
                List.of("I-1045.1.2", "I-1043.1.1", "ada", "ALD-G1", "pier-technicians", "1", "gates")
                        .get(random.nextInt(7));
        };
    }

    private String body(Op op) {
        int how = random.nextInt(20);
        if (how == 0) {
            return List.of(
                            "",
                            "{",
                            "[]",
                            "null",
                            "\"x\"",
                            "{\"a\":",
                            "9".repeat(1_000),
                            "[".repeat(2_000),
                            "{\"a\":1}{")
                    .get(random.nextInt(9));
        }
        if (op.schema().isMissingNode()) {
            return how < 10 ? null : "{}";
        }
        String text = Json.write(value(op.schema(), 0));
        // A character of it is spoiled now and then.
        if (how == 1 && text.length() > 2) {
            int at = random.nextInt(text.length());
            return text.substring(0, at) + (char) (32 + random.nextInt(90)) + text.substring(at + 1);
        }
        return text;
    }

    private Object value(JsonNode schema, int depth) {
        if (random.nextInt(14) == 0) {
            return anything(depth);
        }
        if (schema.has("$ref")) {
            String name = schema.get("$ref").asText();
            JsonNode found = api3.path("components").path("schemas").path(name.substring(name.lastIndexOf('/') + 1));
            return depth > 6 ? null : value(found, depth + 1);
        }
        for (String choice : List.of("oneOf", "anyOf", "allOf")) {
            if (schema.has(choice)) {
                JsonNode of = schema.get(choice);
                return value(of.get(random.nextInt(of.size())), depth + 1);
            }
        }
        if (schema.has("enum")) {
            JsonNode of = schema.get("enum");
            return of.get(random.nextInt(of.size()));
        }
        JsonNode type = schema.path("type");
        String word = type.isArray() ? type.get(0).asText() : type.asText();
        return switch (word) {
            case "string" -> text();
            case "integer", "number" -> number();
            case "boolean" -> random.nextBoolean();
            case "array" -> {
                List<Object> items = new ArrayList<>();
                for (int i = random.nextInt(3); i > 0 && depth < 7; i--) {
                    items.add(value(schema.path("items"), depth + 1));
                }
                yield items;
            }
            case "object" -> object(schema, depth);
            default -> schema.has("properties") ? object(schema, depth) : anything(depth);
        };
    }

    private Map<String, Object> object(JsonNode schema, int depth) {
        Map<String, Object> object = new LinkedHashMap<>();
        schema.path("properties").properties().forEach(p -> {
            if (random.nextInt(8) > 0 && depth < 7) {
                object.put(p.getKey(), value(p.getValue(), depth + 1));
            }
        });
        if (schema.path("additionalProperties").isObject()) {
            for (int i = random.nextInt(3); i > 0; i--) {
                object.put(key(), value(schema.path("additionalProperties"), depth + 1));
            }
        }
        if (random.nextInt(20) == 0) {
            object.put(key(), anything(depth));
        }
        return object;
    }

    private String key() {
        return List.of("title", "impact", "state", "priority", "", "x.y", "a b", "__proto__", "lockNumber")
                .get(random.nextInt(9));
    }

    private Object number() {
        return List.<Object>of(0, 1, 2, 5, -1, 90, Integer.MAX_VALUE, Long.MIN_VALUE, 1.5, 1e300, "1")
                .get(random.nextInt(11));
    }

    private String text() {
        return TEXTS.get(random.nextInt(TEXTS.size()));
    }

    private Object anything(int depth) {
        return switch (random.nextInt(7)) {
            case 0 -> null;
            case 1 -> text();
            case 2 -> number();
            case 3 -> random.nextBoolean();
            case 4 -> List.of();
            case 5 -> depth > 4 ? "deep" : List.of(Map.of(key(), text()));
            default -> Map.of();
        };
    }
}
