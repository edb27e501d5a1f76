package dastur.core.run;

import dastur.core.time.Span;
import java.time.Instant;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.TreeMap;
import org.jspecify.annotations.Nullable;

/**
 * How soon a ticket is to be responded to, or restored.
 *
 * @param due until when; null while it stands still
 * @param rest what is left of it while it stands still; null otherwise
 * @param working whether it counts in working time
 * @param metAt when it was responded to or restored; null before
 * @param missed whether that was too late, or is by now
 * @param promise what was promised, from when the ticket was raised; null in records from before it was kept
 * @param marks at which parts of it something may start; null for none
 */
public record Target(
        @Nullable Instant due,
        @Nullable Span rest,
        boolean working,
        @Nullable Instant metAt,
        boolean missed,
        @Nullable Span promise,
        @Nullable Marks marks) {

    /** One at whose parts nothing starts. */
    public Target(
            @Nullable Instant due,
            @Nullable Span rest,
            boolean working,
            @Nullable Instant metAt,
            boolean missed,
            @Nullable Span promise) {
        this(due, rest, working, metAt, missed, promise, null);
    }

    /**
     * The parts of what was promised at which triggers listen (I12).
     *
     * @param ahead when each of those to come is reached, by percent; none while the clock stands still
     * @param passed percents that were reached once: a clock that is set back does not reach them again
     */
    public record Marks(TreeMap<Integer, Instant> ahead, List<Integer> passed) {
        public Marks {
            ahead = ahead == null ? new TreeMap<>() : ahead;
            passed = passed == null ? List.of() : List.copyOf(passed);
        }

        Marks reached(int percent) {
            TreeMap<Integer, Instant> left = new TreeMap<>(ahead);
            left.remove(percent);
            List<Integer> more = new ArrayList<>(passed);
            more.add(percent);
            return new Marks(left, more);
        }
    }

    /** Whether it runs: it is neither met nor does it stand still. */
    boolean runs() {
        return due != null && metAt == null;
    }

    /** Whether the clock has something to say about it. */
    boolean rings() {
        return runs() && !missed;
    }

    Target tooLate() {
        return new Target(due, rest, working, metAt, true, promise, marks);
    }

    Target marked(@Nullable Marks with) {
        return new Target(due, rest, working, metAt, missed, promise, with);
    }

    Target reached(int percent) {
        return marks == null ? this : marked(marks.reached(percent));
    }

    /** When which part of it is reached. */
    Map<Integer, Instant> ahead() {
        return marks == null || metAt != null ? Map.of() : marks.ahead();
    }
}
