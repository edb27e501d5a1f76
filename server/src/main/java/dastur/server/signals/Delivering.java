package dastur.server.signals;

import dastur.core.people.Actor;
import dastur.core.run.VisitId;
import dastur.core.signal.Signal;
import dastur.core.signal.Source;
import dastur.core.step.waiting.WaitCommands;
import dastur.server.work.CommandService;
import dastur.store.Cases;
import dastur.store.Signals;
import java.time.Instant;
import java.util.Map;
import java.util.Optional;
import org.jspecify.annotations.Nullable;

/** Gives signals to steps that wait for them, the longest first; what nobody takes is kept for whoever may come (D12). */
public final class Delivering {
    private final CommandService commands;
    private final Signals signals;

    public Delivering(CommandService commands, Signals signals) {
        this.commands = commands;
        this.signals = signals;
    }

    /** What anybody can have sent leads no run on by itself, as it starts none (I2). */
    static boolean mayTell(Source source) {
        return source.proof().proves();
    }

    /** Gives a source's signal to a step that waits for its source and key. Returns whether one took it. */
    boolean taken(Signal s) {
        Actor by = new Actor.Outside(s.source().value());
        return give("signal." + s.id(), s.source().value(), s.key(), s.words(), s.cameAt(), by)
                .isPresent();
    }

    /**
     * Keeps a signal, then offers it to those who wait.
     *
     * @param id the same again does nothing twice
     * @return the visit that took it, now or before; empty when it is kept
     */
    public Optional<VisitId> give(
            String id, String signal, @Nullable String key, Map<String, Object> values, Instant at, Actor by) {
        boolean before = signals.keep(id, signal, key, values, at);
        Optional<VisitId> taken = before ? signals.takenBy(id) : Optional.empty();
        if (taken.isEmpty()) {
            offer(id, signal, key, values, by);
            taken = signals.takenBy(id);
        }
        return taken;
    }

    private void offer(String id, String signal, @Nullable String key, Map<String, Object> values, Actor by) {
        Optional<VisitId> visit = signals.waiting(signal, key);
        while (visit.isPresent()) {
            try {
                CommandService.Outcome outcome = commands.handle(
                        visit.get().ticket(), id, by, new WaitCommands.SignalCame(visit.get(), id, values));
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
