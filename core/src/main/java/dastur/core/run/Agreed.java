package dastur.core.run;

import dastur.core.json.CanonicalJson;
import dastur.core.workflow.Action;
import dastur.core.workflow.ActionKey;
import dastur.core.workflow.Facts;
import dastur.core.workflow.Step;
import dastur.core.workflow.StepId;
import dastur.core.workflow.WorkflowKey;
import dastur.core.workflow.WorkflowVersion;
import java.util.ArrayList;
import java.util.HashSet;
import java.util.List;
import java.util.Optional;
import java.util.Set;
import java.util.stream.Stream;

/**
 * An action that a yes lets machines carry out, as it was when people were asked. One that was mended since is another than they
 * agreed to (M1, D19).
 *
 * @param workflow the one whose version names it: the run's own, or one that it calls
 * @param as SHA-256 of the action in canonical JSON
 */
public record Agreed(ActionKey action, WorkflowKey workflow, int version, String as) {
    /** More than a person could have meant; what goes beyond binds by its values alone. */
    private static final int MOST = 100;

    /** Those that change the world and can follow a step, in its version and in those that it calls, as these are now. */
    public static List<Agreed> after(StepId approval, WorkflowVersion version, Lookups lookups) {
        List<Agreed> all = new ArrayList<>();
        collect(version, version.body().after(approval), lookups, all, new HashSet<>());
        return List.copyOf(all);
    }

    private static void collect(
            WorkflowVersion version, Stream<Step> steps, Lookups lookups, List<Agreed> all, Set<WorkflowKey> seen) {
        steps.map(Facts::of).forEach(facts -> {
            if (facts.action() != null && facts.changes() && all.size() < MOST) {
                lookups.action(facts.action(), version)
                        .filter(Action::changesWorld)
                        .map(a -> new Agreed(a.key(), version.key(), version.number(), hash(a)))
                        .filter(a -> !all.contains(a))
                        .ifPresent(all::add);
            }
            if (facts.calls() != null && seen.add(facts.calls())) {
                lookups.liveVersion(facts.calls())
                        .flatMap(n -> lookups.version(facts.calls(), n))
                        .ifPresent(called -> collect(called, called.body().all(), lookups, all, seen));
            }
        });
    }

    /** What it is now called; empty where it is as it was. One that is no more is found when it is called. */
    public Optional<String> mended(Lookups lookups) {
        return lookups.action(action, workflow, version)
                .filter(now -> !hash(now).equals(as))
                .map(Action::name);
    }

    private static String hash(Action action) {
        // Whether it is withdrawn is asked when it is called, and leaves what was agreed to as it is.
        return CanonicalJson.hash(action.withdrawn(null));
    }
}
