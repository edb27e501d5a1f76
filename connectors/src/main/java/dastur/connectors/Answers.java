package dastur.connectors;

import com.fasterxml.jackson.core.JsonProcessingException;
import com.fasterxml.jackson.databind.JsonNode;
import com.fasterxml.jackson.databind.node.ObjectNode;
import dastur.core.json.Json;
import dastur.core.json.Texts;
import dastur.core.run.Event;
import dastur.core.step.calling.CallingCommands.CallOutcome;
import dastur.core.ticket.Field;
import dastur.core.ticket.FieldType;
import dastur.core.workflow.Action;
import dastur.core.workflow.XmlPlace;
import java.nio.charset.StandardCharsets;
import java.util.LinkedHashMap;
import java.util.Map;
import java.util.Optional;
import java.util.function.UnaryOperator;
import java.util.regex.Matcher;
import java.util.regex.Pattern;
import org.jspecify.annotations.Nullable;

/** Reads what an action wants out of an answer; the same for every protocol, since each answers in JSON's shapes. */
final class Answers {
    static final int MAX_ANSWER = 1_000_000;
    static final int MAX_LOGGED = 2_000;

    /** How many bytes a command said on each of its ways: where these are more than an answer may have, only the beginning is there. */
    private static final String CAME = "came";

    /** Where in what a command answers is the output, of which there may be more. */
    private static final Pattern OF_OUTPUT = Pattern.compile("/(out|err|lines|json)(/.*)?");

    /** It certainly failed: the other side said no, or nothing was sent. */
    static class Definite extends Exception {
        private final boolean ours;
        private final boolean unreached;

        Definite(String message) {
            this(message, false, false);
        }

        private Definite(String message, boolean ours, boolean unreached) {
            super(message);
            this.ours = ours;
            this.unreached = unreached;
        }

        /** Nobody was there to say anything. */
        static Definite unreached(String message) {
            return new Definite(message, false, true);
        }

        /** What is wrong is on this side, and nothing was sent: another try would meet the same. */
        static Definite ours(String message) {
            return new Definite(message, true, false);
        }

        /** Whether what is wrong is on this side, so that nobody was asked. */
        boolean isOurs() {
            return ours;
        }

        /** Whether nobody was there to say anything. */
        boolean isUnreached() {
            return unreached;
        }

        CallOutcome outcome(UnaryOperator<String> scrub) {
            String why = scrub.apply(getMessage());
            return ours ? new CallOutcome.Fault(why, false) : new CallOutcome.Failed(why, unreached);
        }
    }

    /** It said no with a status that is a result of the action's own. */
    static final class OwnNo extends Definite {
        private final String result;

        OwnNo(String result, String message) {
            super(message);
            this.result = result;
        }

        String result() {
            return result;
        }
    }

    /** Nobody knows. */
    static final class Doubtful extends Exception {
        Doubtful(String message) {
            super(message);
        }
    }

    private Answers() {}

    /** Takes a secret out of a text. */
    static UnaryOperator<String> scrub(@Nullable String secret) {
        return text -> Scrubbing.whole(secret, text);
    }

    /** The action's own result that an answer means; empty for none. */
    static Optional<String> ownResult(Event.Call call, JsonNode answer) {
        return call.results().stream().filter(r -> means(answer, r)).findFirst().map(Action.OwnResult::name);
    }

    private static boolean means(JsonNode answer, Action.OwnResult result) {
        if (result.isOfStatus()) {
            return false;
        }
        try {
            return at(answer, result.pointer(), FieldType.TEXT).asText("").equals(result.equal());
        } catch (XmlPlace.Unread e) {
            return false;
        }
    }

    /** What stands at a place: by JSON Pointer (RFC 6901), or in an answer that is XML by XPath. */
    private static JsonNode at(JsonNode answer, String place, FieldType as) throws XmlPlace.Unread {
        return XmlPlace.is(place) ? XmlPlace.read(answer.path("text").asText(""), place, as) : answer.at(place);
    }

    private static JsonNode at(JsonNode answer, Action.Output output) throws Doubtful {
        try {
            return at(answer, output.pointer(), output.field().type());
        } catch (XmlPlace.Unread e) {
            throw new Doubtful("It said yes, but " + output.field().label() + " cannot be read: " + e.getMessage());
        }
    }

    /**
     * What an answer that said yes gives.
     *
     * <p>A text that is longer than its output holds is left out, and the log says so: what it says can be told by nobody, but that
     * the call came to its result is known (M4). It is never cut, since what judges it would judge by a part.
     *
     * @throws Doubtful when a required output is missing or none of its kind: the other side has said yes, so it has
     *     happened, or may have; that we cannot read what came of it does not make it a failure (D13)
     */
    static CallOutcome.Done done(
            Event.Call call, JsonNode answer, UnaryOperator<String> scrub, String log, long millis, int polls)
            throws Doubtful {
        Map<String, Object> outputs = new LinkedHashMap<>();
        StringBuilder tooLong = new StringBuilder();
        checkResults(call, answer);
        for (Action.Output output : call.outputs()) {
            JsonNode value = at(answer, output);
            long came = cut(answer, output.pointer());
            if (came > 0) {
                tooLong.append("“")
                        .append(output.field().label())
                        .append("” is left out: ")
                        .append(came)
                        .append(" bytes were said, more than are read.\n");
            } else if (isText(output.field()) && output.field().isTooLong(value.asText())) {
                tooLong.append("“")
                        .append(output.field().label())
                        .append("” is left out: it has ")
                        .append(value.asText().length())
                        .append(" characters, more than it holds.\n");
            } else if (!value.isMissingNode() && !value.isNull()) {
                outputs.put(output.field().name(), typed(output.field(), value, scrub));
            } else if (output.field().required()) {
                throw new Doubtful("It said yes, but the answer lacks '"
                        + output.field().label() + "' at " + output.pointer() + ".");
            }
        }
        return new CallOutcome.Done(
                ownResult(call, answer).orElse("ok"),
                outputs,
                said(answer, "reference", 200, scrub).orElse(null),
                said(answer, "link", 500, scrub)
                        .filter(t -> t.startsWith("http"))
                        .orElse(null),
                tooLong + scrub.apply(log),
                millis,
                polls);
    }

    /** What a command answers: its status, its output as a text and as lines and, where it is JSON, with that. */
    static ObjectNode ofCommand(int status, Heard out, Heard err) {
        ObjectNode answer =
                ofCommand(status, out.toString(StandardCharsets.UTF_8), err.toString(StandardCharsets.UTF_8));
        ObjectNode came = answer.putObject(CAME);
        came.put("out", out.came());
        came.put("err", err.came());
        return answer;
    }

    private static ObjectNode ofCommand(int status, String out, String err) {
        ObjectNode answer = Json.mapper().createObjectNode();
        answer.put("status", status);
        answer.put("out", out);
        answer.put("err", err);
        answer.set("lines", Json.tree(out.lines().toList()));
        try {
            JsonNode parsed = Json.parse(out);
            if (parsed.isContainerNode()) {
                answer.set("json", parsed);
            }
        } catch (JsonProcessingException e) {
            // Its output is a text, as it is of most commands.
        }
        return answer;
    }

    /** How many bytes came of what a place reads; 0 where all that came is there. */
    private static long cut(JsonNode answer, String pointer) {
        Matcher of = OF_OUTPUT.matcher(pointer);
        if (!of.matches()) {
            return 0;
        }
        long came = answer.path(CAME)
                .path(of.group(1).equals("err") ? "err" : "out")
                .asLong();
        return came > MAX_ANSWER ? came : 0;
    }

    /** @throws Doubtful when a result of the action is told by what was read in part: it is never judged by that */
    private static void checkResults(Event.Call call, JsonNode answer) throws Doubtful {
        for (Action.OwnResult result : call.results()) {
            long came = cut(answer, result.pointer());
            if (came > 0) {
                throw new Doubtful("It said " + came
                        + " bytes, more than are read, so that nobody can tell which result it means.");
            }
        }
    }

    /** @throws Definite when a command's status says that it failed, and no result of the action means it */
    static void checkStatus(Event.Call call, JsonNode answer) throws Definite {
        int status = answer.get("status").asInt();
        if (status != 0 && ownResult(call, answer).isEmpty()) {
            throw new Definite("It ended with status " + status + ": "
                    + Texts.clip((answer.get("err").asText() + answer.get("out").asText()).strip(), 200));
        }
    }

    private static Optional<String> said(JsonNode answer, String name, int most, UnaryOperator<String> scrub) {
        return Optional.of(answer.path(name).asText(""))
                .filter(t -> !t.isBlank())
                .map(t -> Texts.clip(scrub.apply(t), most));
    }

    private static boolean isText(Field field) {
        return field.type() == FieldType.TEXT || field.type() == FieldType.LONG_TEXT;
    }

    private static Object typed(Field field, JsonNode value, UnaryOperator<String> scrub) throws Doubtful {
        Object plain = isText(field) ? value.asText() : Json.plain(value);
        Object clean = plain instanceof String text ? scrub.apply(text) : plain;
        Optional<String> problem = field.problemWith(clean);
        if (problem.isPresent()) {
            throw new Doubtful("It said yes, but in the answer " + problem.get());
        }
        return clean;
    }
}
