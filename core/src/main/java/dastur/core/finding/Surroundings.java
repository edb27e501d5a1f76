package dastur.core.finding;

import dastur.core.people.Group;
import dastur.core.people.GroupId;
import dastur.core.people.Person;
import dastur.core.people.PersonId;
import dastur.core.ticket.FieldCatalogue;
import dastur.core.workflow.Action;
import dastur.core.workflow.ActionKey;
import dastur.core.workflow.Ladder;
import dastur.core.workflow.LadderKey;
import java.util.Optional;
import java.util.function.Function;

/** What a workflow is checked against: the organisation as it stands. */
public record Surroundings(
        FieldCatalogue fields,
        Function<GroupId, Optional<Group>> groups,
        Function<PersonId, Optional<Person>> people,
        Function<ActionKey, Optional<Action>> actions,
        Function<LadderKey, Optional<Ladder>> ladders) {}
