package dastur.core.step.waiting;

import dastur.core.run.Visit;
import dastur.core.run.Waiting;
import java.time.Instant;
import org.jspecify.annotations.Nullable;

/** A condition on the ticket. */
public record ForCondition(String condition, @Nullable Instant until) implements Waiting.InRoom {
    @Override
    public boolean alive(Visit visit) {
        return true;
    }

    @Override
    public Waiting later(long seconds) {
        return until == null ? this : new ForCondition(condition, until.plusSeconds(seconds));
    }

    @Override
    public boolean untouched() {
        return true;
    }
}
