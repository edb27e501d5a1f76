package dastur.core.workflow;

import java.util.List;

/**
 * A kind of step: the one place that knows what is particular to it. Each part of the application that treats kinds differently
 * has a role for them in its own package; a kind plays them all, so what is new needs no further place (decision 38).
 *
 * @param <S> the model of its steps
 */
public interface StepKind<S extends Step> {
    /** Names the kind in files and on the wire. It never changes: old workflows say it. */
    String word();

    Class<S> model();

    /** What it brings onto records. */
    List<Brings> brings();

    /** What algorithms that look at whole versions have to know of a step. */
    Facts facts(S step);
}
