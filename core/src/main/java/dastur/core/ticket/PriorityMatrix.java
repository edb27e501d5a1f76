package dastur.core.ticket;

import java.util.List;

/**
 * Priority from impact × urgency (N1), both from 1 (highest) to 4.
 *
 * @param rows a row for each impact, in it a priority 1–4 for each urgency
 */
public record PriorityMatrix(List<List<Integer>> rows) {
    public static final PriorityMatrix USUAL = new PriorityMatrix(
            List.of(List.of(1, 1, 2, 3), List.of(1, 2, 3, 3), List.of(2, 3, 3, 4), List.of(3, 3, 4, 4)));

    public PriorityMatrix {
        rows = rows.stream().map(List::copyOf).toList();
        boolean square = rows.size() == 4
                && rows.stream().allMatch(row -> row.size() == 4 && row.stream().allMatch(p -> p >= 1 && p <= 4));
        if (!square) {
            throw new IllegalArgumentException("The priority matrix has 4 rows of 4 priorities from 1 to 4.");
        }
    }

    /** The priority, {@code P1} to {@code P4}. */
    public String priority(long impact, long urgency) {
        return "P" + rows.get((int) impact - 1).get((int) urgency - 1);
    }

    /** The next higher priority; P1 stays. */
    public static String raised(String priority) {
        return switch (priority) {
            case "P4" -> "P3";
            case "P3" -> "P2";
            default -> "P1";
        };
    }
}
