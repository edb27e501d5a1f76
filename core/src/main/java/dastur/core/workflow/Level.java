package dastur.core.workflow;

import java.util.HashSet;
import java.util.List;
import java.util.Optional;
import java.util.Set;

/**
 * Steps that ways may join: the top of a workflow, or the inside of a bracket (D8). The first step is where it begins.
 */
public record Level(List<Step> steps) {
    /** More steps than anybody can read; a longer procedure is split by calls. */
    public static final int MAX_STEPS = 500;

    public Level {
        steps = List.copyOf(steps);
        if (steps.size() > MAX_STEPS) {
            throw new IllegalArgumentException(
                    "A workflow has at most " + MAX_STEPS + " steps, but has " + steps.size() + ".");
        }
        Set<StepId> seen = new HashSet<>();
        for (Step step : steps) {
            if (!seen.add(step.id())) {
                throw new IllegalArgumentException("Two steps are called '" + step.id() + "'. Give each its own id.");
            }
        }
    }

    public Optional<Step> step(StepId id) {
        return steps.stream().filter(s -> s.id().equals(id)).findFirst();
    }
}
