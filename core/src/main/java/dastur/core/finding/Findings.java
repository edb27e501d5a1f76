package dastur.core.finding;

import dastur.core.expression.Expressions;
import dastur.core.expression.Vocabulary;
import dastur.core.workflow.Trigger;
import dastur.core.workflow.WorkflowVersion;
import java.util.ArrayList;
import java.util.List;

/** Finds the faults of a workflow. All in one pass, in the order of the steps. */
public final class Findings {
    private Findings() {}

    public static List<Finding> of(WorkflowVersion version, List<Trigger> triggers, Surroundings around) {
        Found found = new Found();
        Expressions expressions = new Expressions(Vocabulary.of(version, around.fields(), around.declared()));
        if (version.body().steps().isEmpty()) {
            found.blocks("empty", null, null, "This workflow has no steps yet. Add the first one.");
        } else {
            new WayChecks(version, around, found).check();
            new StepChecks(version, around, expressions, found).check();
        }
        new TriggerChecks(around, found).check(version, triggers);
        return found.all();
    }

    /** Collects findings. */
    static final class Found {
        private final List<Finding> all = new ArrayList<>();

        void blocks(String code, dastur.core.workflow.StepId step, String field, String message) {
            all.add(new Finding(code, Finding.Severity.BLOCKS, step, null, field, message));
        }

        void blocksExit(String code, dastur.core.workflow.StepId step, String exit, String message) {
            all.add(new Finding(code, Finding.Severity.BLOCKS, step, exit, null, message));
        }

        void warns(String code, dastur.core.workflow.StepId step, String field, String message) {
            all.add(new Finding(code, Finding.Severity.WARNS, step, null, field, message));
        }

        List<Finding> all() {
            return List.copyOf(all);
        }
    }
}
