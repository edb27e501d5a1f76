package dastur.server.api;

import com.fasterxml.jackson.databind.JsonNode;
import dastur.core.step.calling.Acting;
import dastur.core.step.check.Check;
import dastur.core.step.task.HumanTask;
import dastur.core.ticket.Field;
import dastur.core.workflow.Action;
import dastur.core.workflow.ActionKey;
import dastur.core.workflow.Step;
import dastur.core.workflow.WorkflowVersion;
import java.util.HashMap;
import java.util.HashSet;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.TreeMap;
import java.util.function.Function;
import org.jspecify.annotations.Nullable;

/** How people call the values of steps and runs, which records keep under their short names. */
final class ValueLabels {
    private final Function<ActionKey, Optional<Action>> actions;
    private final Map<ActionKey, Optional<Action>> read = new HashMap<>();

    ValueLabels(Function<ActionKey, Optional<Action>> actions) {
        this.actions = actions;
    }

    /** Those of what a step brings and is given: as its form, or its action as it is now, calls them. */
    Map<String, String> of(Step step) {
        return switch (step) {
            case Acting acting -> of(acting.action());
            case Check check when check.measure() != null -> of(check.measure());
            case HumanTask task when task.form() != null -> labels("", task.form());
            // No other step has values with names of their own.
            default -> Map.of();
        };
    }

    private Map<String, String> of(ActionKey key) {
        Map<String, String> labels = new TreeMap<>();
        read.computeIfAbsent(key, actions).ifPresent(action -> {
            labels.putAll(labels("", action.inputs()));
            labels.putAll(labels(
                    "", action.outputs().stream().map(Action.Output::field).toList()));
        });
        return labels;
    }

    /** Those of what a run was given and keeps, by the paths under which it is read. */
    static Map<String, String> ofRun(WorkflowVersion version) {
        Map<String, String> labels = new TreeMap<>(labels("input.", version.startForm()));
        labels.putAll(labels("vars.", version.vars()));
        return labels;
    }

    /** Those of what a run was given when it started, and of what it gives when it ends, by their names alone. */
    static Map<String, String> ofEnds(WorkflowVersion version) {
        Map<String, String> labels = new TreeMap<>(labels("", version.startForm()));
        version.results().forEach(r -> labels.put(r.field().name(), r.field().label()));
        return labels;
    }

    /** Those that an entry's content needs; null where it needs none. */
    @Nullable Map<String, String> of(long seq, JsonNode line, @Nullable JsonNode content, DesignThen design) {
        Set<String> names = new HashSet<>();
        if (content != null) {
            content.forEach(part -> part.fieldNames().forEachRemaining(names::add));
        }
        if (names.isEmpty()) {
            return null;
        }
        Map<String, String> labels = new TreeMap<>();
        Optional<Step> step = design.step(seq, line);
        design.version(seq, line).ifPresent(version -> {
            labels.putAll(ofRun(version));
            names.forEach(name -> ofPath(name, version).ifPresent(label -> labels.put(name, label)));
            if (step.isEmpty()) {
                labels.putAll(ofEnds(version));
            }
        });
        step.ifPresent(s -> labels.putAll(of(s)));
        labels.keySet().retainAll(names);
        return labels.isEmpty() ? null : labels;
    }

    /** What an earlier step brought, as in {@code steps.look.seen}: with the name of that step. */
    private Optional<String> ofPath(String path, WorkflowVersion version) {
        String[] parts = path.split("\\.");
        return parts.length == 3 && parts[0].equals("steps")
                ? version.body()
                        .all()
                        .filter(step -> step.id().value().equals(parts[1]))
                        .findFirst()
                        .flatMap(step -> Optional.ofNullable(of(step).get(parts[2]))
                                .map(label -> label + " (" + step.name() + ")"))
                : Optional.empty();
    }

    private static Map<String, String> labels(String prefix, List<Field> fields) {
        Map<String, String> labels = new TreeMap<>();
        fields.forEach(f -> labels.put(prefix + f.name(), f.label()));
        return labels;
    }
}
