package dastur.core.workflow;

import com.fasterxml.jackson.annotation.JsonIgnore;
import dastur.core.people.PersonId;
import dastur.core.ticket.Field;
import dastur.core.ticket.TicketKind;
import java.util.List;
import org.jspecify.annotations.Nullable;

/**
 * A workflow as it was designed at one moment. A draft has the number it will have when it is published; a published one
 * never changes, and runs stay on it (N26).
 *
 * @param kind the tickets it is for; null for any
 * @param startForm typed inputs asked for when it starts (N23)
 * @param vars typed run variables, absent until set
 * @param body the top level of the tree of brackets
 */
public record WorkflowVersion(
        WorkflowKey key,
        int number,
        String name,
        @Nullable String purpose,
        PersonId owner,
        @Nullable TicketKind kind,
        List<Field> startForm,
        List<Field> vars,
        Level body) {
    public WorkflowVersion {
        if (name == null || name.isBlank() || name.length() > 120) {
            throw new IllegalArgumentException("A workflow's name has 1 to 120 characters.");
        }
        startForm = List.copyOf(startForm);
        vars = List.copyOf(vars);
    }

    @JsonIgnore
    public Step step(StepId id) {
        return body.step(id).orElseThrow(() -> new IllegalStateException(key + " " + number + " has no step " + id));
    }

    public WorkflowVersion numbered(int newNumber) {
        return new WorkflowVersion(key, newNumber, name, purpose, owner, kind, startForm, vars, body);
    }
}
