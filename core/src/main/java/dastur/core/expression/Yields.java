package dastur.core.expression;

import dastur.core.workflow.Step;

/** What a kind of step makes known to expressions. */
public interface Yields<S extends Step> {
    /** Says which values a finished visit of the step gives, beside how it ended and when. */
    void yields(S step, Vocabulary.Declared declared, Yield into);
}
