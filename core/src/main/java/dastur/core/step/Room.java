package dastur.core.step;

import dastur.core.bpmn.Draws;
import dastur.core.expression.Yields;
import dastur.core.finding.Inspects;
import dastur.core.notation.Speaks;
import dastur.core.rehearsal.Rehearses;
import dastur.core.run.Opens;
import dastur.core.workflow.Step;
import dastur.core.workflow.StepKind;

/** All that a kind of step has to be: a kind that lacks one of them does not compile. */
public interface Room<S extends Step>
        extends StepKind<S>, Yields<S>, Inspects<S>, Speaks<S>, Draws<S>, Opens<S>, Rehearses<S> {}
