package dastur.core.workflow;

import com.fasterxml.jackson.annotation.JsonIgnore;
import com.fasterxml.jackson.annotation.JsonInclude;
import com.fasterxml.jackson.annotation.JsonSubTypes;
import com.fasterxml.jackson.annotation.JsonTypeInfo;
import dastur.core.people.Party;
import dastur.core.ticket.Field;
import dastur.core.time.Span;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import org.jspecify.annotations.Nullable;

/**
 * One thing in a workflow. Each kind knows its exits; a way leads from an exit to a step of the same level, exactly one
 * per exit (D8). The expected exit draws the main line.
 */
@JsonTypeInfo(use = JsonTypeInfo.Id.NAME, property = "kind")
@JsonSubTypes({
    @JsonSubTypes.Type(value = Step.HumanTask.class, name = "task"),
    @JsonSubTypes.Type(value = Step.Approval.class, name = "approval"),
    @JsonSubTypes.Type(value = Step.Branch.class, name = "branch"),
    @JsonSubTypes.Type(value = Step.Automation.class, name = "automation"),
    @JsonSubTypes.Type(value = Step.Notify.class, name = "notify"),
    @JsonSubTypes.Type(value = Step.Update.class, name = "update"),
    @JsonSubTypes.Type(value = Step.Wait.class, name = "wait"),
    @JsonSubTypes.Type(value = Step.End.class, name = "end")
})
@JsonInclude(JsonInclude.Include.NON_NULL)
public sealed interface Step {
    StepId id();

    String name();

    /** The ways by exit; an exit without a way is missing here. */
    Map<String, StepId> ways();

    /** The exit named as the expected one; null means the first of {@link #exits()}. */
    @Nullable String expected();

    /** Exits that must lead somewhere, in order, given the action an automation uses (null for other kinds). */
    List<String> exits(@Nullable Action action);

    /** Exits that may be wired; unwired, something else happens there (a stall, or nothing). */
    default List<String> optionalExits() {
        return List.of();
    }

    /**
     * A person does something and says how it ended.
     *
     * @param instructions text with {@code {{ }}} shown to the doer
     * @param due how long until it is overdue
     * @param outcomes become the buttons and the ways out (N11)
     */
    record HumanTask(
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
            @Nullable String expected)
            implements Step {
        public HumanTask {
            outcomes = List.copyOf(outcomes);
            form = form == null ? null : List.copyOf(form);
            ways = ordered(ways);
        }

        @Override
        public List<String> exits(@Nullable Action action) {
            return outcomes;
        }

        @Override
        public List<String> optionalExits() {
            return List.of("overdue");
        }
    }

    /**
     * People are asked for a decision (N12).
     *
     * @param question text with {@code {{ }}}: what is asked
     * @param setsOff what a yes sets off, for the button: "close the lane"
     * @param asked whose members form the electorate
     * @param notDoersOf steps whose doers may not vote
     * @param shown paths of the fields shown and bound to the decision, such as {@code ticket.ci} (D18)
     */
    record Approval(
            StepId id,
            String name,
            @Nullable String question,
            @Nullable String setsOff,
            List<Party> asked,
            ApprovalRule rule,
            boolean notRequester,
            @Nullable List<StepId> notDoersOf,
            List<String> shown,
            boolean commentOnDecline,
            @Nullable Span within,
            @Nullable LadderKey ladder,
            Map<String, StepId> ways,
            @Nullable String expected)
            implements Step {
        public Approval {
            asked = List.copyOf(asked);
            notDoersOf = notDoersOf == null ? null : List.copyOf(notDoersOf);
            shown = List.copyOf(shown);
            ways = ordered(ways);
        }

        @Override
        public List<String> exits(@Nullable Action action) {
            return List.of("approved", "declined");
        }

        @Override
        public List<String> optionalExits() {
            return List.of("lapsed");
        }
    }

    /** A decision on data: the first case whose condition holds is taken (N13). */
    record Branch(
            StepId id,
            String name,
            List<BranchCase> cases,
            Map<String, StepId> ways,
            @Nullable String expected) implements Step {
        public Branch {
            cases = List.copyOf(cases);
            ways = ordered(ways);
        }

        @Override
        public List<String> exits(@Nullable Action action) {
            List<String> all =
                    new ArrayList<>(cases.stream().map(BranchCase::name).toList());
            all.add("otherwise");
            return all;
        }
    }

    /** A named case of a branch; the condition is an expression. */
    record BranchCase(String name, String when) {}

    /**
     * An action of the catalogue is carried out by a machine (N14).
     *
     * @param inputs an expression for each input of the action
     * @param timeLimit overrides the action's own
     * @param tries overrides the action's own; at least 1
     */
    record Automation(
            StepId id,
            String name,
            ActionKey action,
            Map<String, String> inputs,
            @Nullable Span timeLimit,
            @Nullable Integer tries,
            Map<String, StepId> ways,
            @Nullable String expected)
            implements Step {
        public Automation {
            inputs = ordered(inputs);
            ways = ordered(ways);
        }

        @Override
        public List<String> exits(@Nullable Action action) {
            List<String> all = new ArrayList<>();
            all.add("ok");
            if (action != null) {
                action.results().forEach(r -> all.add(r.name()));
            }
            return all;
        }

        @Override
        public List<String> optionalExits() {
            return List.of("failed");
        }
    }

    /** People are told something by mail; never blocks the run unless {@code undelivered} is wired (law 8). */
    record Notify(
            StepId id,
            String name,
            List<Party> to,
            String subject,
            String text,
            Map<String, StepId> ways,
            @Nullable String expected)
            implements Step {
        public Notify {
            to = List.copyOf(to);
            ways = ordered(ways);
        }

        @Override
        public List<String> exits(@Nullable Action action) {
            return List.of("sent");
        }

        @Override
        public List<String> optionalExits() {
            return List.of("undelivered");
        }
    }

    /** Sets fields of the ticket and its CI, and run variables, in one entry with before and after. */
    record Update(
            StepId id,
            String name,
            List<Assignment> set,
            Map<String, StepId> ways,
            @Nullable String expected) implements Step {
        public Update {
            set = List.copyOf(set);
            ways = ordered(ways);
        }

        @Override
        public List<String> exits(@Nullable Action action) {
            return List.of("done");
        }
    }

    /**
     * One value to set: {@code ticket.state}, {@code ci.lane} or {@code vars.count}.
     *
     * @param value an expression; null when {@code text} is given
     * @param text a text with {@code {{ }}}; null when {@code value} is given
     */
    record Assignment(
            String target, @Nullable String value, @Nullable String text) {}

    /**
     * Waits for a length of time or until an instant.
     *
     * @param span how long; null when {@code until} is given
     * @param until an expression that gives a time; null when {@code span} is given
     */
    record Wait(
            StepId id,
            String name,
            @Nullable Span span,
            @Nullable String until,
            Map<String, StepId> ways,
            @Nullable String expected)
            implements Step {
        public Wait {
            ways = ordered(ways);
        }

        @Override
        public List<String> exits(@Nullable Action action) {
            return List.of("done");
        }
    }

    /**
     * The line ends here.
     *
     * @param result how it ended, in the designer's words
     * @param message text with {@code {{ }}} mailed to the requester; null for none
     * @param stopsRun whether the whole run ends, withdrawing what else is open
     */
    record End(
            StepId id, String name, String result, @Nullable String message, boolean stopsRun) implements Step {
        @Override
        @JsonIgnore
        public Map<String, StepId> ways() {
            return Map.of();
        }

        @Override
        @JsonIgnore
        public @Nullable String expected() {
            return null;
        }

        @Override
        public List<String> exits(@Nullable Action action) {
            return List.of();
        }
    }

    private static <T> Map<String, T> ordered(Map<String, T> ways) {
        return java.util.Collections.unmodifiableMap(new LinkedHashMap<>(ways));
    }
}
