package dastur.core.step.calling;

import dastur.core.finding.Inspection;
import dastur.core.workflow.Action;
import dastur.core.workflow.ActionKey;
import dastur.core.workflow.Step;
import java.util.Optional;

/** Findings on an action that a step names, whatever for: it must be there and in use (M1). */
public final class NamedAction {
    private NamedAction() {}

    /**
     * @param field where the step names it
     * @param purpose what the step needs it for, such as {@code for 'Close the lane'}
     * @return the action; empty where there is none
     */
    public static Optional<Action> inspect(Step step, String field, ActionKey key, String purpose, Inspection in) {
        Optional<Action> action = in.around().actions().apply(key);
        if (action.isEmpty()) {
            in.blocks("unknown action", step, field, "There is no action '" + key + "' " + purpose + ".");
        }
        action.filter(a -> a.withdrawn() != null)
                .ifPresent(a -> in.blocks(
                        "action withdrawn",
                        step,
                        field,
                        "'" + a.name() + "' " + purpose + " was withdrawn: " + a.withdrawn()));
        action.ifPresent(a -> in.around()
                .terms()
                .apply(key)
                .flatMap(t -> t.problemOf(
                        a.name(),
                        in.version().owner(),
                        in.around().groups(),
                        in.around().people()))
                .ifPresent(why -> in.blocks(
                        "not for this owner",
                        step,
                        field,
                        why + " Let one of them own this workflow, or ask the action's keeper.")));
        return action;
    }
}
