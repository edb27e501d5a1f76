package dastur.core.workflow;

import java.util.List;
import java.util.Optional;
import java.util.stream.Stream;

/**
 * Steps that ways may join: the top of a workflow, or the inside of a bracket (D8). The first step is where it begins.
 */
public record Level(List<Step> steps) {
    public Level {
        steps = List.copyOf(steps);
    }

    /** A step of this level itself. */
    public Optional<Step> step(StepId id) {
        return steps.stream().filter(s -> s.id().equals(id)).findFirst();
    }

    /** All steps, those inside brackets too, in reading order. */
    public Stream<Step> all() {
        return steps.stream().flatMap(Step::withInner);
    }
}
