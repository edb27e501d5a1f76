package dastur.core.finding;

import dastur.core.expression.Expressions;
import dastur.core.finding.Finding.PathStep;
import dastur.core.workflow.Bracket;
import dastur.core.workflow.Facts;
import dastur.core.workflow.Kinds;
import dastur.core.workflow.Level;
import dastur.core.workflow.Step;
import dastur.core.workflow.StepId;
import dastur.core.workflow.WorkflowVersion;
import java.util.ArrayDeque;
import java.util.ArrayList;
import java.util.Deque;
import java.util.HashMap;
import java.util.HashSet;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Objects;
import java.util.Set;
import java.util.TreeMap;
import java.util.TreeSet;
import org.jspecify.annotations.Nullable;

/**
 * Is every value there when it is read? Explores level by level which steps can be finished before which, with the path
 * that shows it. Equal conditions over values that this workflow never sets choose alike (D32). What is so on every path
 * blocks; what is so on some path warns.
 */
final class DataFlow {
    static final int MAX_STATES = 20_000;

    private final WorkflowVersion version;
    private final Expressions expressions;
    private final Findings.Found found;

    /** What is read somewhere, and so worth keeping apart: {@code steps.look}, {@code vars.count}. */
    private final Set<String> relevant = new HashSet<>();
    /** Conditions that occur more than once over values that are never set here. */
    private final Set<String> repeated = new HashSet<>();
    /** For each step and value: the shortest path on which it is missing, and whether some path has it. */
    private final Map<StepId, Map<String, Missing>> missing = new LinkedHashMap<>();

    private int states;
    private boolean bounded;

    private static final class Missing {
        @Nullable List<PathStep> path;

        boolean sometimesThere;
    }

    /** How far a run may have come: what is there, and how repeated conditions went. */
    private record State(StepId at, TreeSet<String> there, TreeMap<String, Boolean> went) {}

    /** One way a level can end. */
    private record Ended(Step.Ending ending, String result, TreeSet<String> there, TreeMap<String, Boolean> went) {}

    private record Move(String exit, TreeSet<String> there, TreeMap<String, Boolean> went) {}

    DataFlow(WorkflowVersion version, Expressions expressions, Findings.Found found) {
        this.version = version;
        this.expressions = expressions;
        this.found = found;
    }

    void check() {
        version.body().all().forEach(s -> {
            relevant.addAll(values(reads(s)));
            if (s instanceof Bracket.Repeat r) {
                relevant.addAll(values(expressions.reads(r.until())));
            }
        });
        conditions();
        explore(version.body(), new TreeSet<>(), new TreeMap<>(), List.of());
        report();
        insideOnly();
    }

    private void report() {
        missing.forEach((id, values) -> values.forEach((value, m) -> {
            if (m.path == null || insideAForEach(value, id)) {
                return;
            }
            String name = version.step(id).name();
            String what = value.startsWith("steps.")
                    ? "'" + nameOf(value) + "' has " + (m.sometimesThere ? "not always" : "never") + " been done"
                    : "'" + value + "' has " + (m.sometimesThere ? "not always" : "never") + " been set";
            String message = "'" + name + "' reads " + value + ", but " + what + " by then. Give a default, or lead"
                    + " every way past it.";
            if (m.sometimesThere) {
                found.warnsOnPath("used before set", id, message, m.path);
            } else {
                found.blocksOnPath("used before set", id, message, m.path);
            }
        }));
        if (bounded) {
            found.advises(
                    "not all explored",
                    null,
                    "There are too many ways through this workflow to look at all of them; split it by calls.");
        }
    }

    /** Said in its own words by {@link #insideOnly()}. */
    private boolean insideAForEach(String value, StepId reader) {
        return version.body()
                .all()
                .anyMatch(s -> s instanceof Bracket.ForEach e
                        && e.body().all().anyMatch(i -> ("steps." + i.id()).equals(value))
                        && e.body().all().noneMatch(i -> i.id().equals(reader)));
    }

    private String nameOf(String value) {
        return version.find(new StepId(value.substring(6))).map(Step::name).orElse(value);
    }

    // --- what is read

    /** Steps and variables of paths such as {@code steps.look.seen}. */
    private static Set<String> values(Set<String> paths) {
        Set<String> values = new HashSet<>();
        for (String path : paths) {
            String[] parts = path.split("\\.");
            if (parts.length >= 2 && (parts[0].equals("steps") || parts[0].equals("vars"))) {
                values.add(parts[0] + "." + parts[1]);
            }
        }
        return values;
    }

    /** What a step reads when it is opened; a repeat's own condition is read after its body. */
    private Set<String> reads(Step step) {
        Inspects<Step> kind = Kinds.of(step, Inspects.class);
        Reads reads = new Reads(expressions);
        kind.reads(step, reads);
        return reads.paths();
    }

    private void conditions() {
        Set<String> set = new HashSet<>();
        Map<String, Integer> counts = new HashMap<>();
        version.body().all().forEach(s -> {
            Facts facts = Facts.of(s);
            set.addAll(facts.sets().keySet());
            facts.cases().values().forEach(c -> counts.merge(c, 1, Integer::sum));
        });
        counts.forEach((condition, count) -> {
            Set<String> reads = expressions.reads(condition);
            boolean fixed = !reads.isEmpty()
                    && reads.stream()
                            .allMatch(r -> !set.contains(r)
                                    && (r.startsWith("ticket.") || r.startsWith("input.") || r.startsWith("service.")));
            if (count > 1 && fixed) {
                repeated.add(condition);
            }
        });
    }

    // --- exploring

    private List<Ended> explore(
            Level level, TreeSet<String> there, TreeMap<String, Boolean> went, List<PathStep> before) {
        List<Ended> ends = new ArrayList<>();
        if (level.steps().isEmpty()) {
            return ends;
        }
        Map<State, List<PathStep>> seen = new HashMap<>();
        Deque<State> open = new ArrayDeque<>();
        State start = new State(level.steps().getFirst().id(), there, went);
        seen.put(start, before);
        open.add(start);
        while (!open.isEmpty()) {
            if (++states > MAX_STATES) {
                bounded = true;
                return ends;
            }
            State state = open.poll();
            Step step = level.step(state.at()).orElse(null);
            if (step == null) {
                continue;
            }
            List<PathStep> path = seen.get(state);
            look(step, reads(step), state.there(), path);
            if (step instanceof Step.End end) {
                ends.add(new Ended(end.ending(), end.result(), state.there(), state.went()));
                continue;
            }
            for (Move move : moves(step, state, path, ends)) {
                StepId to = step.ways().get(move.exit());
                if (to == null) {
                    continue;
                }
                TreeSet<String> after = new TreeSet<>(move.there());
                gain(step, after);
                State next = new State(to, after, move.went());
                if (!seen.containsKey(next)) {
                    List<PathStep> longer = new ArrayList<>(path);
                    longer.add(new PathStep(step.id(), move.exit()));
                    seen.put(next, longer);
                    open.add(next);
                }
            }
        }
        return ends;
    }

    private void look(Step step, Set<String> reads, TreeSet<String> there, List<PathStep> path) {
        for (String value : values(reads)) {
            Missing m =
                    missing.computeIfAbsent(step.id(), k -> new TreeMap<>()).computeIfAbsent(value, k -> new Missing());
            if (there.contains(value)) {
                m.sometimesThere = true;
            } else if (m.path == null || path.size() < m.path.size()) {
                m.path = List.copyOf(path);
            }
        }
    }

    private void gain(Step step, TreeSet<String> there) {
        if (relevant.contains("steps." + step.id())) {
            there.add("steps." + step.id());
        }
        Facts.of(step).sets().keySet().stream().filter(relevant::contains).forEach(there::add);
    }

    private List<Move> moves(Step step, State state, List<PathStep> path, List<Ended> outer) {
        Map<String, String> cases = Facts.of(step).cases();
        if (!cases.isEmpty()) {
            return chosen(cases, state);
        }
        return step instanceof Bracket b
                ? inside(b, state, path, outer)
                : step.ways().keySet().stream()
                        .map(exit -> new Move(exit, state.there(), state.went()))
                        .toList();
    }

    /** The exits that conditions can choose, after what equal ones have chosen before. */
    private List<Move> chosen(Map<String, String> cases, State state) {
        List<Move> moves = new ArrayList<>();
        TreeMap<String, Boolean> went = new TreeMap<>(state.went());
        for (Map.Entry<String, String> one : cases.entrySet()) {
            String condition = one.getValue();
            Boolean known = went.get(condition);
            if (!Boolean.FALSE.equals(known)) {
                TreeMap<String, Boolean> yes = new TreeMap<>(went);
                if (repeated.contains(condition)) {
                    yes.put(condition, true);
                }
                moves.add(new Move(one.getKey(), state.there(), yes));
            }
            if (Boolean.TRUE.equals(known)) {
                return moves;
            }
            if (repeated.contains(condition)) {
                went.put(condition, false);
            }
        }
        moves.add(new Move("otherwise", state.there(), went));
        return moves;
    }

    private List<Move> inside(Bracket bracket, State state, List<PathStep> path, List<Ended> outer) {
        List<List<Ended>> lines = bracket.levels().stream()
                .map(level -> explore(level, state.there(), state.went(), path))
                .toList();
        List<Move> moves = new ArrayList<>();
        for (List<Ended> ends : lines) {
            for (Ended e : ends) {
                switch (e.ending()) {
                    case LEAVE -> moves.add(new Move(e.result(), state.there(), state.went()));
                    case PUT_BACK -> {
                        if (bracket instanceof Bracket.Stage) {
                            moves.add(new Move("put back", state.there(), state.went()));
                        } else {
                            outer.add(e);
                        }
                    }
                    case RUN -> outer.add(e);
                    // The end of a line is what the bracket itself asks about, below.
                    case LINE, FAILED -> {}
                }
            }
        }
        switch (bracket) {
            case Bracket.Stage s ->
                lines.getFirst().forEach(e -> {
                    if (e.ending() == Step.Ending.LINE) {
                        moves.add(new Move("done", e.there(), e.went()));
                    } else if (e.ending() == Step.Ending.FAILED) {
                        moves.add(new Move("failed", e.there(), e.went()));
                    }
                });
            case Bracket.Fork f -> {
                TreeSet<String> joined = new TreeSet<>(state.there());
                if (f.first() == null) {
                    for (int i = 0; i < lines.size(); i++) {
                        if (f.lanes().get(i).when() == null) {
                            joined.addAll(always(lines.get(i), state.there()));
                        }
                    }
                }
                moves.add(new Move("joined", joined, state.went()));
                moves.add(new Move("short", state.there(), state.went()));
            }
            case Bracket.ForEach e -> {
                for (String exit : List.of("all ok", "some failed", "none")) {
                    moves.add(new Move(exit, state.there(), state.went()));
                }
            }
            case Bracket.Repeat r -> {
                TreeSet<String> after = always(lines.getFirst(), state.there());
                look(r, expressions.reads(r.until()), after, path);
                moves.add(new Move("done", after, state.went()));
                moves.add(new Move("gave up", r.within() == null ? after : state.there(), state.went()));
            }
        }
        return moves;
    }

    /** What is there however a line was done. */
    private static TreeSet<String> always(List<Ended> ends, TreeSet<String> before) {
        TreeSet<String> all = null;
        for (Ended e : ends) {
            if (e.ending() == Step.Ending.LINE || e.ending() == Step.Ending.FAILED) {
                if (all == null) {
                    all = new TreeSet<>(e.there());
                } else {
                    all.retainAll(e.there());
                }
            }
        }
        return Objects.requireNonNullElse(all, before);
    }

    // --- what is known inside a for each only

    private void insideOnly() {
        version.body().all().filter(Bracket.ForEach.class::isInstance).forEach(s -> {
            Bracket.ForEach each = (Bracket.ForEach) s;
            Set<StepId> inner = new HashSet<>();
            each.body().all().forEach(i -> inner.add(i.id()));
            version.body().all().filter(o -> !inner.contains(o.id())).forEach(outer -> {
                Set<String> reads = reads(outer);
                boolean item = outer != each && readsItem(outer, each.item());
                if (item) {
                    found.blocks(
                            "item outside",
                            outer.id(),
                            null,
                            "'" + outer.name() + "' reads '" + each.item() + "', which means something inside '"
                                    + each.name() + "' only. Use steps." + each.id() + ".items.");
                }
                values(reads).stream()
                        .filter(v -> v.startsWith("steps.") && inner.contains(new StepId(v.substring(6))))
                        .findFirst()
                        .ifPresent(v -> found.blocks(
                                "value inside",
                                outer.id(),
                                null,
                                "'" + outer.name() + "' reads " + v + ", which is different for each item of '"
                                        + each.name() + "'. Use steps." + each.id() + ".items."));
            });
        });
    }

    private boolean readsItem(Step step, String item) {
        boolean otherwiseMeant = version.body()
                .all()
                .anyMatch(s -> s instanceof Bracket.ForEach e
                        && e.item().equals(item)
                        && e.body().all().anyMatch(i -> i.id().equals(step.id())));
        return !otherwiseMeant && reads(step).stream().anyMatch(r -> r.equals(item) || r.startsWith(item + "."));
    }
}
