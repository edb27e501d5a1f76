package dastur.core.rehearsal;

import dastur.core.run.Event;
import dastur.core.run.Recorded;
import dastur.core.run.Visit;
import dastur.core.workflow.Kinds;
import dastur.core.workflow.Step;
import dastur.core.workflow.StepId;
import java.time.Duration;
import java.util.ArrayDeque;
import java.util.ArrayList;
import java.util.Deque;
import java.util.HashMap;
import java.util.LinkedHashMap;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Map;
import java.util.Objects;
import java.util.Optional;
import java.util.Set;
import org.jspecify.annotations.Nullable;

/** Tries every combination of answers up to a bound, and lists the distinct endings (N25). */
public final class Exploration {
    private static final int MOST_STAGES = 3_000;
    /** A loop is turned twice; further rounds show nothing new. */
    private static final int MOST_VISITS_A_STEP = 3;

    /** One step left by one exit. */
    public record Way(StepId step, String exit) {}

    /**
     * One way it can end.
     *
     * @param result the run's result, or what it stalls on
     * @param answers one shortest list of answers that leads there
     * @param failing the check that does not hold on that way; null where it needs none
     * @param at the step at which the shortest one ends or stalls; null where it came to none
     * @param path the ways that the shortest one takes, in order, each once
     */
    public record Ending(
            String result,
            boolean stalls,
            Duration shortest,
            Duration longest,
            int ways,
            List<Answer> answers,
            @Nullable StepId failing,
            @Nullable StepId at,
            List<Way> path) {}

    /**
     * @param neverReached steps that no combination came to, with these values of the ticket
     * @param bounded whether a bound was reached, so that there may be more
     */
    public record Explored(List<Ending> endings, List<StepId> neverReached, int stages, boolean bounded) {}

    private record Open(Played stage, List<Answer> answers) {}

    private final Setting setting;
    private final Map<String, Ending> endings = new LinkedHashMap<>();
    private final Set<StepId> reached = new LinkedHashSet<>();
    private int stages;
    private boolean bounded;

    private Exploration(Setting setting) {
        this.setting = setting;
    }

    public static Explored of(Setting setting) {
        return new Exploration(setting).explore();
    }

    private Explored explore() {
        explore(null);
        // What a check sees is what the rehearsal answers, so that most of them hold: each is also taken not to.
        List<StepId> checks = setting.version()
                .body()
                .all()
                .filter(s -> Kinds.plays(s, Fails.class))
                .map(Step::id)
                .toList();
        checks.forEach(this::explore);
        List<StepId> never = setting.version()
                .body()
                .all()
                .map(Step::id)
                .filter(id -> !reached.contains(id))
                .toList();
        return new Explored(List.copyOf(endings.values()), never, Math.min(stages, MOST_STAGES), bounded);
    }

    /** @param failing a check that does not hold; null for none */
    private void explore(@Nullable StepId failing) {
        Rehearsal rehearsal = new Rehearsal(failing == null ? setting : setting.withFailing(Set.of(failing)));
        // Breadth first: the first list of answers that leads to an ending is a shortest one.
        Deque<Open> open = new ArrayDeque<>();
        open.add(new Open(rehearsal.begin(), List.of()));
        while (!open.isEmpty()) {
            if (++stages > MOST_STAGES) {
                bounded = true;
                return;
            }
            Open at = open.poll();
            note(at.stage());
            Optional<Visit> next = rehearsal.waiting(at.stage()).findFirst();
            if (next.isEmpty() || at.stage().refused() != null) {
                boolean judged = failing == null || at.stage().path().contains(failing);
                if (judged) {
                    ended(at, failing);
                }
                continue;
            }
            if (turnsTooOften(at.stage(), next.get())) {
                bounded = true;
                continue;
            }
            for (Answer answer : rehearsal.options(at.stage(), next.get())) {
                Played after = rehearsal.take(at.stage(), answer);
                if (after.refused() == null) {
                    List<Answer> longer = new ArrayList<>(at.answers());
                    longer.add(answer);
                    open.add(new Open(after, longer));
                }
            }
        }
    }

    private void note(Played stage) {
        stage.record().stream().map(Recorded::step).filter(Objects::nonNull).forEach(reached::add);
    }

    private static boolean turnsTooOften(Played stage, Visit visit) {
        Map<StepId, Integer> counts = new HashMap<>();
        stage.path().forEach(s -> counts.merge(s, 1, Integer::sum));
        boolean item = visit.place() != null;
        return counts.getOrDefault(visit.step(), 0) > (item ? 4 * MOST_VISITS_A_STEP : MOST_VISITS_A_STEP);
    }

    private void ended(Open at, @Nullable StepId failing) {
        boolean stalls = at.stage().ended().isEmpty();
        String result = at.stage()
                .ended()
                .or(() -> at.stage().stalled())
                .orElse(
                        at.stage().refused() == null
                                ? "nothing waits any more"
                                : at.stage().refused());
        Duration took = at.stage().took();
        endings.merge(
                (stalls ? "stalls: " : "") + result,
                new Ending(result, stalls, took, took, 1, at.answers(), failing, place(at.stage()), path(at.stage())),
                (a, b) -> new Ending(
                        a.result(),
                        a.stalls(),
                        a.shortest().compareTo(b.shortest()) <= 0 ? a.shortest() : b.shortest(),
                        a.longest().compareTo(b.longest()) >= 0 ? a.longest() : b.longest(),
                        a.ways() + b.ways(),
                        a.answers(),
                        a.failing(),
                        a.at(),
                        a.path()));
    }

    /** Where it stalls, or else the step it came to last. */
    private static @Nullable StepId place(Played stage) {
        return stage.ticket().open().values().stream()
                .flatMap(run -> run.open().values().stream())
                .filter(v -> v.stall() != null)
                .findFirst()
                .map(Visit::step)
                .orElseGet(() -> stage.path().isEmpty() ? null : stage.path().getLast());
    }

    private static List<Way> path(Played stage) {
        return stage.record().stream()
                .filter(r -> r.step() != null && r.event() instanceof Event.Leaving l && l.exit() != null)
                .map(r -> new Way(r.step(), ((Event.Leaving) r.event()).exit()))
                .distinct()
                .toList();
    }
}
