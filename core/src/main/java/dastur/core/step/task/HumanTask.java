package dastur.core.step.task;

import dastur.core.people.Party;
import dastur.core.ticket.Field;
import dastur.core.time.Span;
import dastur.core.workflow.Known;
import dastur.core.workflow.LadderKey;
import dastur.core.workflow.Step;
import dastur.core.workflow.StepId;
import java.util.List;
import java.util.Map;
import org.jspecify.annotations.Nullable;

/**
 * A person does something and says how it ended.
 *
 * @param instructions text with {@code {{ }}} shown to the doer
 * @param due how long until it is overdue
 * @param outcomes become the buttons and the ways out (N11)
 * @param leftOutIf a condition under which the task is left out; null for never
 * @param mayLeaveOut whether those it is offered to may leave it out; a normal result, not an intervention
 */
public record HumanTask(
        StepId id,
        String name,
        @Nullable String instructions,
        Party assignee,
        @Nullable Party overseer,
        List<String> outcomes,
        @Nullable List<Field> form,
        @Nullable Span due,
        @Nullable LadderKey ladder,
        @Nullable String leftOutIf,
        boolean mayLeaveOut,
        Map<String, StepId> ways,
        @Nullable String expected)
        implements Step.InRoom {
    /** A task that is never left out. */
    public HumanTask(
            StepId id,
            String name,
            @Nullable String instructions,
            Party assignee,
            @Nullable Party overseer,
            List<String> outcomes,
            @Nullable List<Field> form,
            @Nullable Span due,
            @Nullable LadderKey ladder,
            Map<String, StepId> ways,
            @Nullable String expected) {
        this(id, name, instructions, assignee, overseer, outcomes, form, due, ladder, null, false, ways, expected);
    }

    public HumanTask {
        outcomes = List.copyOf(outcomes);
        form = form == null ? null : List.copyOf(form);
        ways = Step.ordered(ways);
    }

    @Override
    public List<String> exits(Known known) {
        return outcomes;
    }

    @Override
    public List<String> optionalExits() {
        return List.of("overdue", "left out");
    }
}
