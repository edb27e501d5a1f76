package dastur.server.api;

import dastur.core.json.Json;
import dastur.core.json.Texts;
import dastur.core.run.Command;
import dastur.core.run.VisitId;
import dastur.server.App;
import dastur.server.auth.Right;
import dastur.server.http.Problem;
import dastur.server.http.Request;
import dastur.server.http.Route;
import dastur.server.work.CommandService;
import java.util.Map;
import java.util.Optional;
import java.util.stream.Stream;
import org.jspecify.annotations.Nullable;

/** Signals from outside for runs that wait for them (N18, D12). */
public final class SignalRoutes {
    private static final int MAX_VALUES = 50_000;

    record SignalBody(
            String signal, @Nullable String key, @Nullable Map<String, Object> values) {}

    /** @param visit the visit that took it; null when it is kept for one that may come */
    record SignalView(@Nullable String visit, boolean kept) {}

    private final App app;

    private SignalRoutes(App app) {
        this.app = app;
    }

    public static Stream<Route> of(App app) {
        SignalRoutes r = new SignalRoutes(app);
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
        String id = "signal." + q.commandId();
        Optional<String> taken = deliver(q, id, signal, body.key(), values);
        if (taken.isEmpty()) {
            app.signals().keep(id, signal, body.key(), values, app.clock().instant());
            // A wait may have begun between looking and keeping; it has taken the kept one, or takes this.
            taken = app.signals().kept(id) ? deliver(q, id, signal, body.key(), values) : Optional.empty();
        }
        return new SignalView(taken.orElse(null), taken.isEmpty());
    }

    private Optional<String> deliver(
            Request q, String id, String signal, @Nullable String key, Map<String, Object> values) {
        Optional<VisitId> visit = app.signals().waiting(signal, key);
        while (visit.isPresent()) {
            CommandService.Outcome outcome = app.commands()
                    .handle(visit.get().ticket(), id, q.actor(), new Command.SignalCame(visit.get(), id, values));
            if (outcome instanceof CommandService.Outcome.Done) {
                return visit.map(VisitId::value);
            }
            // Another signal was faster; the next one that waits may take this.
            Optional<VisitId> next = app.signals().waiting(signal, key);
            visit = next.equals(visit) ? Optional.empty() : next;
        }
        return Optional.empty();
    }
}
