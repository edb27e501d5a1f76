package dastur.core.step.branch;

import dastur.core.workflow.DecisionTable;
import dastur.core.workflow.Known;
import dastur.core.workflow.Step;
import dastur.core.workflow.StepId;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import org.jspecify.annotations.Nullable;

/**
 * A decision on data: the first case whose condition holds is taken (N13).
 *
 * @param table decides instead of the cases; null for none
 */
public record Branch(
        StepId id,
        String name,
        List<BranchCase> cases,
        @Nullable DecisionTable table,
        Map<String, StepId> ways,
        @Nullable String expected)
        implements Step.InRoom {
    /** A branch without a table. */
    public Branch(StepId id, String name, List<BranchCase> cases, Map<String, StepId> ways, @Nullable String expected) {
        this(id, name, cases, null, ways, expected);
    }

    public Branch {
        cases = List.copyOf(cases);
        ways = Step.ordered(ways);
    }

    @Override
    public List<String> exits(Known known) {
        List<String> all = new ArrayList<>(
                table != null
                        ? table.results()
                        : cases.stream().map(BranchCase::name).toList());
        all.add("otherwise");
        return all;
    }
}
