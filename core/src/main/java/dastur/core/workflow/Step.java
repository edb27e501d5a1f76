package dastur.core.workflow;

import com.fasterxml.jackson.annotation.JsonIgnore;
import com.fasterxml.jackson.annotation.JsonInclude;
import com.fasterxml.jackson.annotation.JsonSubTypes;
import com.fasterxml.jackson.annotation.JsonTypeInfo;
import com.fasterxml.jackson.annotation.JsonValue;
import com.fasterxml.jackson.databind.annotation.JsonTypeIdResolver;
import dastur.core.people.Party;
import dastur.core.ticket.Field;
import dastur.core.ticket.TicketKind;
import dastur.core.time.Span;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.regex.Matcher;
import java.util.regex.Pattern;
import java.util.stream.Stream;
import org.jspecify.annotations.Nullable;

/**
 * One thing in a workflow. Each kind knows its exits; a way leads from an exit to a step of the same level, exactly one
 * per exit (D8). The expected exit draws the main line.
 */
@JsonTypeInfo(use = JsonTypeInfo.Id.CUSTOM, property = "kind")
@JsonTypeIdResolver(StepWords.class)
@JsonInclude(JsonInclude.Include.NON_NULL)
public sealed interface Step
        permits Step.HumanTask,
                Step.Approval,
                Step.Branch,
                Step.Acting,
                Step.Notify,
                Step.Update,
                Step.Wait,
                Step.Call,
                Step.Escalate,
                Step.End,
                Check,
                Bracket {
    StepId id();

    String name();

    /** The ways by exit; an exit without a way is missing here. */
    Map<String, StepId> ways();

    /** The exit named as the expected one; null means the first of {@link #exits()}. */
    @Nullable String expected();

    /** Exits that must lead somewhere, in order. */
    List<String> exits(Known known);

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
     * @param leftOutIf a condition under which the task is left out; null for never
     * @param mayLeaveOut whether those it is offered to may leave it out; a normal result, not an intervention
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
            @Nullable String leftOutIf,
            boolean mayLeaveOut,
            Map<String, StepId> ways,
            @Nullable String expected)
            implements Step {
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
            ways = ordered(ways);
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
            @Nullable String expected,
            @Nullable Terms terms)
            implements Step {
        /**
         * Finer terms of a vote.
         *
         * @param veto those whose no ends it at once, whatever the rule
         * @param commentAlways whether a yes needs a comment as well as a no
         * @param mayAddConditions whether a yes may carry a condition, such as "gates 3 and 4 only"
         * @param without those who may not vote although they are asked, such as who implements the change
         */
        public record Terms(
                List<Party> veto,
                boolean commentAlways,
                boolean mayAddConditions,
                @JsonInclude(JsonInclude.Include.NON_EMPTY) List<Party> without) {
            /** None. */
            public static final Terms PLAIN = new Terms(List.of(), false, false);

            /** With nobody left out. */
            public Terms(List<Party> veto, boolean commentAlways, boolean mayAddConditions) {
                this(veto, commentAlways, mayAddConditions, List.of());
            }

            public Terms {
                veto = veto == null ? List.of() : List.copyOf(veto);
                without = without == null ? List.of() : List.copyOf(without);
            }
        }

        /** On plain terms. */
        public Approval(
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
                @Nullable String expected) {
            this(
                    id,
                    name,
                    question,
                    setsOff,
                    asked,
                    rule,
                    notRequester,
                    notDoersOf,
                    shown,
                    commentOnDecline,
                    within,
                    ladder,
                    ways,
                    expected,
                    null);
        }

        public Approval {
            terms = Terms.PLAIN.equals(terms) ? null : terms;
            asked = List.copyOf(asked);
            notDoersOf = notDoersOf == null ? null : List.copyOf(notDoersOf);
            shown = List.copyOf(shown);
            ways = ordered(ways);
        }

        @Override
        public List<String> exits(Known known) {
            return List.of("approved", "declined");
        }

        @Override
        public List<String> optionalExits() {
            return List.of("lapsed");
        }
    }

    /**
     * A decision on data: the first case whose condition holds is taken (N13).
     *
     * @param table decides instead of the cases; null for none
     */
    record Branch(
            StepId id,
            String name,
            List<BranchCase> cases,
            @Nullable DecisionTable table,
            Map<String, StepId> ways,
            @Nullable String expected)
            implements Step {
        /** A branch without a table. */
        public Branch(
                StepId id, String name, List<BranchCase> cases, Map<String, StepId> ways, @Nullable String expected) {
            this(id, name, cases, null, ways, expected);
        }

        public Branch {
            cases = List.copyOf(cases);
            ways = ordered(ways);
        }

        @Override
        public List<String> exits(Known known) {
            List<String> all = new ArrayList<>(
                    table != null
                            ? table.results()
                            : cases.stream().map(BranchCase::name).toList());
            all.add("otherwise");
            return all;
        }
    }

    /** A named case of a branch; the condition is an expression. */
    record BranchCase(String name, String when) {}

    /** A step in which a machine carries out an action. */
    sealed interface Acting extends Step {
        ActionKey action();

        /** An expression for each input of the action. */
        Map<String, String> inputs();

        /** Overrides the action's own; null for none. */
        @Nullable Span timeLimit();

        /** Overrides the action's own; null for none, else at least 1. */
        @Nullable Integer tries();

        /** What undoes it; null when nothing does. */
        default @Nullable PutBack putBack() {
            return null;
        }
    }

    /**
     * How a completed step is undone: an action whose inputs are fixed when the step is completed (N21, D16).
     *
     * @param inputs an expression for each input of the action
     * @param always whether it is put back on success too, because it is switched off for a time only
     * @param repeatable whether it may be put back when nobody knows if the step happened
     */
    record PutBack(ActionKey action, Map<String, String> inputs, boolean always, boolean repeatable) {
        public PutBack {
            inputs = ordered(inputs);
        }
    }

    /**
     * An action of the catalogue is carried out by a machine (N14).
     *
     * @param tries overrides the action's own; at least 1
     */
    record Automation(
            StepId id,
            String name,
            ActionKey action,
            Map<String, String> inputs,
            @Nullable Span timeLimit,
            @Nullable Integer tries,
            @Nullable PutBack putBack,
            Map<String, StepId> ways,
            @Nullable String expected)
            implements Acting {
        /** An automation that nothing undoes. */
        public Automation(
                StepId id,
                String name,
                ActionKey action,
                Map<String, String> inputs,
                @Nullable Span timeLimit,
                @Nullable Integer tries,
                Map<String, StepId> ways,
                @Nullable String expected) {
            this(id, name, action, inputs, timeLimit, tries, null, ways, expected);
        }

        public Automation {
            inputs = ordered(inputs);
            ways = ordered(ways);
        }

        @Override
        public List<String> exits(Known known) {
            List<String> all = new ArrayList<>();
            all.add("ok");
            known.action(action).ifPresent(a -> a.results().forEach(r -> all.add(r.name())));
            return all;
        }

        @Override
        public List<String> optionalExits() {
            return List.of("failed");
        }
    }

    /** A measurement: an action whose outputs are kept under the step's id for checks and comparison (N22). */
    record Capture(
            StepId id,
            String name,
            ActionKey action,
            Map<String, String> inputs,
            @Nullable Span timeLimit,
            @Nullable Integer tries,
            Map<String, StepId> ways,
            @Nullable String expected)
            implements Acting {
        public Capture {
            inputs = ordered(inputs);
            ways = ordered(ways);
        }

        @Override
        public List<String> exits(Known known) {
            return List.of("ok");
        }

        @Override
        public List<String> optionalExits() {
            return List.of("failed");
        }
    }

    /**
     * The ticket's room in chat (N61, N63).
     *
     * @param name text with {@code {{ }}}: what it is called when it is opened
     * @param keepsAll whether all that is said there comes onto the record, or only what begins with an exclamation mark
     */
    record Room(String name, boolean keepsAll) {}

    /**
     * People are told something, each as they want to be reached; never blocks the run unless {@code undelivered} is
     * wired (law 8).
     *
     * @param room where it is said instead, with these people invited; null for none
     */
    record Notify(
            StepId id,
            String name,
            List<Party> to,
            String subject,
            String text,
            @Nullable Room room,
            Map<String, StepId> ways,
            @Nullable String expected)
            implements Step {
        /** To each by themselves. */
        public Notify(
                StepId id,
                String name,
                List<Party> to,
                String subject,
                String text,
                Map<String, StepId> ways,
                @Nullable String expected) {
            this(id, name, to, subject, text, null, ways, expected);
        }

        public Notify {
            to = List.copyOf(to);
            ways = ordered(ways);
        }

        @Override
        public List<String> exits(Known known) {
            return List.of("sent");
        }

        @Override
        public List<String> optionalExits() {
            return room == null ? List.of("undelivered") : List.of();
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
        public List<String> exits(Known known) {
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
            String target, @Nullable String value, @Nullable String text) {
        private static final Pattern LITERAL = Pattern.compile("(['\"])([^'\"\\\\]*)\\1");

        /** The value where it is said outright; empty where it is computed. */
        public Optional<String> said() {
            if (text != null) {
                return text.contains("{{") ? Optional.empty() : Optional.of(text);
            }
            Matcher quoted = LITERAL.matcher(value == null ? "" : value.strip());
            return quoted.matches() ? Optional.of(quoted.group(2)) : Optional.empty();
        }
    }

    /**
     * Waits for a length of time, a moment, a condition on the ticket, a signal or a reply. Exactly one of these is given.
     *
     * @param span how long
     * @param until an expression that gives a time
     * @param condition an expression that must become true; looked at after each change of the ticket (D7)
     * @param signal the name of a signal that comes from outside
     * @param key an expression: only a signal with this key counts; null for any
     * @param replyOf whoever of these writes on the ticket next has replied
     * @param within how long at most for a condition, a signal or a reply; null for ever
     */
    record Wait(
            StepId id,
            String name,
            @Nullable Span span,
            @Nullable String until,
            @Nullable String condition,
            @Nullable String signal,
            @Nullable String key,
            @Nullable Party replyOf,
            @Nullable Span within,
            Map<String, StepId> ways,
            @Nullable String expected)
            implements Step {
        /** A wait for a length of time or a moment. */
        public Wait(
                StepId id,
                String name,
                @Nullable Span span,
                @Nullable String until,
                Map<String, StepId> ways,
                @Nullable String expected) {
            this(id, name, span, until, null, null, null, null, null, ways, expected);
        }

        public Wait {
            ways = ordered(ways);
        }

        @Override
        public List<String> exits(Known known) {
            return List.of("done");
        }

        @Override
        public List<String> optionalExits() {
            return condition == null && signal == null && replyOf == null ? List.of() : List.of("timed out");
        }
    }

    /** Another ticket than this one, for a called workflow to run on (D11). */
    @JsonTypeInfo(use = JsonTypeInfo.Id.NAME, property = "is")
    @JsonSubTypes({
        @JsonSubTypes.Type(value = NewTicket.class, name = "new"),
        @JsonSubTypes.Type(value = KnownTicket.class, name = "known")
    })
    sealed interface Elsewhere {}

    /**
     * A ticket raised for it. Requester, service and CI are those of this ticket unless given.
     *
     * @param fields an expression for each field that is given
     */
    record NewTicket(TicketKind raises, Map<String, String> fields) implements Elsewhere {
        public NewTicket {
            fields = ordered(fields);
        }
    }

    /** A ticket that is there. @param number an expression that gives its number */
    record KnownTicket(String number) implements Elsewhere {}

    /**
     * Runs another workflow and waits for its result (N19, D11).
     *
     * @param inputs an expression for each field of the other's start form
     * @param on the ticket it runs on; null for this one
     */
    record Call(
            StepId id,
            String name,
            WorkflowKey workflow,
            Map<String, String> inputs,
            @Nullable Elsewhere on,
            Map<String, StepId> ways,
            @Nullable String expected)
            implements Step {
        /** On this ticket. */
        public Call(
                StepId id,
                String name,
                WorkflowKey workflow,
                Map<String, String> inputs,
                Map<String, StepId> ways,
                @Nullable String expected) {
            this(id, name, workflow, inputs, null, ways, expected);
        }

        public Call {
            inputs = ordered(inputs);
            ways = ordered(ways);
        }

        @Override
        public List<String> exits(Known known) {
            return known.results(workflow);
        }

        @Override
        public List<String> optionalExits() {
            return List.of("stopped");
        }
    }

    /**
     * Calls people in, up a ladder, until somebody accepts (N20, N61). Each rung that tells or hands over asks its people
     * to join; the others do what they say.
     *
     * @param as what whoever comes takes part as, named by the organisation, such as "incident commander"; null for
     *     nothing named
     * @param message text with {@code {{ }}}: why they are called
     * @param within how long at most
     */
    record Escalate(
            StepId id,
            String name,
            LadderKey ladder,
            @Nullable String as,
            String message,
            Span within,
            Map<String, StepId> ways,
            @Nullable String expected)
            implements Step {
        public Escalate {
            ways = ordered(ways);
        }

        @Override
        public List<String> exits(Known known) {
            return List.of("accepted");
        }

        @Override
        public List<String> optionalExits() {
            return List.of("exhausted");
        }
    }

    /** What an end does beside ending its line (D8). */
    enum Ending {
        /** Ends the line; it is done. */
        LINE("line"),
        /** Ends the line as failed: an item of a for each, or a lane. */
        FAILED("failed"),
        /** Leaves the bracket around it by an exit of that name, withdrawing what else is open in it. */
        LEAVE("leave"),
        /** Puts back what the stage around it, or the run, has done, then leaves it. */
        PUT_BACK("put back"),
        /** Ends the whole run, withdrawing what else is open. */
        RUN("run");

        private final String word;

        Ending(String word) {
            this.word = word;
        }

        @JsonValue
        public String word() {
            return word;
        }
    }

    /**
     * The line ends here.
     *
     * @param result how it ended, in the designer's words; the exit's name where it leaves a bracket
     * @param message text with {@code {{ }}} mailed to the requester; null for none
     */
    record End(
            StepId id, String name, String result, @Nullable String message, Ending ending) implements Step {
        /** An end of a line, or of the whole run. */
        public End(StepId id, String name, String result, @Nullable String message, boolean stopsRun) {
            this(id, name, result, message, stopsRun ? Ending.RUN : Ending.LINE);
        }

        public End {
            ending = ending == null ? Ending.LINE : ending;
        }

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
        public List<String> exits(Known known) {
            return List.of();
        }
    }

    /** The levels inside, for brackets; others have none. */
    @JsonIgnore
    default List<Level> levels() {
        return List.of();
    }

    /** This step and all inside it, in reading order. */
    default Stream<Step> withInner() {
        return Stream.concat(Stream.of(this), levels().stream().flatMap(Level::all));
    }

    static <T> Map<String, T> ordered(Map<String, T> ways) {
        return java.util.Collections.unmodifiableMap(new LinkedHashMap<>(ways));
    }
}
