package dastur.core.step.check;

import dastur.core.run.Visit;
import dastur.core.run.Waiting;
import java.time.Instant;

/** The next judging of a check that settles. */
public record Judging(Instant next, Instant until) implements Waiting.InRoom {
    @Override
    public boolean alive(Visit visit) {
        return !visit.alarms().isEmpty();
    }

    @Override
    public Waiting later(long seconds) {
        return new Judging(next.plusSeconds(seconds), until.plusSeconds(seconds));
    }
}
