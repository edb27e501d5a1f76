package dastur.core.rehearsal;

import dastur.core.run.Visit;
import dastur.core.workflow.Step;
import java.util.List;

/** How a kind of step is answered where nobody is asked and nothing is called. */
public interface Rehearses<S extends Step> {
    /** Every answer that a visit can get, the expected one first; none where only the clock acts, or nothing can be said. */
    List<Answer> options(S step, Visit visit, Rehearsing in);

    /** Gives an answer. */
    Played give(S step, Visit visit, Answer answer, Rehearsing in);
}
