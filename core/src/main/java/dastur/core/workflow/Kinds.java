package dastur.core.workflow;

import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.ServiceLoader;

/** All kinds of steps there are: those named in {@code META-INF/services}, in that order. */
public final class Kinds {
    private static final List<StepKind<?>> ALL = load();
    private static final Map<Class<?>, StepKind<?>> BY_MODEL = new LinkedHashMap<>();
    private static final Map<String, StepKind<?>> BY_WORD = new LinkedHashMap<>();

    static {
        for (StepKind<?> kind : ALL) {
            boolean twice = BY_MODEL.put(kind.model(), kind) != null || BY_WORD.put(kind.word(), kind) != null;
            if (twice) {
                throw new IllegalStateException("two kinds of steps are called '" + kind.word() + "'");
            }
        }
    }

    private Kinds() {}

    private static List<StepKind<?>> load() {
        return ServiceLoader.load(StepKind.class, Kinds.class.getClassLoader()).stream()
                .<StepKind<?>>map(ServiceLoader.Provider::get)
                .toList();
    }

    public static List<StepKind<?>> all() {
        return ALL;
    }

    /** The kind of that word; empty where this release does not know it. */
    public static Optional<StepKind<?>> named(String word) {
        return Optional.ofNullable(BY_WORD.get(word));
    }

    /**
     * A step's kind in one of its roles.
     *
     * @throws IllegalStateException when no kind has been named for such a step
     * @throws ClassCastException when its kind does not play the role
     */
    @SuppressWarnings("unchecked") // The kind of a step is for its model.
    public static <R> R of(Step step, Class<? super R> role) {
        StepKind<?> kind = BY_MODEL.get(step.getClass());
        if (kind == null) {
            throw new IllegalStateException(
                    "no kind of steps is for " + step.getClass().getName());
        }
        return (R) role.cast(kind);
    }

    /** Whether a step's kind plays a role that not all kinds play. */
    public static boolean plays(Step step, Class<?> role) {
        return role.isInstance(BY_MODEL.get(step.getClass()));
    }

    /** All kinds that play a role. */
    @SuppressWarnings("unchecked") // A role is asked for by its raw class.
    public static <R> List<R> as(Class<? super R> role) {
        return ALL.stream().filter(role::isInstance).map(k -> (R) k).toList();
    }

    /**
     * What kinds bring of one sort, by its words. A family may bring the same more than once.
     *
     * @throws IllegalStateException when two different things have the same word
     */
    public static <T> Map<String, Class<? extends T>> brought(Class<T> sort) {
        Map<String, Class<? extends T>> all = new LinkedHashMap<>();
        for (StepKind<?> kind : ALL) {
            for (Brings one : kind.brings()) {
                if (sort.isAssignableFrom(one.type())) {
                    Class<? extends T> before = all.put(one.word(), one.type().asSubclass(sort));
                    if (before != null && before != one.type()) {
                        throw new IllegalStateException("two things on records are called '" + one.word() + "'");
                    }
                }
            }
        }
        return all;
    }
}
