package dastur.core.finding;

import dastur.core.expression.Vocabulary;
import dastur.core.people.Group;
import dastur.core.people.GroupId;
import dastur.core.people.Person;
import dastur.core.people.PersonId;
import dastur.core.people.Rota;
import dastur.core.people.RotaKey;
import dastur.core.signal.Source;
import dastur.core.ticket.Field;
import dastur.core.ticket.FieldCatalogue;
import dastur.core.workflow.Action;
import dastur.core.workflow.ActionKey;
import dastur.core.workflow.Known;
import dastur.core.workflow.Ladder;
import dastur.core.workflow.LadderKey;
import dastur.core.workflow.TermsOfUse;
import dastur.core.workflow.Trigger;
import dastur.core.workflow.WorkflowKey;
import dastur.core.workflow.WorkflowVersion;
import java.util.List;
import java.util.Optional;
import java.util.function.Function;

/**
 * What a workflow is checked against: the organisation as it stands.
 *
 * @param workflows the live version of a workflow
 * @param triggers the triggers of all live workflows, in their order
 * @param sources what signals come from
 * @param callers the live versions of the workflows that call one
 * @param terms who may use an action, and where; empty for everybody
 */
public record KnownOrganisation(
        FieldCatalogue fields,
        Function<GroupId, Optional<Group>> groups,
        Function<PersonId, Optional<Person>> people,
        Function<ActionKey, Optional<Action>> actions,
        Function<LadderKey, Optional<Ladder>> ladders,
        Function<WorkflowKey, Optional<WorkflowVersion>> workflows,
        List<Trigger.Live> triggers,
        Function<RotaKey, Optional<Rota>> rotas,
        Function<WorkflowKey, List<WorkflowVersion>> callers,
        List<Source> sources,
        Function<ActionKey, Optional<TermsOfUse>> terms) {
    /** Without sources of signals, and where everybody may use every action. */
    public KnownOrganisation(
            FieldCatalogue fields,
            Function<GroupId, Optional<Group>> groups,
            Function<PersonId, Optional<Person>> people,
            Function<ActionKey, Optional<Action>> actions,
            Function<LadderKey, Optional<Ladder>> ladders,
            Function<WorkflowKey, Optional<WorkflowVersion>> workflows,
            List<Trigger.Live> triggers,
            Function<RotaKey, Optional<Rota>> rotas,
            Function<WorkflowKey, List<WorkflowVersion>> callers) {
        this(
                fields,
                groups,
                people,
                actions,
                ladders,
                workflows,
                triggers,
                rotas,
                callers,
                List.of(),
                key -> Optional.empty());
    }

    /** Without rotas and callers. */
    public KnownOrganisation(
            FieldCatalogue fields,
            Function<GroupId, Optional<Group>> groups,
            Function<PersonId, Optional<Person>> people,
            Function<ActionKey, Optional<Action>> actions,
            Function<LadderKey, Optional<Ladder>> ladders,
            Function<WorkflowKey, Optional<WorkflowVersion>> workflows,
            List<Trigger.Live> triggers) {
        this(fields, groups, people, actions, ladders, workflows, triggers, key -> Optional.empty(), key -> List.of());
    }

    /** Without other workflows. */
    public KnownOrganisation(
            FieldCatalogue fields,
            Function<GroupId, Optional<Group>> groups,
            Function<PersonId, Optional<Person>> people,
            Function<ActionKey, Optional<Action>> actions,
            Function<LadderKey, Optional<Ladder>> ladders) {
        this(fields, groups, people, actions, ladders, key -> Optional.empty(), List.of());
    }

    /** The endings of a live workflow, as exits of a call. */
    public Known known() {
        return new Known() {
            @Override
            public Optional<Action> action(ActionKey key) {
                return actions.apply(key);
            }

            @Override
            public List<String> results(WorkflowKey workflow) {
                return workflows.apply(workflow).map(WorkflowVersion::endings).orElse(List.of());
            }
        };
    }

    /** The values a live workflow gives to its caller. */
    public Vocabulary.Declared declared() {
        return new Vocabulary.Declared() {
            @Override
            public Optional<Action> action(ActionKey key) {
                return actions.apply(key);
            }

            @Override
            public Optional<List<Field>> results(WorkflowKey workflow) {
                return workflows.apply(workflow).map(v -> v.results().stream()
                        .map(WorkflowVersion.Result::field)
                        .toList());
            }
        };
    }
}
