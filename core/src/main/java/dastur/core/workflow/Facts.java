package dastur.core.workflow;

import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Objects;
import java.util.Optional;
import java.util.Set;
import java.util.stream.Stream;
import org.jspecify.annotations.Nullable;

/**
 * What algorithms that look at whole versions know of a step, whatever its kind.
 *
 * @param instant whether it is left as soon as it is entered, past nobody and nothing to wait for
 * @param sets what it sets, by path such as {@code ticket.state}, with the value where it is said outright
 * @param action what a machine carries out for it; null for nothing
 * @param changes whether that is meant to change the world; a measurement is not
 * @param putsBack the action that undoes it; null for none
 * @param calls the workflow it runs; null for none
 * @param decides whether people decide there, so that what they saw binds what follows
 * @param shows what they are shown, by path
 * @param cases its conditions by the exit they lead to, in the order in which they are tried; empty where it has none
 */
public record Facts(
        boolean instant,
        Map<String, Optional<String>> sets,
        @Nullable ActionKey action,
        boolean changes,
        @Nullable ActionKey putsBack,
        @Nullable WorkflowKey calls,
        boolean decides,
        Set<String> shows,
        Map<String, String> cases) {
    /** A step of which nothing particular is to be known. */
    public static final Facts PLAIN = new Facts(false, Map.of(), null, false, null, null, false, Set.of(), Map.of());

    /** The facts of a step, by its kind. */
    public static Facts of(Step step) {
        StepKind<Step> kind = Kinds.of(step, StepKind.class);
        return kind.facts(step);
    }

    /** All actions that it names. */
    public List<ActionKey> actions() {
        return Stream.of(action, putsBack).filter(Objects::nonNull).distinct().toList();
    }

    /** The same, left at once. */
    public Facts atOnce(boolean is) {
        return new Facts(is, sets, action, changes, putsBack, calls, decides, shows, cases);
    }

    /** The same, setting values. */
    public Facts setting(Map<String, Optional<String>> values) {
        return new Facts(instant, values, action, changes, putsBack, calls, decides, shows, cases);
    }

    /** The same, with a machine that acts. */
    public Facts acting(@Nullable ActionKey key, boolean changesWorld, @Nullable ActionKey undone) {
        return new Facts(instant, sets, key, changesWorld, undone, calls, decides, shows, cases);
    }

    /** The same, running another workflow. */
    public Facts calling(WorkflowKey workflow) {
        return new Facts(instant, sets, action, changes, putsBack, workflow, decides, shows, cases);
    }

    /** The same, with people who decide on what they are shown. */
    public Facts deciding(List<String> paths) {
        return new Facts(instant, sets, action, changes, putsBack, calls, true, Set.copyOf(paths), cases);
    }

    /** The same, with conditions that choose the exit. */
    public Facts choosing(LinkedHashMap<String, String> conditions) {
        return new Facts(instant, sets, action, changes, putsBack, calls, decides, shows, Step.ordered(conditions));
    }
}
