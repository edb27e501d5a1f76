package dastur.core.rehearsal;

import dastur.core.workflow.Step;

/** A kind of step whose outcome is judged from what is measured, so that a rehearsal can take it not to hold. */
public interface Fails<S extends Step> {
    /** The same step, never holding. */
    S neverHolding(S step);
}
