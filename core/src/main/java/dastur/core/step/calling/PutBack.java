package dastur.core.step.calling;

import dastur.core.workflow.ActionKey;
import dastur.core.workflow.Step;
import java.util.Map;

/**
 * How a completed step is undone: an action whose inputs are fixed when the step is completed (N21, D16).
 *
 * @param inputs an expression for each input of the action
 * @param always whether it is put back on success too, because it is switched off for a time only
 * @param repeatable whether it may be put back when nobody knows if the step happened
 */
public record PutBack(ActionKey action, Map<String, String> inputs, boolean always, boolean repeatable) {
    public PutBack {
        inputs = Step.ordered(inputs);
    }
}
