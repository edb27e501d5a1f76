package dastur.core.run;

import dastur.core.workflow.Step;
import dastur.core.workflow.StepId;
import java.util.Optional;

/** A kind of step whose stalled visits are helped in more ways than entering them anew. */
public interface Remedied<S extends Step> {
    /** Why a plain retry does not fit; empty where it does. */
    Optional<String> retryDoesNotFit(S step, Visit visit, Here here);

    /** Tries again. @param guarded whether approvals that bind it still have to fit */
    void retry(S step, Visit visit, boolean guarded, Here here);

    /** Why it cannot be tried again with its inputs taken anew (M19); empty where it can. */
    default Optional<String> takesNothingAnew(S step, Visit visit, Here here) {
        return Optional.of("There are no frozen inputs to be taken anew.");
    }

    /** Tries again with inputs taken anew. @throws CannotOpen where an input has no value */
    default void retryAnew(S step, Visit visit, Here here) {
        throw new IllegalStateException("'" + step.name() + "' takes nothing anew");
    }

    /** Whether nobody knows if it happened, so that a person has to say. */
    boolean inDoubt(Visit visit);

    /** A person says that it happened. */
    void happened(S step, Visit visit, Here here);

    /** A person says that it did not happen: it is done once more. */
    void didNotHappen(S step, Visit visit, Here here);

    /** The approval that no longer fits; empty where all do. */
    Optional<Outdated> outdated(Here here);

    /** A person says by which exit it goes on. */
    void takeExit(S step, Visit visit, String exit, StepId to, Here here);

    /** An approval that no longer is about what is so. @param run the one it was asked in */
    record Outdated(RunId run, Run.Guard guard, java.util.Set<String> changed) {}
}
