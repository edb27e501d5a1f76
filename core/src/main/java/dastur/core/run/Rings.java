package dastur.core.run;

import dastur.core.workflow.Step;

/** What the clock does to the visits of a kind of step. */
public interface Rings<S extends Step> {
    /** An alarm has come due that is no rung of a ladder. */
    void rang(S step, Visit visit, Visit.Alarm alarm, Here here);
}
