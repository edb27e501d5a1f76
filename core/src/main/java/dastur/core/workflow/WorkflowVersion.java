package dastur.core.workflow;

import com.fasterxml.jackson.annotation.JsonIgnore;
import com.fasterxml.jackson.annotation.JsonInclude;
import dastur.core.people.PersonId;
import dastur.core.ticket.Field;
import dastur.core.ticket.TicketKind;
import java.util.HashSet;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.function.UnaryOperator;
import org.jspecify.annotations.Nullable;

/**
 * A workflow as it was designed at one moment. A draft has the number it will have when it is published; a published one
 * never changes, and runs stay on it (N26).
 *
 * @param kind the tickets it is for; null for any
 * @param startForm typed inputs asked for when it starts (N23)
 * @param vars typed run variables, absent until set
 * @param results values it gives to whoever calls it, computed when it ends
 * @param conditions conditions with names of their own, read as {@code is.<name>}
 * @param mostVisits how many visits of steps a run may have, from 10 to {@value #MAX_VISITS}; null for as many as usual
 * @param notes what designers wrote beside steps, by step id
 * @param body the top level of the tree of brackets
 */
@JsonInclude(JsonInclude.Include.NON_NULL)
public record WorkflowVersion(
        WorkflowKey key,
        int number,
        String name,
        @Nullable String purpose,
        PersonId owner,
        @Nullable TicketKind kind,
        List<Field> startForm,
        List<Field> vars,
        List<Result> results,
        Map<String, String> conditions,
        Map<String, Note> notes,
        @Nullable Integer mostVisits,
        Level body) {
    /** Visits of steps that a run may have where its workflow says nothing: a loop that nobody meant ends there. */
    public static final int USUAL_VISITS = 1_000;

    /** More visits than any run can have. */
    public static final int MAX_VISITS = 100_000;

    /** More steps than anybody can read; a longer procedure is split by calls. */
    public static final int MAX_STEPS = 500;

    /** How deep brackets may stand in brackets. */
    public static final int MAX_DEPTH = 12;

    /** A value given to the caller: its declaration and the expression that gives it. */
    public record Result(Field field, String value) {}

    /**
     * What stands beside a step.
     *
     * @param comment for other designers
     * @param wording the line of a document the step was made from (N29)
     */
    @JsonInclude(JsonInclude.Include.NON_NULL)
    public record Note(@Nullable String comment, @Nullable String wording) {}

    /** A version without results, named conditions and notes. */
    public WorkflowVersion(
            WorkflowKey key,
            int number,
            String name,
            @Nullable String purpose,
            PersonId owner,
            @Nullable TicketKind kind,
            List<Field> startForm,
            List<Field> vars,
            Level body) {
        this(key, number, name, purpose, owner, kind, startForm, vars, List.of(), Map.of(), Map.of(), null, body);
    }

    public WorkflowVersion {
        if (name == null || name.isBlank() || name.length() > 120) {
            throw new IllegalArgumentException("A workflow's name has 1 to 120 characters.");
        }
        if (mostVisits != null && (mostVisits < 10 || mostVisits > MAX_VISITS)) {
            throw new IllegalArgumentException(
                    "A run has at most 10 to 100,000 visits of steps, not " + mostVisits + ".");
        }
        startForm = List.copyOf(startForm);
        vars = List.copyOf(vars);
        results = results == null ? List.of() : List.copyOf(results);
        conditions = conditions == null ? Map.of() : Step.ordered(conditions);
        conditions.keySet().forEach(c -> dastur.core.json.Texts.checkWord("condition's name", c));
        notes = notes == null ? Map.of() : Step.ordered(notes);
        Set<StepId> seen = new HashSet<>();
        body.all().forEach(step -> {
            if (!seen.add(step.id())) {
                throw new IllegalArgumentException("Two steps are called '" + step.id() + "'. Give each its own id.");
            }
        });
        if (seen.size() > MAX_STEPS) {
            throw new IllegalArgumentException(
                    "A workflow has at most " + MAX_STEPS + " steps, but has " + seen.size() + ".");
        }
        if (depth(body) > MAX_DEPTH) {
            throw new IllegalArgumentException(
                    "Brackets stand at most " + MAX_DEPTH + " deep in each other. Split the workflow by calls.");
        }
    }

    private static int depth(Level level) {
        return 1
                + level.steps().stream()
                        .flatMap(s -> s.levels().stream())
                        .mapToInt(WorkflowVersion::depth)
                        .max()
                        .orElse(0);
    }

    /** A step at any depth. */
    public Optional<Step> find(StepId id) {
        return body.all().filter(s -> s.id().equals(id)).findFirst();
    }

    @JsonIgnore
    public Step step(StepId id) {
        return find(id).orElseThrow(() -> new IllegalStateException(key + " " + number + " has no step " + id));
    }

    /** The results with which a run can end, in reading order (D11). */
    @JsonIgnore
    public List<String> endings() {
        Set<String> names = new LinkedHashSet<>();
        body.all().forEach(s -> {
            if (s instanceof Step.End e
                    && (e.ending() == Step.Ending.RUN || body.step(e.id()).isPresent())) {
                names.add(e.result());
            }
        });
        return List.copyOf(names);
    }

    /** The same with other steps in the places of some. */
    public WorkflowVersion mapped(UnaryOperator<Step> other) {
        return new WorkflowVersion(
                key,
                number,
                name,
                purpose,
                owner,
                kind,
                startForm,
                vars,
                results,
                conditions,
                notes,
                mostVisits,
                body.mapped(other));
    }

    /** How many visits of steps a run may have. */
    public int limitOfVisits() {
        return mostVisits == null ? USUAL_VISITS : mostVisits;
    }

    public WorkflowVersion numbered(int newNumber) {
        return new WorkflowVersion(
                key,
                newNumber,
                name,
                purpose,
                owner,
                kind,
                startForm,
                vars,
                results,
                conditions,
                notes,
                mostVisits,
                body);
    }
}
