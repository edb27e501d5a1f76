package dastur.core.step.branch;

import dastur.core.finding.Inspection;
import dastur.core.workflow.Cell;
import dastur.core.workflow.DecisionTable;
import java.math.BigDecimal;
import java.util.ArrayList;
import java.util.List;
import java.util.Optional;
import java.util.TreeSet;

/**
 * Looks at decision tables: cells that are no tests, combinations that no row or more than one row matches. Each input is
 * probed at the edges its cells name and on either side of them; that finds every gap and overlap of ranges.
 */
final class TableChecks {
    private static final int MAX_PROBES = 50_000;
    private static final String OTHER = "another text";

    private final Inspection in;

    TableChecks(Inspection in) {
        this.in = in;
    }

    void check(Branch branch, DecisionTable table) {
        List<List<Cell>> rows = new ArrayList<>();
        for (DecisionTable.Row row : table.rows()) {
            List<Cell> cells = new ArrayList<>();
            for (String cell : row.cells()) {
                try {
                    cells.add(Cell.parse(cell));
                } catch (IllegalArgumentException e) {
                    in.blocks("wrong cell", branch, "table", "In '" + branch.name() + "': " + e.getMessage());
                    return;
                }
            }
            rows.add(cells);
        }
        if (rows.isEmpty()) {
            in.blocks("no case", branch, "table", "The table of '" + branch.name() + "' has no rows.");
            return;
        }
        List<List<Object>> probes = new ArrayList<>();
        long count = 1;
        for (int i = 0; i < table.inputs().size(); i++) {
            List<Object> of = probes(rows, i);
            probes.add(of);
            count *= of.size();
        }
        if (count > MAX_PROBES) {
            in.advises(
                    "table too large",
                    branch,
                    "The table of '" + branch.name()
                            + "' has too many combinations to look for gaps and overlaps in all of them.");
            return;
        }
        probe(branch, table, rows, probes);
    }

    private void probe(Branch branch, DecisionTable table, List<List<Cell>> rows, List<List<Object>> probes) {
        int[] at = new int[probes.size()];
        boolean[] used = new boolean[rows.size()];
        Optional<String> gap = Optional.empty();
        Optional<String> overlap = Optional.empty();
        do {
            List<Integer> matching = new ArrayList<>();
            for (int r = 0; r < rows.size(); r++) {
                boolean matches = true;
                for (int i = 0; i < at.length && matches; i++) {
                    matches = rows.get(r).get(i).holds(probes.get(i).get(at[i]));
                }
                if (matches) {
                    matching.add(r);
                }
            }
            if (matching.isEmpty()) {
                gap = gap.or(() -> Optional.of(words(table, probes, at)));
            } else {
                used[matching.getFirst()] = true;
                if (matching.size() > 1) {
                    overlap = overlap.or(() -> Optional.of("rows " + (matching.get(0) + 1) + " and "
                            + (matching.get(1) + 1) + " both match " + words(table, probes, at)));
                }
            }
        } while (next(at, probes));
        report(branch, table, used, gap, overlap);
    }

    private void report(
            Branch branch, DecisionTable table, boolean[] used, Optional<String> gap, Optional<String> overlap) {
        gap.ifPresent(where -> in.advises(
                "gap in table",
                branch,
                "No row of '" + branch.name() + "' matches " + where + "; 'otherwise' is taken there."));
        if (table.hit() == DecisionTable.Hit.UNIQUE) {
            overlap.ifPresent(where ->
                    in.blocks("overlap in table", branch, "table", "In '" + branch.name() + "' " + where + "."));
        } else {
            for (int r = 0; r < used.length; r++) {
                if (!used[r]) {
                    in.warns(
                            "row never used",
                            branch,
                            "table",
                            "Row " + (r + 1) + " of '" + branch.name() + "' is hidden by rows above it.");
                }
            }
        }
    }

    private static List<Object> probes(List<List<Cell>> rows, int input) {
        List<Object> all = new ArrayList<>();
        TreeSet<BigDecimal> numbers = new TreeSet<>();
        for (List<Cell> row : rows) {
            for (Object edge : row.get(input).edges()) {
                if (edge instanceof BigDecimal n) {
                    numbers.add(n);
                } else if (!all.contains(edge)) {
                    all.add(edge);
                }
            }
        }
        if (numbers.isEmpty()) {
            if (all.stream().anyMatch(Boolean.class::isInstance)) {
                return List.of(true, false);
            }
            all.add(OTHER);
            return all;
        }
        BigDecimal before = null;
        for (BigDecimal n : numbers) {
            all.add(before == null ? n.subtract(BigDecimal.ONE) : before.add(n).divide(BigDecimal.valueOf(2)));
            all.add(n);
            before = n;
        }
        all.add(numbers.last().add(BigDecimal.ONE));
        return all;
    }

    private static boolean next(int[] at, List<List<Object>> probes) {
        for (int i = 0; i < at.length; i++) {
            if (++at[i] < probes.get(i).size()) {
                return true;
            }
            at[i] = 0;
        }
        return false;
    }

    private static String words(DecisionTable table, List<List<Object>> probes, int[] at) {
        List<String> words = new ArrayList<>();
        for (int i = 0; i < at.length; i++) {
            words.add(table.inputs().get(i).label() + " " + probes.get(i).get(at[i]));
        }
        return String.join(", ", words);
    }
}
