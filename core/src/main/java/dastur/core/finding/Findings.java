package dastur.core.finding;

import dastur.core.expression.Expressions;
import dastur.core.expression.Vocabulary;
import dastur.core.finding.Finding.PathStep;
import dastur.core.finding.Finding.Repair;
import dastur.core.finding.Finding.Severity;
import dastur.core.workflow.StepId;
import dastur.core.workflow.Trigger;
import dastur.core.workflow.WorkflowVersion;
import java.util.ArrayList;
import java.util.List;
import org.jspecify.annotations.Nullable;

/** Finds the faults of a workflow. All in one pass, in the order of the steps. */
public final class Findings {
    private Findings() {}

    public static List<Finding> of(WorkflowVersion version, List<Trigger> triggers, KnownOrganisation around) {
        Found found = new Found();
        Expressions expressions = new Expressions(Vocabulary.of(version, around.fields(), around.declared()));
        if (version.body().steps().isEmpty()) {
            found.blocks("empty", null, null, "This workflow has no steps yet. Add the first one.");
        } else {
            new WayChecks(version, around, found).check();
            new StepChecks(version, around, expressions, found).check();
            new CallerChecks(version, around, found).check();
            new GuardChecks(version, around, found).check();
            new DataFlow(version, expressions, found).check();
        }
        new TriggerChecks(around, found).check(version, triggers);
        return found.all();
    }

    /** Collects findings. */
    static final class Found {
        private final List<Finding> all = new ArrayList<>();

        private void add(
                String code,
                Severity severity,
                @Nullable StepId step,
                @Nullable String exit,
                @Nullable String field,
                String message,
                @Nullable List<PathStep> path,
                @Nullable Repair repair) {
            all.add(new Finding(code, severity, step, exit, field, message, path, repair));
        }

        void blocks(String code, @Nullable StepId step, @Nullable String field, String message) {
            add(code, Severity.BLOCKS, step, null, field, message, null, null);
        }

        void blocks(String code, StepId step, String message, @Nullable Repair repair) {
            add(code, Severity.BLOCKS, step, null, null, message, null, repair);
        }

        void blocksExit(String code, StepId step, String exit, String message, @Nullable Repair repair) {
            add(code, Severity.BLOCKS, step, exit, null, message, null, repair);
        }

        void blocksOnPath(String code, StepId step, String message, List<PathStep> path) {
            add(code, Severity.BLOCKS, step, null, null, message, path, null);
        }

        void warns(String code, @Nullable StepId step, @Nullable String field, String message) {
            add(code, Severity.WARNS, step, null, field, message, null, null);
        }

        void warns(String code, @Nullable StepId step, String message, Repair repair) {
            add(code, Severity.WARNS, step, null, null, message, null, repair);
        }

        void warnsOnPath(String code, StepId step, String message, List<PathStep> path) {
            add(code, Severity.WARNS, step, null, null, message, path, null);
        }

        void advises(String code, @Nullable StepId step, String message) {
            add(code, Severity.ADVISES, step, null, null, message, null, null);
        }

        List<Finding> all() {
            return List.copyOf(all);
        }
    }
}
