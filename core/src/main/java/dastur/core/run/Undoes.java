package dastur.core.run;

import dastur.core.workflow.Step;

/** A kind of step that can be put back once it is done (N21, D16). */
public interface Undoes<S extends Step> {
    /** Begins to undo a completed visit, with the values frozen then. @param visit the visit that undoes it */
    void putBack(S step, VisitId visit, Run.PutBack what, Here here);
}
