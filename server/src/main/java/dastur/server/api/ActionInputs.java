package dastur.server.api;

import dastur.core.ticket.Field;
import dastur.core.workflow.Action;
import dastur.server.http.Problem;
import java.util.Map;

/** What an action is given where no workflow gives it: by a watch, or where it is tried. */
final class ActionInputs {
    private ActionInputs() {}

    /** Refuses inputs that do not fit, or that the action does not ask for, with their place. */
    static void check(Action action, Map<String, Object> inputs) {
        for (Field field : action.inputs()) {
            field.problemWith(inputs.get(field.name())).ifPresent(p -> {
                throw Problem.invalid("inputs." + field.name(), p).end();
            });
        }
        inputs.keySet().stream()
                .filter(name -> action.inputs().stream().noneMatch(f -> f.name().equals(name)))
                .findFirst()
                .ifPresent(name -> {
                    throw Problem.invalid("inputs." + name, "'" + action.name() + "' asks for no '" + name + "'.")
                            .end();
                });
    }
}
