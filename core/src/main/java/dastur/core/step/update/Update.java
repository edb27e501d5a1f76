package dastur.core.step.update;

import dastur.core.workflow.Known;
import dastur.core.workflow.Step;
import dastur.core.workflow.StepId;
import java.util.List;
import java.util.Map;
import org.jspecify.annotations.Nullable;

/**
 * Sets fields of the ticket and its CI, and run variables, in one entry with before and after.
 *
 * @param of an expression for the id of the CI whose values are set; null for the ticket's own
 */
public record Update(
        StepId id,
        String name,
        @Nullable String of,
        List<Assignment> set,
        Map<String, StepId> ways,
        @Nullable String expected)
        implements Step.InRoom {
    public Update {
        set = List.copyOf(set);
        ways = Step.ordered(ways);
    }

    @Override
    public List<String> exits(Known known) {
        return List.of("done");
    }
}
