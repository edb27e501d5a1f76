package dastur.core.step.branch;

import dastur.core.workflow.Cell;
import dastur.core.workflow.DecisionTable;
import java.util.ArrayList;
import java.util.List;

/** The cases of a branch as conditions: as written, or one for each row of its table. */
public final class TableConditions {
    private TableConditions() {}

    /** Cases in order; a row of a table becomes a case named by its result. */
    public static List<BranchCase> cases(Branch branch) {
        DecisionTable table = branch.table();
        if (table == null) {
            return branch.cases();
        }
        List<BranchCase> cases = new ArrayList<>();
        for (DecisionTable.Row row : table.rows()) {
            cases.add(new BranchCase(row.result(), condition(table, row)));
        }
        return cases;
    }

    private static String condition(DecisionTable table, DecisionTable.Row row) {
        List<String> clauses = new ArrayList<>();
        for (int i = 0; i < table.inputs().size(); i++) {
            Cell.parse(row.cells().get(i))
                    .condition(table.inputs().get(i).value())
                    .ifPresent(clauses::add);
        }
        return clauses.isEmpty() ? "true" : String.join(" && ", clauses);
    }
}
