package dastur.connectors;

import dastur.connectors.Answers.Definite;
import dastur.core.run.Event;
import dastur.core.workflow.Connection;
import dastur.core.workflow.Protocol;
import java.util.Collections;
import java.util.List;
import java.util.Map;
import org.jspecify.annotations.Nullable;

/** Finds out over a connection who answers, whether we are let in, and what of its actions' rights is given (M6). Nothing is done there. */
final class Greeter {
    /** How long one may take to say something. */
    static final long SECONDS = 10;

    static final Connector.Heartbeat ALIVE = () -> true;

    private Greeter() {}

    /** A call that asks for nothing but what the other side is. */
    static Event.Call call() {
        return new Event.Call("greeting", "OPTIONS", "/", Map.of(), null, null, List.of(), List.of(), SECONDS);
    }

    /** How a protocol is greeted. */
    interface Way {
        Greeted greet(Connection connection, @Nullable String secret, List<Event.Call> calls) throws Definite;
    }

    static Greeted greet(Way way, Connection connection, @Nullable String secret, List<Event.Call> calls) {
        var scrub = Answers.scrub(secret);
        try {
            Greeted said = way.greet(connection, secret, calls);
            return new Greeted(
                    said.reached(),
                    said.letIn(),
                    said.why(),
                    said.given().stream()
                            .map(g -> g.why() == null ? g : new Greeted.Given(g.says(), scrub.apply(g.why())))
                            .toList());
        } catch (Definite e) {
            return Greeted.broken(e, scrub, calls.size());
        }
    }

    /** A walk needs no more than that its pages are there; what its secret opens, only a walk tells. */
    static Greeted walk(HttpConnector http, Connection connection, int calls) throws Definite {
        Connection pages = new Connection(
                connection.key(),
                connection.name(),
                Protocol.walked(connection.base()),
                connection.allowedHosts(),
                null);
        Greeted there = http.greet(pages, null, List.of());
        return new Greeted(
                there.reached(),
                Greeted.Says.CANNOT_SAY,
                there.why(),
                Collections.nCopies(calls, Greeted.Given.cannotSay("Only a walk would tell.")));
    }
}
