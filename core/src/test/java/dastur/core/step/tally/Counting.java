package dastur.core.step.tally;

import dastur.core.run.Assigned;
import dastur.core.run.Visit;
import dastur.core.run.Waiting;
import java.time.Instant;
import java.util.Optional;

/** What a tally waits for. */
public record Counting(String name, int target, int soFar, Assigned counters, Instant until) implements Waiting.InRoom {
    Counting plus(int some) {
        return new Counting(name, target, soFar + some, counters, until);
    }

    @Override
    public Counting later(long seconds) {
        return new Counting(name, target, soFar, counters, until.plusSeconds(seconds));
    }

    @Override
    public Optional<Asked> asks() {
        return Optional.of(new Asked("tally", name, counters, null, null, until, null));
    }

    @Override
    public boolean alive(Visit visit) {
        return !counters.nobody();
    }
}
