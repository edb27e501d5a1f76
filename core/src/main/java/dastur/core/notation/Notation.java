package dastur.core.notation;

import dastur.core.json.Texts;
import dastur.core.workflow.Step;
import dastur.core.workflow.StepId;
import dastur.core.workflow.WorkflowVersion;
import java.util.HashSet;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Set;
import org.jspecify.annotations.Nullable;

/**
 * The text form of a whole workflow (docs/notation.md). Writing and reading give the same workflow again; the order of
 * lines follows the workflow alone, so that a comparison line by line means something.
 */
public final class Notation {
    /** The key of what stands as comment after the last step. */
    public static final String TAIL = "/end";

    private Notation() {}

    /** A workflow, or what is wrong with its text. @param version null when there are problems */
    public record Read(@Nullable WorkflowVersion version, List<NotationProblem> problems) {}

    /** One step made of a sentence, or what is wrong with it. */
    public record Sentence(@Nullable Step step, @Nullable NotationProblem problem) {}

    /** @param number the number the version is to have; a text does not say it */
    public static Read read(String text, int number, Names names) {
        return new NotationReader(names).read(text, number);
    }

    public static String write(WorkflowVersion version) {
        return new NotationWriter(version).write();
    }

    /** One step as the lines of its text, without ways that follow from the order. */
    public static String write(Step step) {
        return NotationWriter.sentence(step);
    }

    /** Makes a step of a sentence. @param taken ids that are used already */
    public static Sentence sentence(String text, Set<StepId> taken, Names names) {
        try {
            Scanner in = new Scanner(text.strip(), 1, 0, names);
            Begun begun = SentenceReader.read(in);
            in.end();
            StepId id = freeId(begun.name(), taken);
            Set<StepId> used = new HashSet<>(taken);
            used.add(id);
            begun.fill(() -> end(used));
            return new Sentence(begun.build(id, Map.of(), null), null);
        } catch (Wrong w) {
            return new Sentence(null, w.problem);
        } catch (IllegalArgumentException e) {
            return new Sentence(null, new NotationProblem(1, 1, e.getMessage(), null));
        }
    }

    private static Step end(Set<StepId> used) {
        StepId id = freeId("Line done", used);
        used.add(id);
        return new Step.End(id, "Done", "done", null, Step.Ending.LINE);
    }

    /** What a sentence that is being typed could become: each offer is the whole sentence. */
    public static List<String> complete(String typed, Names names) {
        return new Completion(names).of(typed);
    }

    /** An id made of a name's first words that is not taken yet. */
    public static StepId freeId(String name, Set<StepId> taken) {
        StringBuilder words = new StringBuilder();
        for (String word : name.toLowerCase(Locale.ROOT).split("[^a-z0-9]+")) {
            boolean fits = !word.isEmpty()
                    && words.length() + word.length() <= 24
                    && !(words.isEmpty() && Character.isDigit(word.charAt(0)));
            if (fits) {
                words.append(words.isEmpty() ? word : Character.toUpperCase(word.charAt(0)) + word.substring(1));
            }
        }
        String base = words.isEmpty() ? "step" : Texts.clip(words.toString(), 36);
        StepId id = new StepId(base);
        for (int i = 2; taken.contains(id); i++) {
            id = new StepId(base + i);
        }
        return id;
    }
}
