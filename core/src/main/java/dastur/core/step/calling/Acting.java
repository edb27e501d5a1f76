package dastur.core.step.calling;

import dastur.core.time.Span;
import dastur.core.workflow.ActionKey;
import dastur.core.workflow.Step;
import java.util.Map;
import org.jspecify.annotations.Nullable;

/** A step in which a machine carries out an action. */
public sealed interface Acting extends Step.InRoom permits Automation, Capture {
    ActionKey action();

    /** An expression for each input of the action. */
    Map<String, String> inputs();

    /** Overrides the action's own; null for none. */
    @Nullable Span timeLimit();

    /** Overrides the action's own; null for none, else at least 1. */
    @Nullable Integer tries();

    /** What undoes it; null when nothing does. */
    default @Nullable PutBack putBack() {
        return null;
    }
}
