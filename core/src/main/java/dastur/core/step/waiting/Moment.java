package dastur.core.step.waiting;

import dastur.core.run.Visit;
import dastur.core.run.Waiting;
import java.time.Instant;

/** A moment. */
public record Moment(Instant until) implements Waiting.InRoom {
    @Override
    public boolean alive(Visit visit) {
        return !visit.alarms().isEmpty();
    }

    @Override
    public Waiting later(long seconds) {
        return new Moment(until.plusSeconds(seconds));
    }

    @Override
    public boolean untouched() {
        return true;
    }
}
