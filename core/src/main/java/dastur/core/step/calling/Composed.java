package dastur.core.step.calling;

import dastur.core.expression.Expressions;
import dastur.core.expression.Scope;
import dastur.core.expression.TextTemplate;
import dastur.core.expression.TextTemplate.Target;
import dastur.core.expression.Vocabulary;
import dastur.core.json.Json;
import dastur.core.run.Event;
import dastur.core.workflow.Action;
import dastur.core.workflow.Protocol;
import dastur.core.workflow.SentAs;
import dastur.core.workflow.SqlStatement;
import java.time.Instant;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.TreeMap;

/** What an action says once it has its inputs: path, headers and body as they go out. */
public final class Composed {
    private Composed() {}

    /** A call outside any run. */
    public static Event.Call of(Action action, Map<String, Object> inputs, String key, long limit, Instant now) {
        return of(action, new Expressions(Vocabulary.ofAction(action)), inputs, key, limit, now);
    }

    /** @param expressions over the action's own vocabulary */
    static Event.Call of(
            Action action, Expressions expressions, Map<String, Object> inputs, String key, long limit, Instant now) {
        Scope scope = Scope.of(Map.of("input", inputs, "call", Map.of("key", key)), now);
        Map<String, String> headers = new LinkedHashMap<>();
        if (action.call().headers() != null) {
            new TreeMap<>(action.call().headers())
                    .forEach((name, text) -> headers.put(
                            name,
                            TextTemplate.parse(text)
                                    .render(expressions, scope, Target.PLAIN)
                                    .text()));
        }
        String body = action.call().body();
        String sent = null;
        if (body != null) {
            SentAs as = sentAs(action.call());
            String filled = body(action.call().method(), body, as, expressions, scope);
            SentAs.Body out = as.body(headers, filled).orElse(new SentAs.Body(as.type(), filled));
            sent = out.text();
            // What is JSON says so where it is sent, as it always did.
            if (as != SentAs.JSON) {
                headers.keySet().removeIf(SentAs.CONTENT_TYPE::equalsIgnoreCase);
                headers.put(SentAs.CONTENT_TYPE, out.type());
            }
        }
        return new Event.Call(
                action.connection(),
                action.call().method(),
                TextTemplate.parse(action.call().path())
                        .render(expressions, scope, path(action.call().method()))
                        .text(),
                headers,
                sent,
                action.call().poll(),
                action.outputs(),
                action.results(),
                limit,
                action.call().pages());
    }

    /** Only over HTTP a header says what the body is. */
    private static SentAs sentAs(Action.HttpCall call) {
        return Protocol.HTTP.methods().contains(call.method()) ? SentAs.of(call.headers()) : SentAs.JSON;
    }

    private static Target path(String method) {
        return Protocol.SFTP.methods().contains(method) ? Target.FILE : Target.URL;
    }

    private static String body(String method, String body, SentAs as, Expressions expressions, Scope scope) {
        TextTemplate text = TextTemplate.parse(body);
        if (!Protocol.SQL.methods().contains(method)) {
            return text.render(expressions, scope, as.target()).text();
        }
        TextTemplate.Bound bound = text.bound(expressions, scope, SqlStatement.MARK);
        try {
            String statement = SqlStatement.of(bound.text(), method).text();
            return Json.write(new SqlStatement.Sent(statement, bound.values(), null));
        } catch (SqlStatement.Unfit e) {
            return Json.write(new SqlStatement.Sent(null, List.of(), e.getMessage()));
        }
    }
}
