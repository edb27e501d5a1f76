package dastur.core.rehearsal;

import dastur.core.people.Actor;
import dastur.core.people.Group;
import dastur.core.people.PersonId;
import dastur.core.run.Assigned;
import dastur.core.run.Command;
import dastur.core.run.LookupKey;
import dastur.core.run.Run;
import dastur.core.run.Visit;
import dastur.core.ticket.Field;
import dastur.core.ticket.FieldType;
import dastur.core.workflow.Action;
import dastur.core.workflow.ActionKey;
import dastur.core.workflow.Step;
import dastur.core.workflow.WorkflowKey;
import dastur.core.workflow.WorkflowVersion;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.TreeMap;
import java.util.stream.Stream;
import org.jspecify.annotations.Nullable;

/** What a kind of step sees and does where it is rehearsed. */
public final class Rehearsing {
    private final Rehearsal rehearsal;
    private final Played stage;

    Rehearsing(Rehearsal rehearsal, Played stage) {
        this.rehearsal = rehearsal;
        this.stage = stage;
    }

    public Played stage() {
        return stage;
    }

    /** The same, further on. */
    public Rehearsing at(Played other) {
        return new Rehearsing(rehearsal, other);
    }

    /** Somebody, or something, says this. */
    public Played handle(Actor by, Command command) {
        return rehearsal.handle(stage, by, command);
    }

    /** Only the clock acts here, so that an answer is refused. */
    public Played clockOnly(Visit visit) {
        return Rehearsal.refused(stage, "'" + visit.step() + "' waits for the clock, not for an answer.");
    }

    /** Lets the clock go on until something happens to the visit. */
    public Played untilSomethingHappens(Visit visit) {
        return rehearsal.untilSomethingHappens(stage, visit);
    }

    /** Somebody who can answer: who has claimed it, or the first of those who are asked. */
    public PersonId person(@Nullable PersonId claimed, Assigned asked) {
        if (claimed != null) {
            return claimed;
        }
        Stream<PersonId> members = asked.groups().stream()
                .map(g -> rehearsal.look(new LookupKey.OfGroup(g)))
                .flatMap(Optional::stream)
                .flatMap(g -> ((Group) g).members().stream());
        return Stream.concat(asked.people().stream(), members)
                .findFirst()
                .orElse(rehearsal.setting().by());
    }

    /** An action as the visit's run uses it. */
    public Optional<Action> action(ActionKey key, Visit visit) {
        Run run = stage.ticket().open().get(visit.id().run());
        return rehearsal
                .look(new LookupKey.PinnedAction(key, run.workflow(), run.version()))
                .map(Action.class::cast);
    }

    /** How a workflow that runs on another ticket can end. */
    public List<String> endings(WorkflowKey workflow) {
        return rehearsal
                .look(new LookupKey.LiveVersion(workflow))
                .flatMap(n -> rehearsal.look(new LookupKey.OfVersion(workflow, (Integer) n)))
                .map(v -> ((WorkflowVersion) v).endings())
                .orElse(List.of());
    }

    public static List<String> expectedFirst(Step step, List<String> exits) {
        List<String> ordered = new ArrayList<>(exits);
        if (step.expected() != null && ordered.remove(step.expected())) {
            ordered.addFirst(step.expected());
        }
        return ordered;
    }

    /** A value of the right type for each field, that names what is there, so that what follows can be seen. */
    public Map<String, Object> sample(List<Field> fields) {
        Map<String, Object> values = new TreeMap<>();
        for (Field f : fields) {
            Object value =
                    switch (f.type()) {
                        case WHOLE -> 1L;
                        case NUMBER -> 1.0;
                        case YES_NO -> true;
                        case CHOICE -> f.choices() == null ? "" : f.choices().getFirst();
                        case LIST -> List.of();
                        case TIME -> "2026-01-01T00:00:00.000Z";
                        case PERSON -> rehearsal.setting().by().value();
                        case CI -> stage.ticket().text("ci").orElse(Rehearsal.STAND_IN);
                        case GROUP -> stage.ticket().text("group").orElse(Rehearsal.STAND_IN);
                        case SERVICE -> stage.ticket().text("service").orElse(Rehearsal.STAND_IN);
                        case TEXT, LONG_TEXT, ANY -> "(" + f.label() + ")";
                    };
            if (f.required() || f.type() != FieldType.PERSON && f.type() != FieldType.CI) {
                values.put(f.name(), value);
            }
        }
        return values;
    }
}
