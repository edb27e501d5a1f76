package dastur.core.notation;

import dastur.core.workflow.Level;
import dastur.core.workflow.Step;
import org.jspecify.annotations.Nullable;

/** A kind of bracket whose lines stand each below a line of its own. */
public interface HeadsLines<S extends Step> {
    /** The line that stands above the steps of a level; null where they stand right below the sentence. */
    @Nullable String headOf(S step, Level level);
}
