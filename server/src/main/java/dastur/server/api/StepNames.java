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

/** The names of the steps that entries of a record are about: by the version that its run was on then. */
final class StepNames {
    private record Version(WorkflowKey workflow, int number) {}

    private final BiFunction<WorkflowKey, Integer, Optional<WorkflowVersion>> versions;
    /** By run, from which entry on it is on which version. */
    private final Map<String, NavigableMap<Long, Version>> runs = new HashMap<>();

    /** @param record all of it, or as far as anything is asked for */
    StepNames(List<Entry> record, BiFunction<WorkflowKey, Integer, Optional<WorkflowVersion>> versions) {
        this.versions = versions;
        record.stream()
                .filter(e -> e.kind().equals("runStarted") || e.kind().equals("intervened"))
                .forEach(this::see);
    }

    private void see(Entry entry) {
        JsonNode line = RecordViews.readable(entry.sealed());
        JsonNode number = line.path("body").path("version");
        NavigableMap<Long, Version> run = runs.computeIfAbsent(line.path("run").asText(), r -> new TreeMap<>());
        WorkflowKey workflow = line.path("body").path("workflow").isTextual()
                ? new WorkflowKey(line.path("body").path("workflow").textValue())
                : run.isEmpty() ? null : run.lastEntry().getValue().workflow();
        if (workflow != null && number.isIntegralNumber()) {
            run.put(entry.seq(), new Version(workflow, number.intValue()));
        }
    }

    /** The name of the step that an entry names, by itself or in what it says; null where it names none that is known. */
    @Nullable String of(long seq, JsonNode line) {
        JsonNode step = line.path("step").isTextual()
                ? line.path("step")
                : line.path("body").path("step");
        NavigableMap<Long, Version> run = runs.get(line.path("run").asText());
        Map.Entry<Long, Version> then = run == null ? null : run.floorEntry(seq);
        if (then == null || !step.isTextual()) {
            return null;
        }
        return versions.apply(then.getValue().workflow(), then.getValue().number())
                .flatMap(v -> v.find(new StepId(step.textValue())))
                .map(Step::name)
                .orElse(null);
    }
}
