package dastur.server.machines;

import dastur.connectors.Connectors;
import dastur.connectors.Greeted;
import dastur.connectors.Greeted.Given;
import dastur.core.expression.TextTemplate;
import dastur.core.run.Event;
import dastur.core.step.calling.Composed;
import dastur.core.workflow.Action;
import dastur.core.workflow.Connection;
import dastur.core.workflow.Protocol;
import java.time.InstantSource;
import java.util.ArrayList;
import java.util.Iterator;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.concurrent.Semaphore;
import java.util.function.Function;

/** Tests connections (M6): who answers there, whether we are let in, and whether what the actions over it need is given. */
public final class Greetings {
    private static final int AT_ONCE = 4;
    private static final long SECONDS = 10;
    /** As many actions of a connection are asked about. */
    private static final int MOST_ACTIONS = 40;

    /** What an action needs over a connection, and whether it is given. */
    public record Need(Action action, Given given) {}

    /**
     * What came of it.
     *
     * @param millis how long it took in all
     */
    public record Tested(Greeted greeted, long millis, List<Need> needs) {}

    private final Connectors connectors;
    private final Function<String, Optional<String>> secret;
    private final InstantSource clock;
    private final Semaphore places = new Semaphore(AT_ONCE);

    /** @param secret a secret's value by its name */
    public Greetings(Connectors connectors, Function<String, Optional<String>> secret, InstantSource clock) {
        this.connectors = connectors;
        this.secret = secret;
        this.clock = clock;
    }

    /** Whether a connection's secret is there to sign in with. */
    public boolean hasSecret(Connection over) {
        return over.secret() == null || secret.apply(over.secret()).isPresent();
    }

    /** Empty where as many are under way as may be. */
    public Optional<Tested> test(Connection over, List<Action> actions) {
        if (!places.tryAcquire()) {
            return Optional.empty();
        }
        try {
            long begun = System.nanoTime();
            List<Action> asked = actions.stream().limit(MOST_ACTIONS).toList();
            List<Event.Call> calls = asked.stream()
                    .filter(a -> isFixed(a, over))
                    .map(this::composed)
                    .toList();
            Greeted greeted = connectors.greet(
                    over,
                    over.secret() == null ? null : secret.apply(over.secret()).orElse(null),
                    calls);
            Iterator<Given> given = greeted.given().iterator();
            List<Need> needs = new ArrayList<>();
            for (Action action : asked) {
                needs.add(new Need(action, isFixed(action, over) ? given.next() : DEPENDS));
            }
            return Optional.of(new Tested(greeted, (System.nanoTime() - begun) / 1_000_000, needs));
        } finally {
            places.release();
        }
    }

    private static final Given DEPENDS =
            new Given(Greeted.Says.CANNOT_SAY, "Where it goes depends on the values it is given.");

    /** Without values an address that has some would be another one. */
    private static boolean isFixed(Action action, Connection over) {
        return over.protocol() != Protocol.HTTP
                || TextTemplate.parse(action.call().path()).inserted().isEmpty();
    }

    private Event.Call composed(Action action) {
        return Composed.of(action, Map.of(), "a-test", SECONDS, clock.instant());
    }
}
