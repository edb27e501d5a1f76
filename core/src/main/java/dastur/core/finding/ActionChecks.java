package dastur.core.finding;

import com.fasterxml.jackson.core.JsonPointer;
import dastur.core.expression.Expressions;
import dastur.core.expression.TextTemplate;
import dastur.core.expression.Vocabulary;
import dastur.core.json.Texts;
import dastur.core.ticket.Field;
import dastur.core.workflow.Action;
import dastur.core.workflow.Connection;
import dastur.core.workflow.Limit;
import dastur.core.workflow.Protocol;
import dastur.core.workflow.XmlPlace;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.HashSet;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.regex.Pattern;
import org.jspecify.annotations.Nullable;

/** What is wrong with an action before it is ever called (M2): each finding names the part of the action to mend. */
public final class ActionChecks {
    /** Those that say how the message itself is sent (RFC 9110, RFC 9112); they follow from what is sent. */
    private static final Set<String> NOT_OURS =
            Set.of("host", "connection", "content-length", "transfer-encoding", "expect", "upgrade", "te", "trailer");

    private static final Pattern HEADER = Pattern.compile("[!#$%&'*+.^_`|~0-9A-Za-z-]{1,100}");
    static final Pattern SECRET_NAME =
            Pattern.compile("(?i).*(authorization|password|passwd|secret|token|api-?_?key|credential).*");

    private final Action action;
    private final Protocol protocol;
    private final String connection;
    private final Expressions expressions;
    private final List<Finding> found = new ArrayList<>();

    private ActionChecks(Action action, Connection over) {
        this.action = action;
        this.protocol = over.protocol();
        this.connection = over.name();
        this.expressions = new Expressions(Vocabulary.ofAction(action));
    }

    /** @param over the connection the action names; its address is one that can be used */
    public static List<Finding> of(Action action, Connection over) {
        ActionChecks checks = new ActionChecks(action, over);
        checks.names();
        checks.limits();
        checks.script();
        checks.sent();
        checks.headers();
        new BodyChecks(action, over, checks.expressions, checks).check();
        checks.answer();
        checks.repeating();
        return List.copyOf(checks.found);
    }

    void blocks(String field, String code, String message) {
        found.add(new Finding(code, Finding.Severity.BLOCKS, null, null, field, message, null, null));
    }

    void warns(String field, String code, String message) {
        found.add(new Finding(code, Finding.Severity.WARNS, null, null, field, message, null, null));
    }

    private void names() {
        Set<String> inputs = new HashSet<>();
        for (Field input : action.inputs()) {
            if (!inputs.add(input.name())) {
                blocks("inputs", "name twice", "Two inputs are named '" + input.name() + "'. Name one otherwise.");
            }
        }
        Set<String> outputs = new HashSet<>();
        for (Action.Output output : action.outputs()) {
            if (!outputs.add(output.field().name())) {
                blocks(
                        "outputs",
                        "name twice",
                        "Two outputs are named '" + output.field().name() + "'. Name one otherwise.");
            }
        }
        if (!protocol.methods().contains(action.call().method())) {
            blocks(
                    "call.method",
                    "method",
                    "Over '" + connection + "' a call's method is " + String.join(", ", protocol.methods()) + ".");
        }
        if ((protocol == Protocol.HTTP || protocol == Protocol.SFTP || protocol == Protocol.WALK)
                && !action.call().path().startsWith("/")) {
            blocks(
                    "call.path",
                    "path",
                    protocol == Protocol.SFTP
                            ? "A path begins with /, which is the connection's root."
                            : "A path begins with /: it continues the connection's address, and could else name another host.");
        }
    }

    private void limits() {
        Map<String, Limit> limits = action.limits() == null ? Map.of() : action.limits();
        limits.forEach((name, limit) -> action.inputs().stream()
                .filter(i -> i.name().equals(name))
                .findFirst()
                .map(limit::problemWith)
                .orElse(Optional.of("There is no input '" + name + "' to be limited."))
                .ifPresent(problem -> blocks("limits." + name, "limit", problem)));
    }

    /** A script is named by whoever makes the action, never by a value. */
    private void script() {
        if (protocol == Protocol.SCRIPT && !action.call().path().matches("/[a-z0-9][a-z0-9._-]{0,79}")) {
            blocks(
                    "call.path",
                    "script",
                    "The path is the script's name behind a slash, such as /drain-host, without values.");
        }
    }

    private Map<String, String> texts() {
        Map<String, String> texts = new LinkedHashMap<>();
        texts.put("call.path", action.call().path());
        if (action.call().headers() != null) {
            action.call().headers().forEach((name, text) -> texts.put("call.headers." + name, text));
        }
        if (action.call().body() != null) {
            texts.put("call.body", action.call().body());
        }
        return texts;
    }

    /** Every inserted value exists, and every input is sent. */
    private void sent() {
        Map<String, String> texts = texts();
        texts.forEach((field, text) -> TextTemplate.parse(text)
                .problem(expressions)
                .ifPresent(p ->
                        blocks(field, "inserted value", p.message() + " It stands at column " + p.column() + ".")));
        for (Field input : action.inputs()) {
            Pattern named = Pattern.compile("\\binput\\." + Pattern.quote(input.name()) + "\\b");
            if (texts.values().stream().noneMatch(t -> named.matcher(t).find())) {
                warns(
                        "inputs",
                        "not sent",
                        "'" + input.label() + "' is asked for, and sent nowhere. Put {{ input." + input.name()
                                + " }} where it belongs, or leave the input out.");
            }
        }
    }

    private void headers() {
        Map<String, String> headers = action.call().headers();
        if (headers == null) {
            return;
        }
        Set<String> seen = new HashSet<>();
        headers.forEach((name, value) -> {
            String field = "call.headers." + name;
            String lower = name.toLowerCase(Locale.ROOT);
            if (!HEADER.matcher(name).matches()) {
                blocks(field, "header", "'" + Texts.clip(name, 60) + "' is no name of a header.");
            } else if (NOT_OURS.contains(lower)) {
                blocks(field, "header", "'" + name + "' follows from what is sent, and is not set by an action.");
            } else if (!seen.add(lower)) {
                blocks(field, "header", "'" + name + "' stands twice.");
            } else if (lower.equals("authorization")) {
                blocks(
                        field,
                        "secret in a text",
                        "How '" + connection
                                + "' is signed in to is said there, with a secret; leave this header out.");
            } else if (SECRET_NAME.matcher(name).matches() && looksSecret(value)) {
                blocks(
                        field,
                        "secret in a text",
                        "A secret seems to stand in the header '" + name
                                + "', where all who design read it. Keep it as a secret of the connection.");
            }
        });
    }

    static boolean looksSecret(String value) {
        return value.length() >= 6 && !value.contains("{{");
    }

    private void answer() {
        Map<String, String> places = new HashMap<>();
        for (Action.Output output : action.outputs()) {
            String label = output.field().label();
            pointer("outputs", "'" + label + "'", output.pointer());
            String other = places.put(output.pointer(), label);
            if (other != null) {
                blocks(
                        "outputs",
                        "place twice",
                        "'" + other + "' and '" + label + "' are both read from " + output.pointer()
                                + ". Give each its own place in the answer.");
            }
        }
        Set<String> results = new HashSet<>(Set.of("ok", "failed"));
        for (Action.OwnResult result : action.results()) {
            if (Texts.blank(result.name()) || !results.add(result.name())) {
                blocks(
                        "results",
                        "name twice",
                        "A further result needs a name of its own, beside ok and failed: '" + result.name() + "'.");
            }
            result(result);
        }
        Action.Poll poll = action.call().poll();
        if (poll != null) {
            pointer("call.poll", "where to ask", poll.linkAt());
            pointer("call.poll", "its state", poll.stateAt());
            if (poll.percentAt() != null) {
                pointer("call.poll", "how far it is", poll.percentAt());
            }
            if (poll.sayingAt() != null) {
                pointer("call.poll", "what it is at", poll.sayingAt());
            }
            if (poll.doneWhen().equals(poll.failedWhen())) {
                blocks("call.poll", "same state", "Done and failed are the same state; nobody could tell them apart.");
            }
            if (poll.every().roughSeconds() >= action.timeLimit().roughSeconds()) {
                blocks(
                        "timeLimit",
                        "too short",
                        "It is asked after every " + poll.every() + ", but over after " + action.timeLimit()
                                + ". Give it longer.");
            }
            if (protocol != Protocol.HTTP) {
                blocks("call.poll", "protocol", "Only over HTTP a long job is asked after.");
            }
        }
        pages(action.call().pages());
    }

    private void pages(Action.@Nullable Pages pages) {
        if (pages == null) {
            return;
        }
        pointer("call.pages", "the list of a page", pages.itemsAt());
        if (pages.nextAt() != null) {
            pointer("call.pages", "the next page", pages.nextAt());
        }
        if (pages.most() < 2 || pages.most() > Action.Pages.MOST) {
            blocks("call.pages", "pages", "At least 2 pages are asked for, and at most " + Action.Pages.MOST + ".");
        }
        if (protocol != Protocol.HTTP
                || !action.call().method().equals("GET")
                || action.call().poll() != null) {
            blocks("call.pages", "pages", "Only what a GET answers at once comes in pages.");
        }
    }

    private void result(Action.OwnResult result) {
        if (protocol != Protocol.HTTP || !result.isOfStatus()) {
            pointer("results", "the result '" + result.name() + "'", result.pointer());
        } else if (!Action.OwnResult.isResult(result.equal())) {
            blocks(
                    "results",
                    "status",
                    "The result '" + result.name()
                            + "' is told by a status that says no about what was asked for: 400 to 499, such as 404, and none that"
                            + " speaks of who asks or how often (401, 403, 407, 408, 429).");
        }
    }

    private void pointer(String field, String what, String pointer) {
        if (protocol == Protocol.HTTP && XmlPlace.is(pointer) && !field.startsWith("call.p")) {
            XmlPlace.problem(pointer).ifPresent(p -> blocks(field, "pointer", "Where " + what + " stands: " + p));
            return;
        }
        boolean fits = pointer.startsWith("/") && !pointer.matches(".*~(?![01]).*");
        if (fits) {
            JsonPointer.compile(pointer);
        } else {
            blocks(
                    field,
                    "pointer",
                    "Say where " + what + " stands in the answer: a JSON pointer (RFC 6901), such as /status"
                            + (protocol == Protocol.HTTP
                                    ? ", or of XML xpath: and an XPath, such as xpath://status."
                                    : "."));
        }
    }

    private void repeating() {
        boolean keySent = texts().values().stream().anyMatch(t -> t.contains("call.key"));
        if (action.repeat() == Action.Repeat.KEYED && !keySent) {
            blocks(
                    "repeat",
                    "key not sent",
                    "It is repeated under the same key, but the key is not sent: the other side would do it twice. Send"
                            + " {{ call.key }}, such as in the header Idempotency-Key.");
        }
    }
}
