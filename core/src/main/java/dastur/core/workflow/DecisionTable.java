package dastur.core.workflow;

import com.fasterxml.jackson.annotation.JsonIgnore;
import com.fasterxml.jackson.annotation.JsonValue;
import java.util.LinkedHashSet;
import java.util.List;

/**
 * A branch written as a table: each row has a cell for each input and the case it leads to.
 *
 * @param hit what happens when several rows match
 */
public record DecisionTable(List<Input> inputs, Hit hit, List<Row> rows) {
    public static final int MAX_ROWS = 1_000;
    public static final int MAX_INPUTS = 20;

    public DecisionTable {
        inputs = List.copyOf(inputs);
        rows = List.copyOf(rows);
        hit = hit == null ? Hit.FIRST : hit;
        if (inputs.isEmpty() || inputs.size() > MAX_INPUTS || rows.size() > MAX_ROWS) {
            throw new IllegalArgumentException(
                    "A decision table has 1 to " + MAX_INPUTS + " inputs and at most " + MAX_ROWS + " rows.");
        }
        for (Row row : rows) {
            if (row.cells().size() != inputs.size()) {
                throw new IllegalArgumentException("Each row of a decision table has a cell for each of its "
                        + inputs.size() + " inputs, but one has " + row.cells().size() + ".");
            }
        }
    }

    /** Which of several matching rows counts. */
    public enum Hit {
        /** The first from above. */
        FIRST("first"),
        /** At most one may match; two are a fault. */
        UNIQUE("unique");

        private final String word;

        Hit(String word) {
            this.word = word;
        }

        @JsonValue
        public String word() {
            return word;
        }
    }

    /** A column: its heading and the expression that gives its value. */
    public record Input(String label, String value) {}

    /**
     * A row.
     *
     * @param cells for each input a test: {@code -} for anything, {@code "a", "b"}, {@code >= 3}, {@code [1..3]}
     * @param result the case it leads to
     */
    public record Row(List<String> cells, String result) {
        public Row {
            cells = List.copyOf(cells);
        }
    }

    /** The cases its rows lead to, in order. */
    @JsonIgnore
    public List<String> results() {
        return List.copyOf(new LinkedHashSet<>(rows.stream().map(Row::result).toList()));
    }
}
