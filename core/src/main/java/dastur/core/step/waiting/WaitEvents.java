package dastur.core.step.waiting;

import dastur.core.expression.Clause;
import dastur.core.people.PersonId;
import dastur.core.run.Assigned;
import dastur.core.run.Content;
import dastur.core.run.Effect;
import dastur.core.run.Event.Leaving;
import dastur.core.run.Event.OfVisit;
import dastur.core.run.Recorded;
import dastur.core.run.Visit;
import dastur.core.run.Waiting;
import dastur.core.workflow.StepId;
import java.time.Instant;
import java.util.List;
import java.util.Map;
import java.util.Objects;
import java.util.stream.Stream;
import org.jspecify.annotations.Nullable;

/** What happens to waits. */
public final class WaitEvents {
    private WaitEvents() {}

    /**
     * A wait began: for a moment, a condition, a signal or a reply.
     *
     * @param until the moment; for a condition or signal how long at most, null for ever
     */
    public record WaitBegan(
            @Nullable Instant until,
            @Nullable String condition,
            @Nullable String signal,
            @Nullable String key,
            @Nullable Assigned replyOf)
            implements OfVisit {
        @Override
        public List<Effect> effects(@Nullable Visit before, Recorded r) {
            boolean moment = condition == null && signal == null && replyOf == null;
            Waiting waiting = replyOf != null
                    ? new ForReply(replyOf, until)
                    : condition != null
                            ? new ForCondition(condition, until)
                            : signal != null
                                    ? new ForSignal(signal, key, until)
                                    : new Moment(Objects.requireNonNull(until));
            Visit.AlarmKind kind = moment ? Visit.AlarmKind.WAIT : Visit.AlarmKind.TIMEOUT;
            return List.of(new Effect.Opens(
                    waiting, until == null ? List.of() : List.of(new Visit.Alarm(until, kind, 0, null))));
        }
    }

    /** One of those whose reply was waited for has written. */
    public record ReplyCame(
            PersonId by,
            String exit,
            @Nullable StepId to,
            @Content @Nullable String text) implements OfVisit, Leaving {
        @Override
        public List<Effect> effects(@Nullable Visit before, Recorded r) {
            Map<String, Object> values = r.outcome(exit);
            values.put("by", by.value());
            if (text != null) {
                values.put("text", text);
            }
            return List.of(new Effect.Leaves(to, values));
        }

        @Override
        public Stream<?> words() {
            return Stream.ofNullable(text);
        }
    }

    /** What was waited for has come true. */
    public record ConditionMet(
            String exit, @Nullable StepId to, @Content Clause.@Nullable Explained condition)
            implements OfVisit, Leaving {
        @Override
        public List<Effect> effects(@Nullable Visit before, Recorded r) {
            return List.of(new Effect.Leaves(to, r.outcome(exit)));
        }
    }

    /** The signal that was waited for has come. @param signalId names the one signal, which counts once (D12) */
    public record SignalCame(
            String signal,
            @Nullable String signalId,
            String exit,
            @Nullable StepId to,
            @Content @Nullable Map<String, Object> values)
            implements OfVisit, Leaving {
        @Override
        public List<Effect> effects(@Nullable Visit before, Recorded r) {
            Map<String, Object> kept = r.outcome(exit);
            if (values != null) {
                kept.put("signal", values);
            }
            return List.of(new Effect.Leaves(to, kept));
        }
    }
}
