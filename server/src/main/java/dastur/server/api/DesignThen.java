package dastur.server.api;

import com.fasterxml.jackson.databind.JsonNode;
import dastur.core.record.Entry;
import dastur.core.workflow.Step;
import dastur.core.workflow.StepId;
import dastur.core.workflow.WorkflowKey;
import dastur.core.workflow.WorkflowVersion;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.NavigableMap;
import java.util.Optional;
import java.util.TreeMap;
import java.util.function.BiFunction;
import org.jspecify.annotations.Nullable;

/** What entries of a record are about, by the version that its run was on then: steps, and what things are called there. */
final class DesignThen {
    private record Number(WorkflowKey workflow, int number) {}

    private final BiFunction<WorkflowKey, Integer, Optional<WorkflowVersion>> versions;
    private final Map<Number, Optional<WorkflowVersion>> read = new HashMap<>();
    /** By run, from which entry on it is on which version. */
    private final Map<String, NavigableMap<Long, Number>> runs = new HashMap<>();

    /** @param record all of it, or as far as anything is asked for */
    DesignThen(List<Entry> record, BiFunction<WorkflowKey, Integer, Optional<WorkflowVersion>> versions) {
        this.versions = versions;
        record.stream()
                .filter(e -> e.kind().equals("runStarted") || e.kind().equals("intervened"))
                .forEach(this::see);
    }

    private void see(Entry entry) {
        JsonNode line = RecordViews.readable(entry.sealed());
        JsonNode number = line.path("body").path("version");
        NavigableMap<Long, Number> run = runs.computeIfAbsent(line.path("run").asText(), r -> new TreeMap<>());
        WorkflowKey workflow = line.path("body").path("workflow").isTextual()
                ? new WorkflowKey(line.path("body").path("workflow").textValue())
                : run.isEmpty() ? null : run.lastEntry().getValue().workflow();
        if (workflow != null && number.isIntegralNumber()) {
            run.put(entry.seq(), new Number(workflow, number.intValue()));
        }
    }

    /** The version that an entry's run was on. */
    Optional<WorkflowVersion> version(long seq, JsonNode line) {
        NavigableMap<Long, Number> run = runs.get(line.path("run").asText());
        Map.Entry<Long, Number> then = run == null ? null : run.floorEntry(seq);
        return then == null
                ? Optional.empty()
                : read.computeIfAbsent(then.getValue(), n -> versions.apply(n.workflow(), n.number()));
    }

    /** The step that an entry names, by itself or in what it says; nothing where it names none that is known. */
    Optional<Step> step(long seq, JsonNode line) {
        JsonNode step = line.path("step").isTextual()
                ? line.path("step")
                : line.path("body").path("step");
        return step.isTextual()
                ? version(seq, line).flatMap(v -> v.find(new StepId(step.textValue())))
                : Optional.empty();
    }

    /** That step's name; null where there is none that is known. */
    @Nullable String stepName(long seq, JsonNode line) {
        return step(seq, line).map(Step::name).orElse(null);
    }
}
