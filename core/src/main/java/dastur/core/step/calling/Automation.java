package dastur.core.step.calling;

import dastur.core.time.Span;
import dastur.core.workflow.ActionKey;
import dastur.core.workflow.Known;
import dastur.core.workflow.Step;
import dastur.core.workflow.StepId;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import org.jspecify.annotations.Nullable;

/**
 * An action of the catalogue is carried out by a machine (N14).
 *
 * @param tries overrides the action's own; at least 1
 */
public record Automation(
        StepId id,
        String name,
        ActionKey action,
        Map<String, String> inputs,
        @Nullable Span timeLimit,
        @Nullable Integer tries,
        @Nullable PutBack putBack,
        Map<String, StepId> ways,
        @Nullable String expected)
        implements Acting {
    /** An automation that nothing undoes. */
    public Automation(
            StepId id,
            String name,
            ActionKey action,
            Map<String, String> inputs,
            @Nullable Span timeLimit,
            @Nullable Integer tries,
            Map<String, StepId> ways,
            @Nullable String expected) {
        this(id, name, action, inputs, timeLimit, tries, null, ways, expected);
    }

    public Automation {
        inputs = Step.ordered(inputs);
        ways = Step.ordered(ways);
    }

    @Override
    public List<String> exits(Known known) {
        List<String> all = new ArrayList<>();
        all.add("ok");
        known.action(action).ifPresent(a -> a.results().forEach(r -> all.add(r.name())));
        return all;
    }

    @Override
    public List<String> optionalExits() {
        return List.of("failed");
    }
}
