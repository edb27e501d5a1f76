package dastur.core.step.waiting;

import dastur.core.run.Assigned;
import dastur.core.run.Visit;
import dastur.core.run.Waiting;
import java.time.Instant;
import org.jspecify.annotations.Nullable;

/** What one of these people writes on the ticket next. */
public record ForReply(Assigned from, @Nullable Instant until) implements Waiting.InRoom {
    @Override
    public boolean alive(Visit visit) {
        return !from.nobody();
    }

    @Override
    public Waiting later(long seconds) {
        return until == null ? this : new ForReply(from, until.plusSeconds(seconds));
    }

    @Override
    public boolean untouched() {
        return true;
    }
}
