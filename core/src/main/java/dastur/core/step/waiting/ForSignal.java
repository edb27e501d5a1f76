package dastur.core.step.waiting;

import dastur.core.run.Visit;
import dastur.core.run.Waiting;
import java.time.Instant;
import java.util.Optional;
import org.jspecify.annotations.Nullable;

/** A signal from outside. @param key only a signal with this key counts; null for any */
public record ForSignal(
        String signal, @Nullable String key, @Nullable Instant until) implements Waiting.InRoom {
    @Override
    public Optional<Signal> awaits() {
        return Optional.of(new Signal(signal, key));
    }

    @Override
    public boolean alive(Visit visit) {
        return true;
    }

    @Override
    public Waiting later(long seconds) {
        return until == null ? this : new ForSignal(signal, key, until.plusSeconds(seconds));
    }
}
