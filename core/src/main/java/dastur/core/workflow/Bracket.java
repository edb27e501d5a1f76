package dastur.core.workflow;

import com.fasterxml.jackson.annotation.JsonIgnore;
import dastur.core.time.Span;
import java.util.ArrayList;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.function.UnaryOperator;
import org.jspecify.annotations.Nullable;

/**
 * A nested part of a workflow (D8). Its lines run inside it; it is left when they have ended as its kind says, or by an
 * end that leaves it by name.
 */
public sealed interface Bracket extends Step {
    /** The same with other steps inside. */
    default Bracket mapped(UnaryOperator<Step> other) {
        return switch (this) {
            case Stage s -> new Stage(s.id(), s.name(), s.body().mapped(other), s.ways(), s.expected());
            case Fork f ->
                new Fork(
                        f.id(),
                        f.name(),
                        f.lanes().stream()
                                .map(l -> new Lane(l.name(), l.when(), l.body().mapped(other)))
                                .toList(),
                        f.first(),
                        f.ways(),
                        f.expected());
            case ForEach e ->
                new ForEach(
                        e.id(),
                        e.name(),
                        e.list(),
                        e.item(),
                        e.atOnce(),
                        e.stopAtFirst(),
                        e.body().mapped(other),
                        e.ways(),
                        e.expected());
            case Repeat r ->
                new Repeat(
                        r.id(),
                        r.name(),
                        r.until(),
                        r.pause(),
                        r.rounds(),
                        r.within(),
                        r.body().mapped(other),
                        r.ways(),
                        r.expected());
        };
    }

    /** Exits that ends inside leave this bracket by, in order. */
    @JsonIgnore
    default List<String> left() {
        Set<String> names = new LinkedHashSet<>();
        levels().stream()
                .flatMap(level -> level.steps().stream())
                .filter(s -> s instanceof End e && e.ending() == Ending.LEAVE)
                .forEach(s -> names.add(((End) s).result()));
        return new ArrayList<>(names);
    }

    /** A named part with one line; what its steps changed can be put back together (N21). */
    record Stage(
            StepId id,
            String name,
            Level body,
            Map<String, StepId> ways,
            @Nullable String expected) implements Bracket {
        public Stage {
            ways = Step.ordered(ways);
        }

        @Override
        public List<Level> levels() {
            return List.of(body);
        }

        @Override
        public List<String> exits(Known known) {
            List<String> all = plus("done", left());
            if (putsBack(body)) {
                all.add("put back");
            }
            return all;
        }

        /** Whether an end inside puts this stage back; one inside a further stage is that one's. */
        private static boolean putsBack(Level level) {
            return level.steps().stream()
                    .anyMatch(s -> s instanceof End e && e.ending() == Ending.PUT_BACK
                            || !(s instanceof Stage) && s.levels().stream().anyMatch(Stage::putsBack));
        }

        @Override
        public List<String> optionalExits() {
            return List.of("failed");
        }
    }

    /**
     * One of the lines of a fork.
     *
     * @param when a condition under which it is opened; null for always
     */
    record Lane(String name, @Nullable String when, Level body) {}

    /**
     * Lines that run side by side and meet again (N18, D9).
     *
     * @param first how many lanes must be done before the rest is withdrawn; null for all
     */
    record Fork(
            StepId id,
            String name,
            List<Lane> lanes,
            @Nullable Integer first,
            Map<String, StepId> ways,
            @Nullable String expected)
            implements Bracket {
        public Fork {
            lanes = List.copyOf(lanes);
            ways = Step.ordered(ways);
            if (lanes.isEmpty() || lanes.size() > 50) {
                throw new IllegalArgumentException("A fork has 1 to 50 lanes, but '" + name + "' has " + lanes.size());
            }
            if (first != null && (first < 1 || first > lanes.size())) {
                throw new IllegalArgumentException("'" + name + "' waits for the first " + first + " of its "
                        + lanes.size() + " lanes. Name a number from 1 to " + lanes.size() + ".");
            }
        }

        @Override
        public List<Level> levels() {
            return lanes.stream().map(Lane::body).toList();
        }

        @Override
        public List<String> exits(Known known) {
            return plus("joined", left());
        }

        @Override
        public List<String> optionalExits() {
            return List.of("short");
        }
    }

    /**
     * A body for each item of a list (N18, D10).
     *
     * @param list an expression that gives a list of at most {@value #MAX_ITEMS} items; frozen at entry
     * @param item the name the body knows its item by
     * @param atOnce how many items at a time; 1 for in order
     * @param stopAtFirst whether the first failure ends it
     */
    record ForEach(
            StepId id,
            String name,
            String list,
            String item,
            int atOnce,
            boolean stopAtFirst,
            Level body,
            Map<String, StepId> ways,
            @Nullable String expected)
            implements Bracket {
        public static final int MAX_ITEMS = 5_000;

        public ForEach {
            dastur.core.json.Texts.checkWord("item's name", item);
            atOnce = Math.max(1, atOnce);
            ways = Step.ordered(ways);
        }

        @Override
        public List<Level> levels() {
            return List.of(body);
        }

        @Override
        public List<String> exits(Known known) {
            List<String> all = new ArrayList<>(List.of("all ok", "some failed", "none"));
            all.addAll(left());
            return all;
        }
    }

    /**
     * A body again and again until a condition holds (N18).
     *
     * @param until looked at after each round
     * @param pause between rounds; null for none
     * @param rounds how many at most; at least 1
     * @param within how long at most; null for no limit but the rounds
     */
    record Repeat(
            StepId id,
            String name,
            String until,
            @Nullable Span pause,
            int rounds,
            @Nullable Span within,
            Level body,
            Map<String, StepId> ways,
            @Nullable String expected)
            implements Bracket {
        /** More rounds than anybody waits for. */
        public static final int MAX_ROUNDS = 10_000;

        public Repeat {
            ways = Step.ordered(ways);
            if (rounds < 1 || rounds > MAX_ROUNDS) {
                throw new IllegalArgumentException("'" + name + "' has at most 1 to " + MAX_ROUNDS + " rounds.");
            }
        }

        @Override
        public List<Level> levels() {
            return List.of(body);
        }

        @Override
        public List<String> exits(Known known) {
            List<String> all = new ArrayList<>(List.of("done", "gave up"));
            all.addAll(left());
            return all;
        }
    }

    private static List<String> plus(String first, List<String> more) {
        List<String> all = new ArrayList<>();
        all.add(first);
        all.addAll(more);
        return all;
    }
}
