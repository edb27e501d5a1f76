package dastur.core.step.calling;

import dastur.core.run.Here;
import dastur.core.run.Visit;
import dastur.core.workflow.Step;
import java.util.Map;
import org.jspecify.annotations.Nullable;

/** A kind of step that has something measured, and judges what came of it. */
public interface Measures<S extends Step> {
    /** What was measured has come in. @param trouble why nothing could be measured; null when it was */
    void measured(S step, Visit visit, Map<String, Object> outputs, @Nullable String trouble, Here here);
}
