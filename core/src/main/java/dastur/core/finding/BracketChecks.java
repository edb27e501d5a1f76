package dastur.core.finding;

import dastur.core.expression.Expressions;
import dastur.core.json.Texts;
import dastur.core.ticket.Field;
import dastur.core.ticket.FieldType;
import dastur.core.workflow.Bracket;
import dastur.core.workflow.Level;
import dastur.core.workflow.Step;
import dastur.core.workflow.WorkflowKey;
import dastur.core.workflow.WorkflowVersion;
import java.util.HashSet;
import java.util.List;
import java.util.Optional;
import java.util.Set;

/** Checks brackets, called workflows and what is put back. */
final class BracketChecks {
    private static final Set<String> ROOTS = Set.of(
            "ticket", "ci", "service", "requester", "run", "input", "vars", "steps", "measured", "is", "now", "signal");

    private final WorkflowVersion version;
    private final Surroundings around;
    private final Expressions expressions;
    private final Findings.Found found;

    BracketChecks(WorkflowVersion version, Surroundings around, Expressions expressions, Findings.Found found) {
        this.version = version;
        this.around = around;
        this.expressions = expressions;
        this.found = found;
    }

    void check() {
        version.body().all().forEach(step -> {
            switch (step) {
                case Bracket.Fork f -> fork(f);
                case Bracket.ForEach e -> forEach(e);
                case Bracket.Repeat r -> repeat(r);
                case Bracket.Stage s -> stage(s);
                case Step.Call c -> call(c);
                default -> {}
            }
        });
    }

    private void fork(Bracket.Fork fork) {
        Set<String> names = new HashSet<>();
        int hopeless = 0;
        for (Bracket.Lane lane : fork.lanes()) {
            if (!names.add(lane.name())) {
                found.blocks(
                        "same name twice",
                        fork.id(),
                        "lanes",
                        "Two lanes of '" + fork.name() + "' are called '" + lane.name() + "'.");
            }
            if (!Texts.blank(lane.when())) {
                expressions
                        .problemWithCondition(lane.when())
                        .ifPresent(p -> found.blocks(
                                "wrong expression",
                                fork.id(),
                                "lanes",
                                "The condition of the lane '" + lane.name() + "' cannot be understood: "
                                        + p.message()));
            }
            hopeless += canBeDone(lane.body()) ? 0 : 1;
        }
        int needed = fork.first() == null ? fork.lanes().size() : fork.first();
        if (fork.lanes().size() - hopeless < needed) {
            found.blocks(
                    "join waits for ever",
                    fork.id(),
                    null,
                    "'" + fork.name() + "' waits for " + needed + " lanes, but " + hopeless
                            + " of them can never be done. Give each an end that is done.");
        } else if (fork.levels().stream().anyMatch(BracketChecks::canFail)
                && !fork.ways().containsKey("short")) {
            found.warns(
                    "short stalls",
                    fork.id(),
                    (String) null,
                    "When a lane of '" + fork.name() + "' fails, too few can be done and the run stalls. Lead 'short'"
                            + " somewhere if it should go on.");
        }
        fork.levels().forEach(level -> writesOutside(fork, level));
    }

    private static boolean canBeDone(Level level) {
        return level.steps().isEmpty()
                || WayChecks.reachedFrom(level, level.steps().getFirst().id()).stream()
                        .anyMatch(id ->
                                level.step(id).orElseThrow() instanceof Step.End e && e.ending() == Step.Ending.LINE);
    }

    private static boolean canFail(Level level) {
        return level.steps().stream().anyMatch(s -> s instanceof Step.End e && e.ending() == Step.Ending.FAILED);
    }

    /** Lines side by side would overwrite each other's values (D10). */
    private void writesOutside(Bracket bracket, Level level) {
        level.all()
                .filter(s -> s instanceof Step.Update u
                        && u.set().stream().anyMatch(a -> a.target().startsWith("vars.")))
                .findFirst()
                .ifPresent(s -> found.blocks(
                        "parallel writes",
                        s.id(),
                        "set",
                        "'" + s.name() + "' sets a run variable while other lines of '" + bracket.name()
                                + "' run beside it. Set it after they meet."));
    }

    private void forEach(Bracket.ForEach each) {
        expressions
                .problemWithTyped(each.list(), FieldType.LIST)
                .ifPresent(p -> found.blocks(
                        "wrong expression",
                        each.id(),
                        "list",
                        "The list of '" + each.name() + "' cannot be understood: " + p.message()));
        if (ROOTS.contains(each.item())) {
            found.blocks(
                    "item's name",
                    each.id(),
                    "item",
                    "The items of '" + each.name() + "' are called '" + each.item()
                            + "', which means something else in expressions. Choose another word.");
        }
        if (each.atOnce() > 1) {
            writesOutside(each, each.body());
        }
    }

    private void repeat(Bracket.Repeat repeat) {
        expressions
                .problemWithCondition(repeat.until())
                .ifPresent(p -> found.blocks(
                        "wrong expression",
                        repeat.id(),
                        "until",
                        "The condition of '" + repeat.name() + "' cannot be understood: " + p.message()));
        boolean turnsAtOnce = repeat.pause() == null
                && repeat.body().steps().stream().allMatch(WayChecks::instant)
                && !repeat.body().steps().isEmpty();
        if (turnsAtOnce && !changesWhatItReads(repeat)) {
            found.blocks(
                    "busy repeat",
                    repeat.id(),
                    "until",
                    "Nothing in '" + repeat.name()
                            + "' can change what its condition reads, and it does not pause. Give it a pause.");
        }
    }

    private boolean changesWhatItReads(Bracket.Repeat repeat) {
        Set<String> reads = expressions.reads(repeat.until());
        return repeat.body()
                .all()
                .anyMatch(s -> reads.stream().anyMatch(r -> r.startsWith("steps." + s.id() + "."))
                        || s instanceof Step.Update u && u.set().stream().anyMatch(a -> reads.contains(a.target())));
    }

    private void stage(Bracket.Stage stage) {
        boolean asks = stage.exits(around.known()).contains("put back");
        boolean any = stage.body().all().anyMatch(s -> s instanceof Step.Acting a && a.putBack() != null);
        if (asks && !any) {
            found.warns(
                    "nothing to put back",
                    stage.id(),
                    (String) null,
                    "'" + stage.name() + "' can be put back, but no step in it says what undoes it.");
        }
        if (canFail(stage.body()) && !stage.ways().containsKey("failed")) {
            found.warns(
                    "failure stalls",
                    stage.id(),
                    (String) null,
                    "When '" + stage.name() + "' fails, the run stalls. Lead 'failed' somewhere if it should go on.");
        }
    }

    // --- called workflows

    private void call(Step.Call call) {
        Optional<WorkflowVersion> callee = around.workflows().apply(call.workflow());
        if (callee.isEmpty()) {
            found.blocks(
                    "unknown workflow",
                    call.id(),
                    "workflow",
                    "'" + call.name() + "' runs '" + call.workflow() + "', which is not published or was retired.");
            return;
        }
        if (callsBack(callee.get(), new HashSet<>())) {
            found.blocks(
                    "calls in a circle",
                    call.id(),
                    "workflow",
                    "'" + call.name() + "' runs '" + callee.get().name() + "', which runs this workflow again.");
        }
        elsewhere(call, callee.get());
        for (Field field : callee.get().startForm()) {
            String expression = call.inputs().get(field.name());
            if (Texts.blank(expression)) {
                if (field.required()) {
                    found.blocks(
                            "input missing",
                            call.id(),
                            "inputs",
                            "'" + call.name() + "' needs '" + field.label() + "'.");
                }
            } else {
                expressions
                        .problemWithTyped(expression, field.type())
                        .ifPresent(p -> found.blocks(
                                "wrong expression",
                                call.id(),
                                "inputs",
                                "'" + field.label() + "' of '" + call.name() + "' cannot be understood: "
                                        + p.message()));
            }
        }
    }

    /** A result that callers lead nowhere would stall their runs: they are changed first (D11). */
    void callers() {
        for (WorkflowVersion caller : around.callers().apply(version.key())) {
            caller.body().all().forEach(step -> {
                if (step instanceof Step.Call c && c.workflow().equals(version.key())) {
                    version.endings().stream()
                            .filter(result -> !c.ways().containsKey(result))
                            .forEach(result -> found.blocks(
                                    "callers do not expect it",
                                    null,
                                    null,
                                    "It can end with '" + result + "', which '" + c.name() + "' of '" + caller.name()
                                            + "' leads nowhere. Lead it on there and publish that first."));
                }
            });
        }
    }

    /** The other ticket on which a called workflow runs. */
    private void elsewhere(Step.Call call, WorkflowVersion callee) {
        switch (call.on()) {
            case Step.NewTicket n -> {
                if (callee.kind() != null && callee.kind() != n.raises()) {
                    found.blocks(
                            "other kind",
                            call.id(),
                            "on",
                            "'" + callee.name() + "' is for tickets of kind "
                                    + callee.kind().word() + ", and '" + call.name() + "' raises one of kind "
                                    + n.raises().word() + ".");
                }
                n.fields().forEach((name, expression) -> newField(call, name, expression));
            }
            case Step.KnownTicket k ->
                expressions
                        .problemWithTyped(k.number(), FieldType.TEXT)
                        .ifPresent(p -> found.blocks(
                                "wrong expression",
                                call.id(),
                                "on",
                                "The ticket of '" + call.name() + "' cannot be understood: " + p.message()));
            case null -> {}
        }
    }

    private void newField(Step.Call call, String name, String expression) {
        Optional<Field> field = around.fields().ticketField(name);
        if (field.isEmpty()) {
            found.blocks(
                    "unknown field",
                    call.id(),
                    "on",
                    "'" + call.name() + "' sets '" + name + "' of the new ticket, which does not exist.");
            return;
        }
        expressions
                .problemWithTyped(expression, field.get().type())
                .ifPresent(p -> found.blocks(
                        "wrong expression",
                        call.id(),
                        "on",
                        "'" + field.get().label() + "' of the new ticket of '" + call.name()
                                + "' cannot be understood: " + p.message()));
    }

    private boolean callsBack(WorkflowVersion callee, Set<WorkflowKey> seen) {
        if (callee.key().equals(version.key())) {
            return true;
        }
        if (!seen.add(callee.key())) {
            return false;
        }
        return called(callee).stream()
                .map(key -> key.equals(version.key())
                        ? Optional.of(version)
                        : around.workflows().apply(key))
                .flatMap(Optional::stream)
                .anyMatch(v -> callsBack(v, seen));
    }

    private static List<WorkflowKey> called(WorkflowVersion v) {
        return v.body()
                .all()
                .filter(Step.Call.class::isInstance)
                .map(s -> ((Step.Call) s).workflow())
                .toList();
    }
}
