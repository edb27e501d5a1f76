package dastur.core.step.call;

import dastur.core.finding.Inspection;
import dastur.core.json.Texts;
import dastur.core.ticket.Field;
import dastur.core.ticket.FieldType;
import dastur.core.workflow.Facts;
import dastur.core.workflow.WorkflowKey;
import dastur.core.workflow.WorkflowVersion;
import java.util.HashSet;
import java.util.List;
import java.util.Objects;
import java.util.Optional;
import java.util.Set;

/** Checks calls of other workflows: whether they are there, get what they need, and do not come back here. */
final class CallChecks {
    private final Inspection in;

    CallChecks(Inspection in) {
        this.in = in;
    }

    void check(Call call) {
        Optional<WorkflowVersion> callee = in.around().workflows().apply(call.workflow());
        if (callee.isEmpty()) {
            in.blocks(
                    "unknown workflow",
                    call,
                    "workflow",
                    "'" + call.name() + "' runs '" + call.workflow() + "', which is not published or was retired.");
            return;
        }
        if (callsBack(callee.get(), new HashSet<>())) {
            in.blocks(
                    "calls in a circle",
                    call,
                    "workflow",
                    "'" + call.name() + "' runs '" + callee.get().name() + "', which runs this workflow again.");
        }
        elsewhere(call, callee.get());
        for (Field field : callee.get().startForm()) {
            String expression = call.inputs().get(field.name());
            if (Texts.blank(expression)) {
                if (field.required()) {
                    in.blocks("input missing", call, "inputs", "'" + call.name() + "' needs '" + field.label() + "'.");
                }
            } else {
                in.typed(call, "inputs", "'" + field.label() + "' of '" + call.name() + "'", expression, field.type());
            }
        }
    }

    /** The other ticket on which a called workflow runs. */
    private void elsewhere(Call call, WorkflowVersion callee) {
        switch (call.on()) {
            case NewTicket n -> {
                if (callee.kind() != null && callee.kind() != n.raises()) {
                    in.blocks(
                            "other kind",
                            call,
                            "on",
                            "'" + callee.name() + "' is for tickets of kind "
                                    + callee.kind().word() + ", and '" + call.name() + "' raises one of kind "
                                    + n.raises().word() + ".");
                }
                n.fields().forEach((name, expression) -> newField(call, name, expression));
            }
            case KnownTicket k ->
                in.typed(call, "on", "The ticket of '" + call.name() + "'", k.number(), FieldType.TEXT);
            case null -> {}
        }
    }

    private void newField(Call call, String name, String expression) {
        Optional<Field> field = in.around().fields().ticketField(name);
        if (field.isEmpty()) {
            in.blocks(
                    "unknown field",
                    call,
                    "on",
                    "'" + call.name() + "' sets '" + name + "' of the new ticket, which does not exist.");
            return;
        }
        in.typed(
                call,
                "on",
                "'" + field.get().label() + "' of the new ticket of '" + call.name() + "'",
                expression,
                field.get().type());
    }

    private boolean callsBack(WorkflowVersion callee, Set<WorkflowKey> seen) {
        if (callee.key().equals(in.version().key())) {
            return true;
        }
        if (!seen.add(callee.key())) {
            return false;
        }
        return called(callee).stream()
                .map(key -> key.equals(in.version().key())
                        ? Optional.of(in.version())
                        : in.around().workflows().apply(key))
                .flatMap(Optional::stream)
                .anyMatch(v -> callsBack(v, seen));
    }

    private static List<WorkflowKey> called(WorkflowVersion v) {
        return v.body()
                .all()
                .map(s -> Facts.of(s).calls())
                .filter(Objects::nonNull)
                .toList();
    }
}
