package dastur.server.work;

import dastur.connectors.Connector;
import dastur.connectors.Connector.Abandoned;
import dastur.core.step.calling.CallingCommands.CallOutcome;
import dastur.core.step.calling.Composed;
import dastur.core.workflow.Action;
import dastur.core.workflow.ActionKey;
import dastur.core.workflow.Connection;
import dastur.store.Workflows;
import java.time.InstantSource;
import java.util.Map;
import java.util.Optional;
import java.util.function.BooleanSupplier;
import java.util.function.Function;
import org.jspecify.annotations.Nullable;

/** Calls actions outside any run: for watches and partners. */
public final class OwnCalls {
    private final Workflows workflows;
    private final Connector connector;
    private final Function<String, Optional<String>> secret;
    private final InstantSource clock;

    public OwnCalls(
            Workflows workflows, Connector connector, Function<String, Optional<String>> secret, InstantSource clock) {
        this.workflows = workflows;
        this.connector = connector;
        this.secret = secret;
        this.clock = clock;
    }

    public Optional<Action> action(@Nullable ActionKey key) {
        return key == null ? Optional.empty() : workflows.action(key);
    }

    /**
     * Makes one call.
     *
     * @param key what is the same when it is repeated
     * @param wanted whether its result is still wanted
     */
    public CallOutcome call(@Nullable ActionKey name, Map<String, Object> inputs, String key, BooleanSupplier wanted) {
        Optional<Action> action = action(name);
        if (action.isEmpty()) {
            return new CallOutcome.Fault("There is no action '" + name + "' any more.", false);
        }
        if (action.get().withdrawn() != null) {
            return new CallOutcome.Fault(
                    "'" + action.get().name() + "' was withdrawn: "
                            + action.get().withdrawn(),
                    false);
        }
        Optional<Connection> connection = workflows.connection(action.get().connection());
        if (connection.isEmpty()) {
            return new CallOutcome.Fault(
                    "There is no connection '" + action.get().connection() + "' any more.", false);
        }
        String password = connection.get().secret() == null
                ? null
                : secret.apply(connection.get().secret()).orElse(null);
        try {
            return connector.call(
                    Composed.of(
                            action.get(), inputs, key, action.get().timeLimit().roughSeconds(), clock.instant()),
                    connection.get(),
                    password,
                    wanted::getAsBoolean);
        } catch (Abandoned e) {
            return new CallOutcome.Unknown("It was given up.");
        }
    }

    /** Why a call did not come to a result. */
    public static String why(CallOutcome outcome) {
        return switch (outcome) {
            case CallOutcome.Done done -> "";
            case CallOutcome.Failed failed -> failed.why();
            case CallOutcome.Unknown unknown -> unknown.why();
            case CallOutcome.Fault fault -> fault.why();
        };
    }
}
