package dastur.core.step.tally;

import dastur.core.people.PersonId;
import dastur.core.run.Assigned;
import dastur.core.run.Content;
import dastur.core.run.Effect;
import dastur.core.run.Event;
import dastur.core.run.Recorded;
import dastur.core.run.Visit;
import dastur.core.workflow.StepId;
import java.time.Instant;
import java.util.List;
import java.util.Map;
import org.jspecify.annotations.Nullable;

/** What happens to tallies. */
public final class TallyEvents {
    private TallyEvents() {}

    /** Counting began. */
    public record TallyBegan(String name, int target, Assigned counters, Instant until) implements Event.OfVisit {
        @Override
        public List<Assigned> asks() {
            return List.of(counters);
        }

        @Override
        public List<Effect> effects(@Nullable Visit before, Recorded r) {
            return List.of(new Effect.Opens(
                    new Counting(name, target, 0, counters, until),
                    List.of(new Visit.Alarm(until, Visit.AlarmKind.TIMEOUT, 0, null))));
        }
    }

    /** Somebody has counted some. */
    public record Counted(
            PersonId by, int some, @Content @Nullable String where) implements Event.OfVisit {
        @Override
        public List<Effect> effects(@Nullable Visit before, Recorded r) {
            return before != null && before.waiting() instanceof Counting c
                    ? List.of(new Effect.Becomes(before.waitingFor(c.plus(some))))
                    : List.of();
        }
    }

    /** There are enough. */
    public record TallyFull(String exit, @Nullable StepId to, int total) implements Event.OfVisit, Event.Leaving {
        @Override
        public List<Effect> effects(@Nullable Visit before, Recorded r) {
            Map<String, Object> values = r.outcome(exit);
            values.put("total", (long) total);
            return List.of(new Effect.Leaves(to, values));
        }
    }
}
