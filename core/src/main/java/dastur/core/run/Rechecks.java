package dastur.core.run;

import dastur.core.workflow.Step;

/** A kind of step whose visits may wait for somebody, or something, that is no longer there (law 2; D17). */
public interface Rechecks<S extends Step> {
    /** Looks again at an open visit that has not stalled. */
    void recheck(S step, Visit visit, Here here);
}
