package dastur.core.step.branch;

import dastur.core.expression.Clause;
import dastur.core.run.Content;
import dastur.core.run.Effect;
import dastur.core.run.Event.Leaving;
import dastur.core.run.Event.OfVisit;
import dastur.core.run.Recorded;
import dastur.core.run.Visit;
import dastur.core.workflow.StepId;
import java.util.List;
import org.jspecify.annotations.Nullable;

/** A branch took a case; keeps every condition evaluated with its values. */
public record Branched(
        String exit, @Nullable StepId to, @Content @Nullable List<Clause.Explained> conditions)
        implements OfVisit, Leaving {
    @Override
    public List<Effect> effects(@Nullable Visit before, Recorded r) {
        return List.of(new Effect.Leaves(to, r.outcome(exit)));
    }
}
