package dastur.core.rehearsal;

import dastur.core.run.Event;
import dastur.core.run.Visit;
import dastur.core.time.Span;
import dastur.core.workflow.Step;
import dastur.core.workflow.StepId;
import java.util.List;
import java.util.Optional;

/** How a kind of step is answered where nobody is asked and nothing is called. */
public interface Rehearses<S extends Step> {
    /** Every answer that a visit can get, the expected one first; none where only the clock acts, or nothing can be said. */
    List<Answer> options(S step, Visit visit, Rehearsing in);

    /** Gives an answer. */
    Played give(S step, Visit visit, Answer answer, Rehearsing in);

    /** What an entry of a record says was answered, so that it can be answered so again; empty where it is no answer. */
    default Optional<Answer> answered(StepId step, Event event, Span took) {
        return Optional.empty();
    }

    /** Whether an event asks anew what was answered before: an answer's time runs from there. */
    default boolean asksAnew(Event event) {
        return false;
    }
}
