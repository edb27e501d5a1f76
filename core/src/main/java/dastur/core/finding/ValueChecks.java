package dastur.core.finding;

import dastur.core.expression.ExpressionProblem;
import dastur.core.expression.Expressions;
import dastur.core.expression.Literal;
import dastur.core.json.Texts;
import dastur.core.people.GroupId;
import dastur.core.people.Person;
import dastur.core.people.PersonId;
import dastur.core.ticket.Field;
import dastur.core.ticket.TicketKind;
import dastur.core.workflow.Step;
import dastur.core.workflow.WorkflowVersion;
import java.util.Optional;

/** Checks values that steps set or hand on: their type, and whether there is what is said outright. */
final class ValueChecks {
    private final KnownOrganisation around;
    private final Expressions expressions;
    private final Findings.Found found;

    ValueChecks(KnownOrganisation around, Expressions expressions, Findings.Found found) {
        this.around = around;
        this.expressions = expressions;
        this.found = found;
    }

    /** A state that is said outright must be one of the tickets' states. */
    void state(WorkflowVersion version, Step step, String where, String expression) {
        Literal.text(expression)
                .filter(word -> !TicketKind.isState(version.kind(), word))
                .ifPresent(word -> found.blocks(
                        "unknown value",
                        step.id(),
                        where,
                        "'" + step.name() + "' sets the state '" + word + "', which does not exist."));
    }

    /** It must be understood, be of the field's type, and, where it is said outright, be something that there is. */
    void value(Step step, String where, String what, String expression, Field field) {
        Optional<ExpressionProblem> problem = expressions.problemWithTyped(expression, field.type());
        problem.ifPresent(p ->
                found.blocks("wrong expression", step.id(), where, what + " cannot be understood: " + p.message()));
        if (problem.isEmpty()) {
            Literal.text(expression)
                    .flatMap(said -> unknown(field, said))
                    .ifPresent(why -> found.blocks("unknown value", step.id(), where, what + " " + why));
        }
    }

    /** Why there is no such thing; empty where there is, or where nobody here can say. */
    private Optional<String> unknown(Field field, String said) {
        String why =
                switch (field.type()) {
                    case GROUP -> isGroup(said) ? null : "a group which does not exist";
                    case PERSON -> isPerson(said) ? null : "who is not an active person";
                    case CHOICE ->
                        field.choices() == null || field.choices().contains(said)
                                ? null
                                : "which is none of " + String.join(", ", field.choices());
                    case TEXT, LONG_TEXT, WHOLE, NUMBER, YES_NO, TIME, SERVICE, CI, LIST, ANY -> null;
                };
        return Optional.ofNullable(why).map(w -> "is '" + said + "', " + w + ".");
    }

    private boolean isGroup(String said) {
        return Texts.isId(said) && around.groups().apply(new GroupId(said)).isPresent();
    }

    private boolean isPerson(String said) {
        return Texts.isId(said)
                && around.people()
                        .apply(new PersonId(said))
                        .filter(Person::active)
                        .isPresent();
    }
}
