package dastur.core.run;

import com.fasterxml.jackson.annotation.JsonIgnore;
import dastur.core.people.PersonId;
import dastur.core.workflow.StepId;
import dastur.core.workflow.TriggerId;
import dastur.core.workflow.WorkflowKey;
import java.time.Instant;
import java.util.List;
import java.util.Map;
import java.util.TreeMap;
import org.jspecify.annotations.Nullable;

/**
 * One execution of a workflow version for a ticket, while it is open.
 *
 * @param ready steps that a token stands before, not yet opened
 * @param visits how many visits there were
 * @param steps the values of the last finished visit of each step (D10)
 * @param guards approvals whose guarded call has not yet started (D19)
 */
public record Run(
        RunId id,
        WorkflowKey workflow,
        int version,
        String name,
        PersonId owner,
        Instant startedAt,
        @Nullable TriggerId trigger,
        int depth,
        List<StepId> ready,
        int visits,
        TreeMap<VisitId, Visit> open,
        Map<String, Object> inputs,
        Map<String, Object> vars,
        Map<String, Map<String, Object>> steps,
        List<Guard> guards) {
    /** The values a person approved and on which the next world-changing call still depends. */
    public record Guard(StepId approval, Map<String, Object> values) {}

    @JsonIgnore
    public boolean stalled() {
        return open.values().stream().anyMatch(v -> v.stall() != null);
    }
}
