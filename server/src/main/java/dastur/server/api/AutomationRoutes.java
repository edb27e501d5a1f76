package dastur.server.api;

import dastur.core.json.Texts;
import dastur.core.people.Right;
import dastur.core.workflow.Action;
import dastur.core.workflow.ActionKey;
import dastur.core.workflow.Connection;
import dastur.core.workflow.Protocol;
import dastur.server.http.Problem;
import dastur.server.http.Request;
import dastur.server.http.Route;
import dastur.store.SetUp;
import dastur.store.StoredSecrets;
import dastur.store.Workflows;
import java.time.InstantSource;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.stream.Stream;

/** Connections and actions: what machines do, and over what. */
final class AutomationRoutes {
    /** All that automation is made of. @param secrets the names of secrets that are there; never their values */
    record AutomationView(List<Connection> connections, List<Action> actions, List<String> secrets) {}

    private final Workflows workflows;
    private final SetUp setUp;
    private final StoredSecrets secrets;
    private final InstantSource clock;

    private AutomationRoutes(Workflows workflows, SetUp setUp, StoredSecrets secrets, InstantSource clock) {
        this.workflows = workflows;
        this.setUp = setUp;
        this.secrets = secrets;
        this.clock = clock;
    }

    static Stream<Route> of(Workflows workflows, SetUp setUp, StoredSecrets secrets, InstantSource clock) {
        AutomationRoutes r = new AutomationRoutes(workflows, setUp, secrets, clock);
        return Stream.of(
                Route.get("/api/automation", Right.SEE, "Connections and actions", AutomationView.class, r::automation),
                Route.put(
                        "/api/connections/{key}",
                        Right.ADMINISTER,
                        "Set a connection",
                        Connection.class,
                        null,
                        r::connection),
                Route.put("/api/actions/{key}", Right.DESIGN, "Set an action", Action.class, null, r::action));
    }

    private Object automation(Request q) {
        return new AutomationView(workflows.connections(), workflows.actions(), SecretRoutes.names(secrets));
    }

    private Object connection(Request q) {
        Connection connection = q.body(Connection.class);
        if (!q.context().pathParam("key").equals(connection.key())) {
            throw Problem.invalid("key", "A connection has the key it is stored under.")
                    .end();
        }
        Request.needed(connection.base(), "base");
        try {
            Texts.checkId("connection's key", connection.key());
            Protocol.of(connection.base());
        } catch (IllegalArgumentException e) {
            throw Problem.invalid("base", e.getMessage()).end();
        }
        SetUpRoutes.name(connection.name());
        if (connection.allowedHosts().stream().anyMatch(h -> !h.matches("[A-Za-z0-9.-]{1,253}(:\\d{1,5})?"))) {
            throw Problem.invalid("allowedHosts", "A host is a name or address, with a port where it has one.")
                    .end();
        }
        if (connection.secret() != null && !SecretRoutes.names(secrets).contains(connection.secret())) {
            throw Problem.invalid(
                            "secret",
                            "There is no secret '" + Texts.clip(connection.secret(), 60)
                                    + "'. Set it first, under Secrets.")
                    .end();
        }
        setUp.connection(Answers.by(q, clock), connection);
        return null;
    }

    /** Two outputs from one place are a slip: one of them would never hold what its name says. */
    private static void onePointerEach(Action action) {
        Map<String, String> places = new HashMap<>();
        for (Action.Output output : action.outputs()) {
            if (output.pointer().isEmpty() || !output.pointer().startsWith("/")) {
                throw Problem.invalid(
                                "outputs",
                                "Say where '" + output.field().label()
                                        + "' stands in the answer: a JSON pointer (RFC 6901), such as /status.")
                        .end();
            }
            String other = places.put(output.pointer(), output.field().label());
            if (other != null) {
                throw Problem.invalid(
                                "outputs",
                                "'" + other + "' and '" + output.field().label() + "' are both read from "
                                        + output.pointer() + ". Give each its own place in the answer.")
                        .end();
            }
        }
    }

    private Object action(Request q) {
        Action action = q.body(Action.class);
        if (!q.path("key", ActionKey::new).equals(action.key())) {
            throw Problem.invalid("key", "An action has the key it is stored under.")
                    .end();
        }
        SetUpRoutes.name(action.name());
        Connection connection = workflows.connection(action.connection()).orElseThrow(() -> Problem.invalid(
                        "connection", "There is no connection '" + action.connection() + "'.")
                .end());
        Request.needed(action.call(), "call");
        onePointerEach(action);
        List<String> methods = connection.protocol().methods();
        if (!methods.contains(action.call().method())) {
            throw Problem.invalid(
                            "call.method",
                            "Over '" + connection.name() + "' a call's method is " + String.join(", ", methods) + ".")
                    .end();
        }
        setUp.action(Answers.by(q, clock), action);
        return null;
    }
}
