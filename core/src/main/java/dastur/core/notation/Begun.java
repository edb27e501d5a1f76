package dastur.core.notation;

import dastur.core.workflow.Step;
import dastur.core.workflow.StepId;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.function.Consumer;
import java.util.function.Supplier;
import org.jspecify.annotations.Nullable;

/** A step while it is read: its sentence is known, the lines below it come. */
public final class Begun {
    /** Makes the step of what was read. */
    public interface Build {
        /** @throws IllegalArgumentException with a sentence for people when it can be none */
        Step build(StepId id, Map<String, StepId> ways, @Nullable String expected);
    }

    private final String name;
    private final Build build;
    private final Map<String, Consumer<Line>> lines = new LinkedHashMap<>();
    private @Nullable Consumer<List<Step>> holding;
    private Consumer<Supplier<Step>> alone = end -> {};

    /** @param name what the step is called; its id may be made of it */
    public Begun(String name, Build build) {
        this.name = name;
        this.build = build;
    }

    /** May have a line below it that begins with these words; {@code read} gets what comes after them. */
    public Begun line(String words, Consumer<Line> read) {
        lines.put(words, read);
        return this;
    }

    /** Holds the steps that stand right below it. */
    public Begun holding(Consumer<List<Step>> read) {
        holding = read;
        return this;
    }

    /** What it takes to be whole where nothing stands below it. @param fill gets what makes the end of a line */
    public Begun alone(Consumer<Supplier<Step>> fill) {
        alone = fill;
        return this;
    }

    String name() {
        return name;
    }

    /** The words that begin lines below it. */
    List<String> settings() {
        return List.copyOf(lines.keySet());
    }

    /** Reads one line below it; false where it has no such line. */
    boolean setting(Line line) {
        for (Map.Entry<String, Consumer<Line>> one : lines.entrySet()) {
            if (line.in().take(one.getKey())) {
                one.getValue().accept(line);
                return true;
            }
        }
        return false;
    }

    /** Takes steps that stand right below; false where it holds none. */
    boolean holds(List<Step> steps) {
        if (holding == null) {
            return false;
        }
        holding.accept(steps);
        return true;
    }

    void fill(Supplier<Step> end) {
        alone.accept(end);
    }

    Step build(StepId id, Map<String, StepId> ways, @Nullable String expected) {
        return build.build(id, ways, expected);
    }
}
