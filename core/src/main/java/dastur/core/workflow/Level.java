package dastur.core.workflow;

import java.util.List;
import java.util.Optional;
import java.util.function.UnaryOperator;
import java.util.stream.Stream;

/**
 * Steps that ways may join: the top of a workflow, or the inside of a bracket (D8). The first step is where it begins.
 */
public record Level(List<Step> steps) {
    public Level {
        steps = List.copyOf(steps);
    }

    /** The level that has a step: this one, or one inside it. */
    public Optional<Level> around(StepId id) {
        return step(id).isPresent()
                ? Optional.of(this)
                : steps.stream()
                        .flatMap(s -> s.levels().stream())
                        .flatMap(l -> l.around(id).stream())
                        .findFirst();
    }

    /** A step of this level itself. */
    public Optional<Step> step(StepId id) {
        return steps.stream().filter(s -> s.id().equals(id)).findFirst();
    }

    /** The same with other steps in the places of some. */
    Level mapped(UnaryOperator<Step> other) {
        return new Level(steps.stream()
                .map(s -> other.apply(s instanceof Bracket b ? b.mapped(other) : s))
                .toList());
    }

    /** All steps, those inside brackets too, in reading order. */
    public Stream<Step> all() {
        return steps.stream().flatMap(Step::withInner);
    }
}
