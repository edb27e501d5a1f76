package dastur.core.run;

import dastur.core.people.Actor;
import dastur.core.workflow.Kinds;
import dastur.core.workflow.Step;
import dastur.core.workflow.StepId;

/** Opens the next step that a token of a run stands before. */
final class Opening {
    private final Deciding d;
    private final Position position;

    Opening(Deciding d, Position position) {
        this.d = d;
        this.position = position;
    }

    /** Opens the step before which the run's first token stands. */
    static void openNext(Deciding d, Run run) {
        Token token = run.ready().getFirst();
        new Opening(d, new Position(run, token.place()))
                .open(VisitId.of(run.id(), run.visits() + 1), token.step(), true, false);
    }

    /** Opens a visit anew that had stalled: a person wants it so, on a test too. */
    void reopen(VisitId visit, StepId stepId, boolean guarded) {
        open(visit, stepId, guarded, true);
    }

    private void open(VisitId visit, StepId stepId, boolean guarded, boolean wanted) {
        Run run = position.run();
        Step step = d.version(run).step(stepId);
        try {
            if (run.visits() >= d.version(run).limitOfVisits()) {
                throw new CannotOpen(
                        "too many visits",
                        "This run has had " + run.visits()
                                + " visits, the limit of its workflow. Stop it and look for the loop; or, if it is meant, raise the"
                                + " limit in a new version and move the run to it.");
            }
            if (d.now().test() != null && !wanted) {
                Tests.withhold(step, new Here(d, position));
            }
            Opens<Step> kind = Kinds.of(step, Opens.class);
            kind.open(step, visit, guarded, new Here(d, position));
        } catch (CannotOpen cannot) {
            d.emit(Actor.SYSTEM, run.id(), step.id(), visit, new Event.Stalled(cannot.code(), cannot.getMessage()));
        }
    }

    /** Evaluates an expression that must have a value. */
    static dastur.core.expression.Outcome evaluate(Deciding d, Position position, String expression) {
        return new Here(d, position).evaluate(expression);
    }
}
