package dastur.core.finding;

import com.fasterxml.jackson.core.JsonProcessingException;
import com.fasterxml.jackson.databind.DeserializationFeature;
import com.fasterxml.jackson.databind.JsonNode;
import com.fasterxml.jackson.databind.ObjectReader;
import dastur.core.expression.Expressions;
import dastur.core.expression.Scope;
import dastur.core.expression.TextTemplate;
import dastur.core.expression.TextTemplate.Target;
import dastur.core.json.Json;
import dastur.core.json.SafeXml;
import dastur.core.json.Texts;
import dastur.core.ticket.Field;
import dastur.core.workflow.Action;
import dastur.core.workflow.Connection;
import dastur.core.workflow.Protocol;
import dastur.core.workflow.SentAs;
import dastur.core.workflow.SqlStatement;
import dastur.core.workflow.Walk;
import java.io.IOException;
import java.io.StringReader;
import java.time.Instant;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import org.xml.sax.InputSource;
import org.xml.sax.SAXException;

/** What is wrong with the body of an action: it must be what it claims to be, whatever is put into it (M2). */
final class BodyChecks {
    /** Nothing may stand behind the value. */
    private static final ObjectReader WHOLE =
            Json.mapper().reader().with(DeserializationFeature.FAIL_ON_TRAILING_TOKENS);

    /** A text that would break out of quotes if it were pasted rather than put in as a value. */
    private static final String AWKWARD = "a \"b\" \\ c\nd";

    private final Action action;
    private final Protocol protocol;
    private final Expressions expressions;
    private final ActionChecks found;

    BodyChecks(Action action, Connection over, Expressions expressions, ActionChecks found) {
        this.action = action;
        this.protocol = over.protocol();
        this.expressions = expressions;
        this.found = found;
    }

    void check() {
        String body = action.call().body();
        if (Texts.blank(body)) {
            switch (protocol) {
                case SSH ->
                    found.blocks("call.body", "command", "Say which command, word by word, such as [\"uptime\"].");
                case SQL -> found.blocks("call.body", "statement", "Say which statement, such as select now().");
                case LDAP ->
                    found.blocks("call.body", "entry", "Say which entry, such as {\"group\": {\"cn\": \"roster\"}}.");
                case WALK ->
                    found.blocks("call.body", "walk", "Say at least one step, such as Expect to see “Welcome”.");
                case HTTP, DNS, SFTP, SCRIPT -> {}
            }
            return;
        }
        if (protocol == Protocol.HTTP && action.call().method().equals("GET")) {
            found.warns("call.body", "body of a question", "A GET has no body that others read. Put it into the path.");
        }
        if (TextTemplate.parse(body).problem(expressions).isPresent()) {
            return;
        }
        if (protocol == Protocol.HTTP) {
            sentAs(body);
            return;
        }
        if (protocol == Protocol.SQL) {
            statement(body);
            return;
        }
        Optional<JsonNode> filled = json(body);
        if (filled.isEmpty()) {
            return;
        }
        if (protocol == Protocol.SCRIPT && !isWords(filled.get())) {
            found.blocks(
                    "call.body",
                    "arguments",
                    "Arguments are a list of texts, such as [\"{{ input.host }}\"], or no body.");
        }
        if (protocol == Protocol.SSH && (!isWords(filled.get()) || filled.get().isEmpty())) {
            found.blocks("call.body", "command", "A command is a list of words, such as [\"uptime\", \"-p\"].");
        }
        if (protocol == Protocol.WALK) {
            walk(filled.get());
        } else {
            secrets(filled.get());
        }
    }

    /** Whether it is a list of single values: a list among them would be no word. */
    private static boolean isWords(JsonNode body) {
        return body.isArray() && body.valueStream().allMatch(JsonNode::isValueNode);
    }

    /** What is typed as JSON, with its values in it; empty where it is none, which is told. */
    private Optional<JsonNode> json(String body) {
        Optional<JsonNode> filled = filled(body, true);
        if (filled.isEmpty()) {
            found.blocks(
                    "call.body",
                    "not JSON",
                    "Once its values are put in, this is no JSON. A text stands in quotes: \"{{ input.name }}\".");
        } else if (action.inputs().stream().anyMatch(f -> !f.required())
                && filled(body, false).isEmpty()) {
            found.blocks(
                    "call.body",
                    "not JSON",
                    "Where an input is left blank this is no JSON. Say what stands there then, such as"
                            + " {{ input.count ?? 0 }}, or make the input required.");
        }
        return filled;
    }

    /** What the header says that it is, it must be. */
    private void sentAs(String body) {
        SentAs as = SentAs.of(action.call().headers());
        if (as.isTypedAsJson()) {
            json(body).ifPresent(filled -> {
                if (as.body(action.call().headers(), filled.toString()).isEmpty()) {
                    found.blocks(
                            "call.body",
                            "not its values",
                            as == SentAs.FORM
                                    ? "A form is typed as a JSON object of texts, numbers, yes or no, or lists of them,"
                                            + " such as {\"name\": \"{{ input.name }}\"}."
                                    : "Parts are typed as a JSON object; each is a value, or a file as {\"file\": \"a.csv\","
                                            + " \"type\": \"text/csv\", \"text\": \"…\"}.");
                }
                secrets(filled);
            });
        } else if (as == SentAs.XML && !isXml(rendered(body, true, Target.XML))) {
            found.blocks(
                    "call.body",
                    "not XML",
                    "Once its values are put in, this is no XML without a document type. A value stands between tags or in an"
                            + " attribute's quotes.");
        }
    }

    private static boolean isXml(String text) {
        try {
            SafeXml.builder().parse(new InputSource(new StringReader(text)));
            return true;
        } catch (SAXException | IOException e) {
            return false;
        }
    }

    private void walk(JsonNode steps) {
        try {
            Walk walk = Walk.of(steps);
            if (!walk.checks()) {
                found.warns(
                        "call.body",
                        "walk",
                        "It checks nothing: say what is to be seen, or nobody knows whether it works.");
            }
            if (action.changesWorld() && action.repeat() != Action.Repeat.NEVER) {
                found.blocks(
                        "repeat",
                        "walk",
                        "A walk that changes something is never repeated by itself: pages know no key by which they would do it once.");
            }
        } catch (Walk.Unfit e) {
            found.blocks("call.body", "walk", String.valueOf(e.getMessage()));
        }
        if (action.timeLimit().roughSeconds() > Walk.MOST_SECONDS) {
            found.blocks("timeLimit", "too long", "A walk takes at most " + Walk.MOST_SECONDS + " seconds.");
        }
    }

    private void statement(String body) {
        String marked = TextTemplate.parse(body)
                .bound(
                        expressions,
                        Scope.of(Map.of("input", Map.of(), "call", Map.of("key", "k")), Instant.EPOCH),
                        SqlStatement.MARK)
                .text();
        SqlStatement.problem(marked, action.call().method()).ifPresent(p -> found.blocks("call.body", "statement", p));
        if (action.call().method().equals("CHANGE") && !action.changesWorld()) {
            found.blocks(
                    "call.method",
                    "changes",
                    "A CHANGE changes the world: say so below, so that approvals guard it, or make it a QUERY.");
        }
    }

    /** The body with awkward values in it. @param all whether inputs that may be blank are given too */
    private Optional<JsonNode> filled(String body, boolean all) {
        String text = rendered(body, all, Target.JSON);
        try {
            return Optional.of(WHOLE.readTree(text));
        } catch (JsonProcessingException e) {
            return Optional.empty();
        }
    }

    private String rendered(String body, boolean all, Target target) {
        Map<String, Object> inputs = new HashMap<>();
        action.inputs().stream().filter(f -> all || f.required()).forEach(f -> inputs.put(f.name(), sample(f)));
        Scope scope = Scope.of(Map.of("input", inputs, "call", Map.of("key", "key-1")), Instant.EPOCH);
        return TextTemplate.parse(body).render(expressions, scope, target).text();
    }

    private static Object sample(Field field) {
        return switch (field.type()) {
            case WHOLE -> 7L;
            case NUMBER -> 7.5;
            case YES_NO -> true;
            case CHOICE -> field.choices() == null ? AWKWARD : field.choices().getFirst();
            case TIME -> "2026-11-23T14:30:00Z";
            case LIST -> List.of("one", "two");
            case TEXT, LONG_TEXT, PERSON, GROUP, SERVICE, CI, ANY -> AWKWARD;
        };
    }

    private void secrets(JsonNode node) {
        node.properties().forEach(e -> {
            boolean literal = e.getValue().isTextual()
                    && ActionChecks.looksSecret(e.getValue().asText())
                    && action.call().body() != null
                    && action.call().body().contains(e.getValue().asText());
            if (literal && ActionChecks.SECRET_NAME.matcher(e.getKey()).matches()) {
                found.warns(
                        "call.body",
                        "secret in a text",
                        "A secret seems to stand at '" + Texts.clip(e.getKey(), 60)
                                + "', where all who design read it.");
            }
            secrets(e.getValue());
        });
    }
}
