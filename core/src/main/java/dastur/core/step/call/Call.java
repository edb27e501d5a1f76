package dastur.core.step.call;

import dastur.core.workflow.Known;
import dastur.core.workflow.Step;
import dastur.core.workflow.StepId;
import dastur.core.workflow.WorkflowKey;
import java.util.List;
import java.util.Map;
import org.jspecify.annotations.Nullable;

/**
 * Runs another workflow and waits for its result (N19, D11).
 *
 * @param inputs an expression for each field of the other's start form
 * @param on the ticket it runs on; null for this one
 */
public record Call(
        StepId id,
        String name,
        WorkflowKey workflow,
        Map<String, String> inputs,
        @Nullable Elsewhere on,
        Map<String, StepId> ways,
        @Nullable String expected)
        implements Step.InRoom {
    /** On this ticket. */
    public Call(
            StepId id,
            String name,
            WorkflowKey workflow,
            Map<String, String> inputs,
            Map<String, StepId> ways,
            @Nullable String expected) {
        this(id, name, workflow, inputs, null, ways, expected);
    }

    public Call {
        inputs = Step.ordered(inputs);
        ways = Step.ordered(ways);
    }

    @Override
    public List<String> exits(Known known) {
        return known.results(workflow);
    }

    @Override
    public List<String> optionalExits() {
        return List.of("stopped");
    }
}
