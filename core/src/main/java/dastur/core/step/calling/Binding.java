package dastur.core.step.calling;

import dastur.core.expression.Expressions;
import dastur.core.expression.Scope;
import dastur.core.run.Here;
import dastur.core.run.Remedied;
import dastur.core.run.Run;
import dastur.core.run.VisitId;
import java.util.Map;
import java.util.Objects;
import java.util.Optional;
import java.util.Set;
import java.util.TreeMap;
import java.util.TreeSet;

/** Whether what was approved is still so when it is done (D19). */
final class Binding {
    private Binding() {}

    /**
     * The approval that holds a call up, the last that was given; empty when all of them fit. What was approved before a run was
     * called binds what it does too.
     */
    static Optional<Remedied.Outdated> outdated(Here here) {
        for (Run.Guard guard : here.run().guards().reversed()) {
            Set<String> changed = here.binds(guard) ? changed(here, guard) : Set.of();
            if (!changed.isEmpty()) {
                return Optional.of(new Remedied.Outdated(here.run().id(), guard, changed));
            }
        }
        VisitId caller = here.run().parent();
        return caller == null ? Optional.empty() : here.visit(caller).flatMap(v -> outdated(here.at(v)));
    }

    /** The paths whose values are otherwise than those who approved have seen, and what was mended since they were asked. */
    private static Set<String> changed(Here here, Run.Guard guard) {
        Scope asked = here.at(here.run(), guard.place()).scope();
        Map<String, Object> current = new TreeMap<>();
        guard.shown().forEach(p -> Expressions.read(p, asked).ifPresent(v -> current.put(p, v)));
        Set<String> paths = new TreeSet<>(guard.values().keySet());
        paths.addAll(current.keySet());
        paths.removeIf(p -> Objects.equals(guard.values().get(p), current.get(p)));
        guard.allows().forEach(a -> a.mended(here.lookups()).ifPresent(name -> paths.add("the action '" + name + "'")));
        return paths;
    }
}
