package dastur.core.finding;

import dastur.core.workflow.Step;

/** What can be wrong with a kind of step, and what it reads. */
public interface Inspects<S extends Step> {
    /** Looks at one step by itself. */
    void inspect(S step, Inspection in);

    /** Names what the step reads when it is opened. */
    void reads(S step, Reads into);
}
