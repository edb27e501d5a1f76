package dastur.server.api;

import dastur.core.json.Json;
import dastur.core.json.Texts;
import dastur.core.people.Right;
import dastur.core.run.VisitId;
import dastur.server.http.Problem;
import dastur.server.http.Request;
import dastur.server.http.Route;
import dastur.server.signals.Delivering;
import java.time.InstantSource;
import java.util.Map;
import java.util.Optional;
import java.util.stream.Stream;
import org.jspecify.annotations.Nullable;

/** Signals from outside for runs that wait for them (N18, D12). */
final class SignalRoutes {
    private static final int MAX_VALUES = 50_000;

    record SignalBody(
            String signal, @Nullable String key, @Nullable Map<String, Object> values) {}

    /** @param visit the visit that took it; null when it is kept for one that may come */
    record SignalView(@Nullable String visit, boolean kept) {}

    private final InstantSource clock;
    private final Delivering delivering;

    private SignalRoutes(InstantSource clock, Delivering delivering) {
        this.clock = clock;
        this.delivering = delivering;
    }

    static Stream<Route> of(InstantSource clock, Delivering delivering) {
        SignalRoutes r = new SignalRoutes(clock, delivering);
        return Stream.of(Route.post(
                "/api/signals",
                Right.WORK,
                "Give a signal to the run that waits for it",
                SignalBody.class,
                SignalView.class,
                r::came));
    }

    private Object came(Request q) {
        SignalBody body = q.body(SignalBody.class);
        String signal = Request.needed(body.signal(), "signal");
        Map<String, Object> values = body.values() == null ? Map.of() : body.values();
        if (Texts.blank(signal)
                || signal.length() > 200
                || body.key() != null && body.key().length() > 200) {
            throw Problem.invalid("signal", "A signal has a name, and a key of at most 200 characters.")
                    .end();
        }
        if (Json.write(values).length() > MAX_VALUES) {
            throw Problem.invalid("values", "A signal carries at most " + MAX_VALUES + " characters of values.")
                    .end();
        }
        Optional<VisitId> taken =
                delivering.give("signal." + q.commandId(), signal, body.key(), values, clock.instant(), q.actor());
        return new SignalView(taken.map(VisitId::value).orElse(null), taken.isEmpty());
    }
}
