package dastur.core.run;

import dastur.core.workflow.Step;

/** How a kind of step is entered. */
public interface Opens<S extends Step> {
    /**
     * Enters a step, or enters it anew where its visit had stalled.
     *
     * @param guarded whether approvals that bind it still have to fit what is so; a person may have said that it goes on anyway
     * @throws CannotOpen where it cannot be entered; it stalls
     */
    void open(S step, VisitId visit, boolean guarded, Here here);
}
