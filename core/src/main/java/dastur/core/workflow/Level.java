package dastur.core.workflow;

import java.util.ArrayDeque;
import java.util.Deque;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Optional;
import java.util.Set;
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

    /** The steps that can come after one of them: its ways on, and those on from the brackets around it, with all inside. */
    public Stream<Step> after(StepId id) {
        return steps.stream()
                .filter(s -> s.withInner().anyMatch(i -> i.id().equals(id)))
                .flatMap(s -> Stream.concat(
                        s.levels().stream().flatMap(l -> l.after(id)),
                        reached(s).flatMap(Step::withInner)))
                .distinct();
    }

    /** The steps of this level to which the ways of one of them lead. */
    private Stream<Step> reached(Step from) {
        Set<StepId> seen = new LinkedHashSet<>();
        Deque<Step> next = new ArrayDeque<>(List.of(from));
        while (!next.isEmpty()) {
            next.poll().ways().values().stream()
                    .filter(seen::add)
                    .flatMap(to -> step(to).stream())
                    .forEach(next::add);
        }
        return seen.stream().flatMap(to -> step(to).stream());
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
