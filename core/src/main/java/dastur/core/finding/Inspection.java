package dastur.core.finding;

import dastur.core.expression.ExpressionProblem;
import dastur.core.expression.Expressions;
import dastur.core.expression.TextTemplate;
import dastur.core.json.Texts;
import dastur.core.people.Party;
import dastur.core.ticket.Field;
import dastur.core.ticket.FieldType;
import dastur.core.time.Span;
import dastur.core.workflow.LadderKey;
import dastur.core.workflow.Step;
import dastur.core.workflow.WorkflowVersion;
import org.jspecify.annotations.Nullable;

/** Looking at the steps of one version, one by one: what is there to look at, and where faults are told. */
public final class Inspection {
    private final WorkflowVersion version;
    private final KnownOrganisation around;
    private final Expressions expressions;
    private final Findings.Found found;
    private final ValueChecks values;
    private final PeopleChecks people;

    Inspection(WorkflowVersion version, KnownOrganisation around, Expressions expressions, Findings.Found found) {
        this.version = version;
        this.around = around;
        this.expressions = expressions;
        this.found = found;
        this.values = new ValueChecks(around, expressions, found);
        this.people = new PeopleChecks(around, this);
    }

    public WorkflowVersion version() {
        return version;
    }

    public KnownOrganisation around() {
        return around;
    }

    public Expressions expressions() {
        return expressions;
    }

    // --- telling

    /** A fault with which nothing is published. @param field the part of the step it is in; null for the whole */
    public void blocks(String code, Step step, @Nullable String field, String message) {
        found.blocks(code, step.id(), field, message);
    }

    /** A likely fault. */
    public void warns(String code, Step step, @Nullable String field, String message) {
        found.warns(code, step.id(), field, message);
    }

    /** Something to know. */
    public void advises(String code, Step step, String message) {
        found.advises(code, step.id(), message);
    }

    private void wrong(Step step, String field, String what, ExpressionProblem problem) {
        blocks("wrong expression", step, field, what + " cannot be understood: " + problem.message());
    }

    // --- what many kinds have

    /** An expression must be understood. @param what begins the sentence, such as "The key of 'Wait'" */
    public void expression(Step step, String field, String what, @Nullable String expression) {
        expressions.problemWith(expression == null ? "" : expression).ifPresent(p -> wrong(step, field, what, p));
    }

    /** An expression must give a value of a type. */
    public void typed(Step step, String field, String what, @Nullable String expression, FieldType type) {
        expressions
                .problemWithTyped(expression == null ? "" : expression, type)
                .ifPresent(p -> wrong(step, field, what, p));
    }

    /** A condition must be one. */
    public void condition(Step step, String field, String what, @Nullable String condition) {
        expressions
                .problemWithCondition(condition == null ? "" : condition)
                .ifPresent(p -> wrong(step, field, what, p));
    }

    /** A value for a field: of its type, and, where it is said outright, something that there is. */
    public void value(Step step, String where, String what, String expression, Field field) {
        values.value(step, where, what, expression, field);
    }

    /** A state that is said outright must be one of the tickets' states. */
    public void state(Step step, String where, String expression) {
        values.state(version, step, where, expression);
    }

    /** A text with values in it: not too long, and each value can be filled in. */
    public void text(Step step, String field, @Nullable String text) {
        if (text == null) {
            return;
        }
        if (text.length() > Texts.MAX_TEXT) {
            blocks(
                    "text too long",
                    step,
                    field,
                    "A text of '" + step.name() + "' is longer than " + Texts.MAX_TEXT + " characters.");
        }
        TextTemplate.parse(text)
                .problem(expressions)
                .ifPresent(p -> blocks(
                        "wrong text",
                        step,
                        field,
                        "A text of '" + step.name() + "' cannot be filled in: " + p.message()));
    }

    /** Whoever is meant must be there. */
    public void somebody(Step step, String field, Party party) {
        people.somebody(step, field, party);
    }

    /** A ladder must be there, with people to tell, and with rungs that fire before all is over. @param ends whether the step is over at {@code due} */
    public void ladder(Step step, @Nullable LadderKey key, @Nullable Span due, boolean ends) {
        people.ladder(step, key, due, ends);
    }
}
