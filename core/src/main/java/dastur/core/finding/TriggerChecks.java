package dastur.core.finding;

import dastur.core.expression.Expressions;
import dastur.core.expression.Vocabulary;
import dastur.core.json.Texts;
import dastur.core.ticket.Field;
import dastur.core.workflow.Step;
import dastur.core.workflow.Trigger;
import dastur.core.workflow.WorkflowVersion;
import java.util.List;

/** Checks a workflow's triggers. */
final class TriggerChecks {
    private final Surroundings around;
    private final Findings.Found found;

    TriggerChecks(Surroundings around, Findings.Found found) {
        this.around = around;
        this.found = found;
    }

    void check(WorkflowVersion version, List<Trigger> triggers) {
        Expressions expressions = new Expressions(Vocabulary.ofTicket(around.fields()));
        for (Trigger trigger : triggers) {
            if (!Texts.blank(trigger.condition())) {
                expressions
                        .problemWithCondition(trigger.condition())
                        .ifPresent(p -> found.blocks(
                                "wrong expression",
                                null,
                                "triggers",
                                "A trigger's condition cannot be understood: " + p.message()));
            }
            if (trigger.when() instanceof Trigger.FieldReaches f) {
                if (around.fields().ticketField(f.field()).isEmpty()) {
                    found.blocks(
                            "unknown field",
                            null,
                            "triggers",
                            "A trigger waits for the field '" + f.field() + "', which does not exist.");
                } else if (setsItself(version, f)) {
                    found.warns(
                            "sets itself off",
                            null,
                            "triggers",
                            "This workflow itself sets '" + f.field() + "' to '" + f.value()
                                    + "'; its own change will not start it again.");
                }
            }
            boolean alone = !(trigger.when() instanceof Trigger.ByHand);
            version.startForm().stream()
                    .filter(Field::required)
                    .filter(f -> alone)
                    .findFirst()
                    .ifPresent(f -> found.blocks(
                            "start form",
                            null,
                            "triggers",
                            "The start form needs '" + f.label()
                                    + "', which a trigger that starts alone cannot give."));
        }
        if (triggers.isEmpty()) {
            found.warns(
                    "no trigger",
                    null,
                    "triggers",
                    "Nothing starts this workflow. Add a trigger, or let people start it by hand.");
        }
    }

    private static boolean setsItself(WorkflowVersion version, Trigger.FieldReaches f) {
        String literal = "\"" + f.value() + "\"";
        return version.body().steps().stream()
                .filter(Step.Update.class::isInstance)
                .flatMap(s -> ((Step.Update) s).set().stream())
                .anyMatch(a -> a.target().equals("ticket." + f.field())
                        && (f.value().equals(a.text()) || literal.equals(a.value())));
    }
}
