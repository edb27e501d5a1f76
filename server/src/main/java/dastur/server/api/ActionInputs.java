package dastur.server.api;

import dastur.core.ticket.CiId;
import dastur.core.ticket.ConfigurationItem;
import dastur.core.ticket.Field;
import dastur.core.workflow.Action;
import dastur.server.http.Problem;
import java.util.Map;
import java.util.Optional;
import java.util.function.Function;

/** What an action is given where no workflow gives it: by a watch, or where it is tried. */
final class ActionInputs {
    private ActionInputs() {}

    /** Refuses inputs that do not fit, or that the action does not ask for, with their place. @param cis looks CIs up */
    static void check(Action action, Map<String, Object> inputs, Function<CiId, Optional<ConfigurationItem>> cis) {
        for (Field field : action.inputs()) {
            action.problemWith(field, inputs.get(field.name()), cis).ifPresent(p -> {
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
