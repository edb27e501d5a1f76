package dastur.core.step.calling;

import dastur.core.run.Content;
import dastur.core.run.Effect;
import dastur.core.run.Event.Leaving;
import dastur.core.run.Event.OfVisit;
import dastur.core.run.Recorded;
import dastur.core.run.Run;
import dastur.core.run.Visit;
import dastur.core.run.VisitId;
import dastur.core.run.Waiting;
import dastur.core.step.call.Call;
import dastur.core.workflow.Action;
import dastur.core.workflow.ActionKey;
import dastur.core.workflow.StepId;
import java.time.Instant;
import java.util.List;
import java.util.Map;
import java.util.Objects;
import org.jspecify.annotations.Nullable;

/** What happens to calls of actions. */
public final class CallingEvents {
    private CallingEvents() {}

    /** An automated step was started. */
    public record CallRequested(
            ActionKey action,
            String actionName,
            int attempt,
            String key,
            Action.Repeat repeat,
            boolean changesWorld,
            int tries,
            long pauseSeconds,
            Instant deadline,
            @Nullable VisitId putsBack,
            @Content @Nullable Map<String, Object> inputs,
            @Content @Nullable Call call)
            implements OfVisit {
        @Override
        public List<Effect> effects(@Nullable Visit before, Recorded r) {
            Waiting waiting = new CallUnderWay(
                    action, attempt, key, repeat, tries, pauseSeconds, r.at(), false, false, call, null);
            Effect opens = new Effect.Opens(
                    waiting, List.of(new Visit.Alarm(deadline, Visit.AlarmKind.TIME_LIMIT, 0, null)), putsBack);
            return changesWorld ? List.of(opens, new Effect.Begins()) : List.of(opens);
        }
    }

    /** An attempt did not succeed; the next one follows at {@code nextAt} under {@code nextKey}. */
    public record AttemptFailed(
            int attempt,
            boolean unknown,
            @Nullable Instant nextAt,
            @Nullable String nextKey,
            @Content @Nullable String why)
            implements OfVisit {
        @Override
        public List<Effect> effects(@Nullable Visit before, Recorded r) {
            if (before == null || !(before.waiting() instanceof CallUnderWay call)) {
                return List.of();
            }
            Visit next = before.without(Visit.AlarmKind.TIME_LIMIT)
                    .waitingFor(call.betweenAttempts(nextKey == null ? call.key() : nextKey));
            return List.of(new Effect.Becomes(
                    nextAt == null
                            ? next
                            : next.alarmed(List.of(new Visit.Alarm(nextAt, Visit.AlarmKind.RETRY, 0, null)))));
        }
    }

    /** The next attempt was started. */
    public record CallRepeated(
            ActionKey action,
            Action.Repeat repeat,
            int attempt,
            String key,
            Instant deadline,
            @Content @Nullable Call call)
            implements OfVisit {
        @Override
        public List<Effect> effects(@Nullable Visit before, Recorded r) {
            if (before == null || !(before.waiting() instanceof CallUnderWay earlier)) {
                return List.of();
            }
            return List.of(new Effect.Becomes(
                    before.alarmed(List.of(new Visit.Alarm(deadline, Visit.AlarmKind.TIME_LIMIT, 0, null)))
                            .stalled(null)
                            .waitingFor(earlier.again(attempt, key, call == null ? earlier.call() : call))));
        }
    }

    /** The call came to a result. */
    public record CallDone(
            String exit,
            @Nullable StepId to,
            int attempt,
            long tookMillis,
            int polls,
            @Nullable String reference,
            @Nullable String link,
            @Nullable PutBackPlan putBack,
            @Content @Nullable Map<String, Object> putBackInputs,
            @Content @Nullable Map<String, Object> outputs,
            @Content @Nullable String log)
            implements OfVisit, Leaving {
        @Override
        public List<Effect> effects(@Nullable Visit before, Recorded r) {
            if (before != null && before.putsBack() != null) {
                return List.of(new Effect.PutBack(before.putsBack()), new Effect.Leaves(null, null));
            }
            Map<String, Object> values = r.outcome(exit);
            if (outputs != null) {
                values.putAll(outputs);
            }
            if (reference != null) {
                values.put("reference", reference);
            }
            Effect leaves = new Effect.Leaves(to, values);
            if (putBack == null) {
                return List.of(leaves);
            }
            Map<String, Object> inputs = putBackInputs == null ? Map.of() : putBackInputs;
            return List.of(
                    leaves,
                    new Effect.CanPutBack(new Run.PutBack(
                            putBack.stage(),
                            Objects.requireNonNull(r.visit()),
                            Objects.requireNonNull(r.step()),
                            putBack.name(),
                            putBack.action(),
                            inputs,
                            putBack.always(),
                            false)));
        }

        @Override
        public @Nullable Map<String, Object> brings() {
            return outputs;
        }
    }

    /**
     * The call came to a result for which no way leads on. The result is kept, and the call is not made again; a person says
     * which way the run goes.
     */
    public record ResultKept(
            String exit,
            int attempt,
            long tookMillis,
            int polls,
            @Nullable String reference,
            @Nullable String link,
            @Content @Nullable Map<String, Object> outputs,
            @Content @Nullable String log)
            implements OfVisit {
        @Override
        public List<Effect> effects(@Nullable Visit before, Recorded r) {
            if (before == null || !(before.waiting() instanceof CallUnderWay call)) {
                return List.of();
            }
            return List.of(new Effect.Becomes(before.alarmed(List.of())
                    .waitingFor(call.came(new Came(
                            exit, polls, tookMillis, reference, link, outputs == null ? Map.of() : outputs)))));
        }

        @Override
        public @Nullable Map<String, Object> brings() {
            return outputs;
        }
    }

    /** How a completed call is undone, fixed when it is completed (D16). */
    public record PutBackPlan(@Nullable VisitId stage, String name, ActionKey action, boolean always) {}

    /** All attempts failed and the way for failure is taken. */
    public record CallFailed(
            String exit,
            @Nullable StepId to,
            int attempts,
            @Content @Nullable String error) implements OfVisit, Leaving {
        @Override
        public List<Effect> effects(@Nullable Visit before, Recorded r) {
            Map<String, Object> values = r.outcome(exit);
            if (error != null) {
                values.put("error", error);
            }
            return List.of(new Effect.Leaves(to, values));
        }
    }

    /** Nobody knows whether the call happened: a person decides (D13). */
    public record CallUnsure(int attempt, @Content @Nullable String why) implements OfVisit {
        @Override
        public List<Effect> effects(@Nullable Visit before, Recorded r) {
            if (before == null || !(before.waiting() instanceof CallUnderWay call)) {
                return List.of();
            }
            return List.of(new Effect.Becomes(before.alarmed(List.of())
                    .stalled(new Visit.Stall("unsure", why == null ? "" : why, r.at()))
                    .waitingFor(call.inDoubt())));
        }
    }
}
