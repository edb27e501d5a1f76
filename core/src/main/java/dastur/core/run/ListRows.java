package dastur.core.run;

import com.fasterxml.jackson.annotation.JsonValue;
import dastur.core.workflow.StepId;
import java.time.Instant;
import java.util.ArrayList;
import java.util.Comparator;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import org.jspecify.annotations.Nullable;

/**
 * How far a for each has come with each of its items (M11), while it goes on and once it is over.
 *
 * @param visit its own
 * @param left by which exit it was left; null while it is open
 * @param rows in the order of the list
 */
public record ListRows(VisitId visit, StepId step, @Nullable String left, List<Row> rows) {
    private static final String FOR_EACH = "for each";

    /** What may become of an item. */
    public enum State {
        WAITS("waits"),
        UNDER_WAY("under way"),
        STALLED("stalled"),
        DONE("done"),
        FAILED("failed"),
        NOT_DONE("not done");

        private final String word;

        State(String word) {
            this.word = word;
        }

        @JsonValue
        public String word() {
            return word;
        }
    }

    /**
     * An item with what became of it.
     *
     * @param item null where it was redacted
     * @param result by which its line ended; null before
     * @param at the steps that it is at, while it is under way
     * @param since since when it is there; null while nothing waits
     * @param why something of it could not be done, as the last of its steps that says so has it; null where none does
     */
    public record Row(
            @Nullable Object item,
            State state,
            @Nullable String result,
            List<StepId> at,
            @Nullable Instant since,
            @Nullable String why) {}

    public ListRows {
        rows = List.copyOf(rows);
    }

    /** How many items are in a state. */
    public long count(State state) {
        return rows.stream().filter(r -> r.state() == state).count();
    }

    /** Those that a ticket's workflows are at, in the order in which they began. */
    public static List<ListRows> underWay(Case c) {
        return c.open().values().stream()
                .flatMap(run -> run.open().keySet().stream())
                .sorted()
                .flatMap(id -> read(c, id, null).stream())
                .toList();
    }

    /**
     * One of a ticket, as it is now or as it was when it was left; empty where the record tells of none such. What is over is
     * folded anew, as far as it takes.
     */
    public static Optional<ListRows> of(Case now, List<Recorded> record, VisitId visit) {
        Optional<ListRows> open = read(now, visit, null);
        if (open.isPresent() || record.stream().noneMatch(r -> begins(r, visit))) {
            return open;
        }
        Case c = Case.none(now.id());
        for (Recorded r : record) {
            Optional<String> left = leaves(r, visit);
            if (left.isPresent()) {
                return read(c, visit, left.get());
            }
            c = Engine.apply(c, r);
        }
        return Optional.empty();
    }

    private static boolean begins(Recorded r, VisitId visit) {
        return visit.equals(r.visit())
                && r.event() instanceof Event.BracketOpened e
                && e.bracket().equals(FOR_EACH);
    }

    /** By what it was left, where this is how: by an exit, taken back, or with its whole run. */
    private static Optional<String> leaves(Recorded r, VisitId visit) {
        if (r.event() instanceof Event.RunEnded && visit.run().equals(r.run())) {
            return Optional.of("run ended");
        }
        if (!visit.equals(r.visit())) {
            return Optional.empty();
        }
        if (r.event() instanceof Event.BracketLeft e) {
            return Optional.of(e.exit());
        }
        return r.event() instanceof Event.Withdrawn ? Optional.of("withdrawn") : Optional.empty();
    }

    private static Optional<ListRows> read(Case c, VisitId id, @Nullable String left) {
        return Optional.ofNullable(c.open().get(id.run()))
                .flatMap(run -> Optional.ofNullable(run.open().get(id))
                        .filter(v -> v.waiting() instanceof Waiting.Lines lines
                                && lines.bracket().equals(FOR_EACH))
                        .map(v -> new ListRows(id, v.step(), left, rows(run, v, left != null))));
    }

    private static List<Row> rows(Run run, Visit bracket, boolean over) {
        Waiting.Lines lines = (Waiting.Lines) bracket.waiting();
        List<Row> rows = new ArrayList<>();
        for (int i = 0; i < lines.count(); i++) {
            Place place = new Place(bracket.id(), i);
            List<Visit> here = run.open().values().stream()
                    .filter(v -> !(v.waiting() instanceof Waiting.Lines))
                    .filter(v -> run.chain(v.place()).contains(place))
                    .sorted(Comparator.comparing(Visit::id))
                    .toList();
            Waiting.LineEnd end = lines.ended().get(i);
            rows.add(new Row(
                    i < lines.items().size() ? lines.items().get(i) : null,
                    state(end, over, i < lines.begun(), here),
                    end == null ? null : end.result(),
                    end == null && !over ? here.stream().map(Visit::step).toList() : List.of(),
                    here.stream()
                            .map(Visit::since)
                            .min(Comparator.naturalOrder())
                            .orElse(null),
                    why(run.inner().getOrDefault(place.scope(), Map.of()))));
        }
        return rows;
    }

    private static State state(Waiting.@Nullable LineEnd end, boolean over, boolean begun, List<Visit> here) {
        if (end != null) {
            return end.done() ? State.DONE : State.FAILED;
        }
        if (over) {
            return State.NOT_DONE;
        }
        return !begun ? State.WAITS : here.stream().anyMatch(v -> v.stall() != null) ? State.STALLED : State.UNDER_WAY;
    }

    private static @Nullable String why(Map<String, Map<String, Object>> values) {
        return values.values().stream()
                .filter(one -> one.get("error") != null)
                .max(Comparator.comparing(one -> String.valueOf(one.get("at"))))
                .map(one -> String.valueOf(one.get("error")))
                .orElse(null);
    }
}
