package dastur.core.notation;

import dastur.core.people.Party;
import dastur.core.ticket.Field;
import dastur.core.ticket.TicketKind;
import dastur.core.time.Span;
import dastur.core.workflow.ActionKey;
import dastur.core.workflow.ApprovalRule;
import dastur.core.workflow.Bracket;
import dastur.core.workflow.Check;
import dastur.core.workflow.DecisionTable;
import dastur.core.workflow.Known;
import dastur.core.workflow.LadderKey;
import dastur.core.workflow.Level;
import dastur.core.workflow.Step;
import dastur.core.workflow.StepId;
import dastur.core.workflow.WorkflowKey;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import org.jspecify.annotations.Nullable;

/** A step while it is read: its sentence, then the lines under it. Which parts count depends on its kind. */
final class Draft {
    enum Kind {
        ASK,
        APPROVE,
        RUN,
        MEASURE,
        CHECK,
        TELL,
        UPDATE,
        DECIDE,
        WAIT,
        FOR_EACH,
        REPEAT,
        STAGE,
        FORK,
        CALL,
        CALL_IN,
        END
    }

    Kind kind = Kind.END;
    String name = "";
    final List<Party> parties = new ArrayList<>();
    final List<String> outcomes = new ArrayList<>();
    final Map<String, String> inputs = new LinkedHashMap<>();
    final List<Step.Assignment> assignments = new ArrayList<>();
    final List<Step.BranchCase> cases = new ArrayList<>();
    final List<Check.Rule> rules = new ArrayList<>();
    final List<Field> form = new ArrayList<>();
    final List<String> shown = new ArrayList<>();
    final List<StepId> notDoersOf = new ArrayList<>();
    final List<Bracket.Lane> lanes = new ArrayList<>();
    final List<Step> body = new ArrayList<>();
    final Map<String, StepId> ways = new LinkedHashMap<>();
    final List<DecisionTable.Input> columns = new ArrayList<>();
    final List<DecisionTable.Row> rows = new ArrayList<>();
    DecisionTable.@Nullable Hit hit;

    @Nullable String text;

    @Nullable String subject;

    @Nullable String expression;

    @Nullable String condition;

    @Nullable String signal;

    @Nullable String key;

    @Nullable String item;

    @Nullable String result;

    @Nullable String setsOff;

    @Nullable String leftOutIf;

    @Nullable String expected;

    @Nullable Span span;

    @Nullable Span every;

    @Nullable Integer number;

    @Nullable Party overseer;

    @Nullable ActionKey action;

    @Nullable WorkflowKey workflow;

    @Nullable LadderKey ladder;

    @Nullable TicketKind raises;

    Step.@Nullable Room room;

    ApprovalRule rule = new ApprovalRule.AnyOne();
    Step.Ending ending = Step.Ending.LINE;
    Step.@Nullable PutBack putBack;
    boolean flag;
    boolean notRequester;
    final List<Party> veto = new ArrayList<>();
    final List<Party> without = new ArrayList<>();
    boolean commentAlways;
    boolean mayAddConditions;
    boolean commentOnDecline;
    boolean mayLeaveOut;
    boolean expectedOpen;

    /** The step; its expected exit leads to {@code next} unless something else was said. */
    Step build(StepId id, @Nullable StepId next) {
        Step step = build(id);
        String expected = step.expected() != null
                ? step.expected()
                : step.exits(Known.NOTHING).stream().findFirst().orElse(null);
        if (next == null || expected == null || expectedOpen || ways.containsKey(expected)) {
            return step;
        }
        ways.put(expected, next);
        return build(id);
    }

    /** Gives a bracket that a lone sentence made an end to each of its lines, so that it is whole from the start. */
    void fillBrackets(StepId id, java.util.Set<StepId> taken) {
        java.util.Set<StepId> used = new java.util.HashSet<>(taken);
        used.add(id);
        switch (kind) {
            case STAGE, FOR_EACH, REPEAT -> body.add(end(used));
            case FORK -> {
                lanes.add(new Bracket.Lane("First", null, new Level(List.of(end(used)))));
                lanes.add(new Bracket.Lane("Second", null, new Level(List.of(end(used)))));
            }
            default -> {}
        }
    }

    private static Step end(java.util.Set<StepId> used) {
        StepId id = Notation.freeId("Line done", used);
        used.add(id);
        return new Step.End(id, "Done", "done", null, Step.Ending.LINE);
    }

    private Step build(StepId id) {
        return switch (kind) {
            case ASK ->
                new Step.HumanTask(
                        id,
                        name,
                        text,
                        parties.getFirst(),
                        overseer,
                        outcomes,
                        form.isEmpty() ? null : form,
                        span,
                        ladder,
                        leftOutIf,
                        mayLeaveOut,
                        ways,
                        expected);
            case APPROVE ->
                new Step.Approval(
                        id,
                        name,
                        text,
                        setsOff,
                        parties,
                        rule,
                        notRequester,
                        notDoersOf.isEmpty() ? null : notDoersOf,
                        shown,
                        commentOnDecline,
                        span,
                        ladder,
                        ways,
                        expected,
                        new Step.Approval.Terms(veto, commentAlways, mayAddConditions, without));
            case RUN -> new Step.Automation(id, name, needed(action), inputs, span, number, putBack, ways, expected);
            case MEASURE -> new Step.Capture(id, name, needed(action), inputs, span, number, ways, expected);
            case CHECK ->
                new Check(
                        id,
                        name,
                        rules,
                        action,
                        inputs,
                        span,
                        every,
                        parties.isEmpty() ? null : parties.getFirst(),
                        ways,
                        expected);
            case TELL ->
                new Step.Notify(id, name, parties, needed(subject), text == null ? "" : text, room, ways, expected);
            case UPDATE -> new Step.Update(id, name, assignments, ways, expected);
            case DECIDE ->
                new Step.Branch(
                        id, name, cases, hit == null ? null : new DecisionTable(columns, hit, rows), ways, expected);
            case WAIT ->
                new Step.Wait(
                        id,
                        name,
                        span,
                        expression,
                        condition,
                        signal,
                        key,
                        parties.isEmpty() ? null : parties.getFirst(),
                        every,
                        ways,
                        expected);
            case FOR_EACH ->
                new Bracket.ForEach(
                        id,
                        name,
                        needed(expression),
                        needed(item),
                        needed(number),
                        flag,
                        new Level(body),
                        ways,
                        expected);
            case REPEAT ->
                new Bracket.Repeat(
                        id, name, needed(condition), every, needed(number), span, new Level(body), ways, expected);
            case STAGE -> new Bracket.Stage(id, name, new Level(body), ways, expected);
            case FORK -> new Bracket.Fork(id, name, lanes, number, ways, expected);
            case CALL -> new Step.Call(id, name, needed(workflow), inputs, elsewhere(), ways, expected);
            case CALL_IN ->
                new Step.Escalate(
                        id, name, needed(ladder), subject, text == null ? name : text, needed(span), ways, expected);
            case END -> new Step.End(id, name, needed(result), text, ending);
        };
    }

    private Step.@Nullable Elsewhere elsewhere() {
        if (raises != null) {
            Map<String, String> fields = new LinkedHashMap<>();
            assignments.forEach(
                    a -> fields.put(a.target().replaceFirst("^ticket\\.", ""), a.value() == null ? "" : a.value()));
            return new Step.NewTicket(raises, fields);
        }
        return key == null ? null : new Step.KnownTicket(key);
    }

    private static <T> T needed(@Nullable T value) {
        return java.util.Objects.requireNonNull(value);
    }
}
