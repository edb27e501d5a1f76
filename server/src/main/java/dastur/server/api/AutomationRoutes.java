package dastur.server.api;

import dastur.connectors.Greeted;
import dastur.core.json.Texts;
import dastur.core.people.Right;
import dastur.core.workflow.Action;
import dastur.core.workflow.ActionKey;
import dastur.core.workflow.Connection;
import dastur.core.workflow.Protocol;
import dastur.core.workflow.SignIn;
import dastur.core.workflow.TermsOfUse;
import dastur.server.App;
import dastur.server.http.Problem;
import dastur.server.http.Request;
import dastur.server.http.Route;
import dastur.server.machines.Greetings;
import dastur.server.work.Breakers;
import dastur.store.ByHand;
import dastur.store.CallsMade;
import dastur.store.Relays;
import dastur.store.SetUp;
import dastur.store.StoredSecrets;
import dastur.store.Workflows;
import java.net.URI;
import java.time.Instant;
import java.time.InstantSource;
import java.util.List;
import java.util.Map;
import java.util.stream.Stream;
import org.jspecify.annotations.Nullable;

/** Connections and actions: what machines do, and over what. */
final class AutomationRoutes {
    /**
     * All that automation is made of.
     *
     * @param secrets the names of secrets that are there; never their values
     * @param uses by how many live workflows an action is used, by its key
     * @param figures how an action's calls of the last thirty days went, by its key
     * @param health how calls over a connection went, by its key
     * @param held connections whose calls wait, by their keys
     * @param terms who answers for actions, who may use them and where, of those for which something was said
     */
    record AutomationView(
            List<Connection> connections,
            List<Action> actions,
            List<String> secrets,
            Map<ActionKey, Integer> uses,
            Map<ActionKey, CallsMade.Figures> figures,
            Map<String, CallsMade.Figures> health,
            Map<String, Breakers.Held> held,
            List<TermsOfUse> terms) {}

    /** @param held whether calls are to wait; else they are let out */
    record HoldBody(boolean held, String why) {}

    /** @param says whether it is given @param why not, or why that cannot be said; null where there is nothing to say */
    record NeedView(
            ActionKey action,
            String name,
            String needs,
            Greeted.Says says,
            @Nullable String why) {}

    /** @param why nobody answers, or lets us in; null where all is well or nothing is known @param millis how long it took */
    record TestView(
            Greeted.Says reached,
            Greeted.Says letIn,
            @Nullable String why,
            long millis,
            List<NeedView> needs) {}

    private static final int MOST_WHY = 500;
    private static final int MOST_NEEDS = 160;

    private final Workflows workflows;
    private final SetUp setUp;
    private final StoredSecrets secrets;
    private final InstantSource clock;
    private final App.Machines machines;
    private final Relays relays;

    private AutomationRoutes(
            Workflows workflows,
            SetUp setUp,
            StoredSecrets secrets,
            InstantSource clock,
            App.Machines machines,
            Relays relays) {
        this.workflows = workflows;
        this.setUp = setUp;
        this.secrets = secrets;
        this.clock = clock;
        this.machines = machines;
        this.relays = relays;
    }

    static Stream<Route> of(
            Workflows workflows,
            SetUp setUp,
            StoredSecrets secrets,
            InstantSource clock,
            App.Machines machines,
            Relays relays) {
        AutomationRoutes r = new AutomationRoutes(workflows, setUp, secrets, clock, machines, relays);
        return Stream.of(
                Route.get("/api/automation", Right.SEE, "Connections and actions", AutomationView.class, r::automation),
                Route.put(
                        "/api/connections/{key}",
                        Right.ADMINISTER,
                        "Set a connection",
                        Connection.class,
                        null,
                        r::connection),
                Route.post(
                        "/api/connections/{key}/test",
                        Right.DESIGN,
                        "Test a connection: who answers, whether we are let in, and what of its actions' rights is given",
                        null,
                        TestView.class,
                        r::test),
                Route.put(
                        "/api/connections/{key}/calls",
                        Right.ADMINISTER,
                        "Hold the calls over a connection back, or let them out",
                        HoldBody.class,
                        null,
                        r::hold));
    }

    private Object automation(Request q) {
        Instant since = clock.instant().minus(CallsMade.KEPT);
        return new AutomationView(
                workflows.connections(),
                workflows.actions(),
                SecretRoutes.names(secrets),
                machines.actions().uses(),
                machines.made().ofActions(since),
                machines.made().overConnections(since),
                machines.breakers().held(),
                workflows.terms());
    }

    private Object test(Request q) {
        String key = q.context().pathParam("key");
        Connection over = workflows.connection(key).orElseThrow(() -> Problem.notFound(
                        "There is no connection '" + Texts.clip(key, 60) + "'.")
                .end());
        if (!machines.greetings().hasSecret(over)) {
            throw Problem.conflict("The secret '" + over.secret() + "' of '" + over.name() + "' is not set.")
                    .end();
        }
        List<Action> actions = workflows.actions().stream()
                .filter(a -> a.connection().equals(key))
                .toList();
        Greetings.Tested tested = machines.greetings().test(over, actions).orElseThrow(() -> Problem.tooFast(
                        "Four connections are being tested already.")
                .end());
        return new TestView(
                tested.greeted().reached(),
                tested.greeted().letIn(),
                tested.greeted().why(),
                tested.millis(),
                tested.needs().stream()
                        .map(n -> new NeedView(
                                n.action().key(),
                                n.action().name(),
                                needs(n.action(), over),
                                n.given().says(),
                                n.given().why()))
                        .toList());
    }

    /** What an action needs, in the words of its protocol. */
    private static String needs(Action action, Connection over) {
        String body = action.call().body() == null ? "" : action.call().body();
        String said =
                switch (over.protocol()) {
                    case HTTP, DNS, SFTP ->
                        action.call().method() + " " + action.call().path();
                    case SQL -> body.strip();
                    case SSH, SCRIPT, LDAP -> action.call().method() + " " + body.strip();
                    case WALK -> "the pages from " + action.call().path() + " on";
                };
        return Texts.clip(said, MOST_NEEDS);
    }

    private Object hold(Request q) {
        HoldBody body = q.body(HoldBody.class);
        String key = q.context().pathParam("key");
        workflows.connection(key).orElseThrow(() -> Problem.notFound(
                        "There is no connection '" + Texts.clip(key, 60) + "'.")
                .end());
        String why = Texts.clip(Request.needed(body.why(), "why").strip(), MOST_WHY);
        if (why.isEmpty()) {
            throw Problem.invalid("why", "Say why: whoever waits for a call reads it.")
                    .end();
        }
        setUp.calls(
                Answers.by(q, clock), key, new ByHand(body.held(), q.person().id(), clock.instant(), why));
        machines.breakers().readAnew();
        return null;
    }

    private static void signIn(Connection connection, SignIn how) {
        if (connection.protocol() != Protocol.HTTP || connection.inZone().isPresent()) {
            throw Problem.invalid("signIn", "Only over HTTP it is said how the secret is used.")
                    .end();
        }
        if (connection.secret() == null) {
            throw Problem.invalid("secret", "Say which secret it signs in with.")
                    .end();
        }
        how.problem().ifPresent(p -> {
            throw Problem.invalid(p.where(), p.what()).end();
        });
        if (how instanceof SignIn.ClientCredentials c) {
            String host = URI.create(c.tokenAddress()).getAuthority();
            if (!host.equals(URI.create(connection.base()).getAuthority())
                    && !connection.allowedHosts().contains(host)) {
                throw Problem.invalid(
                                "signIn.tokenAddress",
                                "Name '" + Texts.clip(host, 120)
                                        + "' among the further hosts too: nothing else is reached.")
                        .end();
            }
        }
        if (how instanceof SignIn.ClientCredentials c
                && connection.base().startsWith("https:")
                && !c.tokenAddress().startsWith("https:")) {
            throw Problem.invalid(
                            "signIn.tokenAddress", "What is reached over https:// gets its tokens over https:// too.")
                    .end();
        }
        if (how instanceof SignIn.Certificate && !connection.base().startsWith("https:")) {
            throw Problem.invalid("base", "A certificate is shown to https:// alone.")
                    .end();
        }
    }

    /** How it is signed in to and what else is reached stands in the zone, and nowhere here (M13). */
    private void throughRelays(Connection connection, Connection.InZone there) {
        if (relays.zone(there.zone()).isEmpty()) {
            throw Problem.invalid("base", "There is no zone '" + there.zone() + "'. Make it under Zones first.")
                    .end();
        }
        if (connection.secret() != null) {
            throw Problem.invalid("secret", "Secrets of a zone are kept there, beside the file of its relays.")
                    .end();
        }
        if (!connection.allowedHosts().isEmpty()) {
            throw Problem.invalid("allowedHosts", "Which hosts are reached in a zone, the file of its relays says.")
                    .end();
        }
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
        connection.inZone().ifPresent(z -> throughRelays(connection, z));
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
        if (connection.signIn() != null) {
            signIn(connection, connection.signIn());
        }
        setUp.connection(Answers.by(q, clock), connection);
        return null;
    }
}
