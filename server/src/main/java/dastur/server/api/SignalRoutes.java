package dastur.server.api;

import dastur.core.json.Json;
import dastur.core.json.Texts;
import dastur.core.people.Right;
import dastur.core.run.VisitId;
import dastur.core.step.waiting.WaitCommands;
import dastur.server.http.Problem;
import dastur.server.http.Request;
import dastur.server.http.Route;
import dastur.server.work.CommandService;
import dastur.store.Cases;
import dastur.store.Signals;
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
    private final CommandService commands;
    private final Signals signals;

    private SignalRoutes(InstantSource clock, CommandService commands, Signals signals) {
        this.clock = clock;
        this.commands = commands;
        this.signals = signals;
    }

    static Stream<Route> of(InstantSource clock, CommandService commands, Signals signals) {
        SignalRoutes r = new SignalRoutes(clock, commands, signals);
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
        boolean before = signals.keep(id, signal, body.key(), values, clock.instant());
        Optional<VisitId> taken = before ? signals.takenBy(id) : Optional.empty();
        if (taken.isEmpty()) {
            deliver(q, id, signal, body.key(), values);
            taken = signals.takenBy(id);
        }
        return new SignalView(taken.map(VisitId::value).orElse(null), taken.isEmpty());
    }

    /** Offers it to those who wait, the longest first. What nobody takes stays kept, and whoever begins to wait looks there. */
    private void deliver(Request q, String id, String signal, @Nullable String key, Map<String, Object> values) {
        Optional<VisitId> visit = signals.waiting(signal, key);
        while (visit.isPresent()) {
            try {
                CommandService.Outcome outcome = commands.handle(
                        visit.get().ticket(), id, q.actor(), new WaitCommands.SignalCame(visit.get(), id, values));
                if (outcome instanceof CommandService.Outcome.Done) {
                    return;
                }
            } catch (Cases.Contended e) {
                // The same signal, sent twice at once, was taken elsewhere meanwhile: it counts once.
                return;
            }
            // Another signal was faster; the next one that waits may take this.
            Optional<VisitId> next = signals.waiting(signal, key);
            visit = next.equals(visit) || signals.takenBy(id).isPresent() ? Optional.empty() : next;
        }
    }
}
