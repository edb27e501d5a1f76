package dastur.core.step.call;

import dastur.core.run.Content;
import dastur.core.run.Effect;
import dastur.core.run.Event.Leaving;
import dastur.core.run.Event.OfVisit;
import dastur.core.run.Recorded;
import dastur.core.run.RunId;
import dastur.core.run.Visit;
import dastur.core.run.Waiting;
import dastur.core.ticket.TicketId;
import dastur.core.workflow.StepId;
import dastur.core.workflow.WorkflowKey;
import java.util.List;
import java.util.Map;
import org.jspecify.annotations.Nullable;

/** What happens to calls of other workflows, beside what is sent to other tickets. */
public final class CallEvents {
    private CallEvents() {}

    /** Another workflow was called; its run is a child of this visit. */
    public record WorkflowCalled(WorkflowKey workflow, int version, RunId child) implements OfVisit {
        @Override
        public List<Effect> effects(@Nullable Visit before, Recorded r) {
            return List.of(new Effect.Opens(new Waiting.Called(child, false, null, false, Map.of()), List.of()));
        }
    }

    /** The workflow that was sent has begun. */
    public record SentRunBegan(RunId run) implements OfVisit {
        @Override
        public List<Effect> effects(@Nullable Visit before, Recorded r) {
            return before != null && before.waiting() instanceof Waiting.Sent
                    ? List.of(new Effect.Becomes(
                            before.waitingFor(new Waiting.Called(run, false, null, false, Map.of()))))
                    : List.of();
        }
    }

    /** The run on the other ticket has ended. */
    public record SentRunEnded(
            RunId run,
            String result,
            boolean stopped,
            @Content @Nullable Map<String, Object> results) implements OfVisit {
        @Override
        public List<Effect> effects(@Nullable Visit before, Recorded r) {
            return before == null
                    ? List.of()
                    : List.of(new Effect.Becomes(before.waitingFor(
                            new Waiting.Called(run, true, result, stopped, results == null ? Map.of() : results))));
        }
    }

    /** The called run has ended, and its caller goes on. @param ticket the other ticket it ran on; null for this one */
    public record CalledEnded(
            String exit,
            @Nullable StepId to,
            String result,
            @Nullable TicketId ticket,
            @Content @Nullable Map<String, Object> results)
            implements OfVisit, Leaving {
        @Override
        public List<Effect> effects(@Nullable Visit before, Recorded r) {
            Map<String, Object> values = r.outcome(exit);
            if (results != null) {
                values.putAll(results);
            }
            if (ticket != null) {
                values.put("ticket", ticket.value());
            }
            return List.of(new Effect.Leaves(to, values));
        }
    }
}
