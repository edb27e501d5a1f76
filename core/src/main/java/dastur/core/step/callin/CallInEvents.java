package dastur.core.step.callin;

import dastur.core.people.PersonId;
import dastur.core.run.Content;
import dastur.core.run.Effect;
import dastur.core.run.Event.Leaving;
import dastur.core.run.Event.OfVisit;
import dastur.core.run.Event.PlannedRung;
import dastur.core.run.Recorded;
import dastur.core.run.Visit;
import dastur.core.workflow.StepId;
import java.time.Instant;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import org.jspecify.annotations.Nullable;

/** What happens to call-ins. */
public final class CallInEvents {
    private CallInEvents() {}

    /** A call-in began to climb its ladder. @param as what whoever comes takes part as; null for nothing named */
    public record CallInBegan(
            String name,
            @Nullable String as,
            List<PlannedRung> rungs,
            Instant until,
            @Content @Nullable String message) implements OfVisit {
        @Override
        public List<Effect> effects(@Nullable Visit before, Recorded r) {
            List<Visit.Alarm> alarms = new ArrayList<>(PlannedRung.alarms(rungs));
            alarms.add(new Visit.Alarm(until, Visit.AlarmKind.TIMEOUT, 0, null));
            return List.of(new Effect.Opens(
                    new OpenCallIn(name, as, message == null ? "" : message, List.of(), List.of(), until), alarms));
        }
    }

    /** Somebody said that they come, or that they cannot. */
    public record CallInAnswered(
            PersonId by,
            boolean accepted,
            @Nullable String as,
            @Nullable String exit,
            @Nullable StepId to) implements OfVisit, Leaving {
        @Override
        public List<Effect> effects(@Nullable Visit before, Recorded r) {
            if (exit == null) {
                return before != null && before.waiting() instanceof OpenCallIn callIn
                        ? List.of(new Effect.Becomes(before.waitingFor(callIn.without(by))))
                        : List.of();
            }
            Map<String, Object> values = r.outcome(exit);
            values.put("by", by.value());
            Effect leaves = new Effect.Leaves(to, values);
            return as == null ? List.of(leaves) : List.of(leaves, new Effect.TakesPart(as, by));
        }

        @Override
        public @Nullable String outcome() {
            return accepted ? "accepted" : null;
        }

        @Override
        public @Nullable String endedBy() {
            return accepted ? "comes" : null;
        }
    }
}
