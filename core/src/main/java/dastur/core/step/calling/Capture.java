package dastur.core.step.calling;

import dastur.core.time.Span;
import dastur.core.workflow.ActionKey;
import dastur.core.workflow.Known;
import dastur.core.workflow.Step;
import dastur.core.workflow.StepId;
import java.util.List;
import java.util.Map;
import org.jspecify.annotations.Nullable;

/** A measurement: an action whose outputs are kept under the step's id for checks and comparison (N22). */
public record Capture(
        StepId id,
        String name,
        ActionKey action,
        Map<String, String> inputs,
        @Nullable Span timeLimit,
        @Nullable Integer tries,
        Map<String, StepId> ways,
        @Nullable String expected)
        implements Acting {
    public Capture {
        inputs = Step.ordered(inputs);
        ways = Step.ordered(ways);
    }

    @Override
    public List<String> exits(Known known) {
        return List.of("ok");
    }

    @Override
    public List<String> optionalExits() {
        return List.of("failed");
    }
}
