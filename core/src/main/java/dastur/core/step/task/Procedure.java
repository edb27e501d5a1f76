package dastur.core.step.task;

import dastur.core.notation.Notation;
import dastur.core.people.Party;
import dastur.core.workflow.Step;
import dastur.core.workflow.StepId;
import dastur.core.workflow.WorkflowVersion;
import java.util.ArrayList;
import java.util.HashSet;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.regex.Matcher;
import java.util.regex.Pattern;

/**
 * A procedure that exists as a document: each line of a numbered or bulleted list becomes a human task, with its wording
 * kept beside it (N29). Lines that stand further in continue the numbering of the one above: 3, then 3.1.
 */
public final class Procedure {
    private static final int MAX_LINES = 300;
    private static final Pattern ITEM =
            Pattern.compile("(\\s*)(?:(\\d+(?:\\.\\d+)*)[.)]?|[-*+•]|\\(?[a-z]\\))\\s+(?:\\[[ xX]\\]\\s*)?(.*\\S)\\s*");

    /** Tasks in order, each leading to the next, with notes that keep the wording. */
    public record Steps(List<Step> steps, Map<String, WorkflowVersion.Note> notes) {}

    private Procedure() {}

    /**
     * @param taken ids that are used already
     * @throws IllegalArgumentException when there is no list in the text, or too long a one
     */
    public static Steps read(String text, Set<StepId> taken) {
        List<String> names = new ArrayList<>();
        List<String> wordings = new ArrayList<>();
        for (String line : text.lines().toList()) {
            Matcher m = ITEM.matcher(line);
            if (m.matches()) {
                names.add(plain(m.group(3)));
                wordings.add(line.strip());
            } else if (!line.isBlank() && !names.isEmpty()) {
                // A line without a number goes on with the one above.
                wordings.set(wordings.size() - 1, wordings.getLast() + "\n" + line.strip());
            }
        }
        if (names.isEmpty()) {
            throw new IllegalArgumentException(
                    "No list was found. Each step stands on a line of its own that begins with a number or a dash.");
        }
        if (names.size() > MAX_LINES) {
            throw new IllegalArgumentException(
                    "The list has " + names.size() + " lines; " + MAX_LINES + " is the most. Split it by stages.");
        }
        return steps(names, wordings, taken);
    }

    /** Marks of emphasis and links are left out of names. */
    private static String plain(String line) {
        String words = line.replaceAll("\\[([^\\]]*)\\]\\([^)]*\\)", "$1").replaceAll("[*_`]{1,3}", "");
        return dastur.core.json.Texts.clip(words.strip(), 120);
    }

    private static Steps steps(List<String> names, List<String> wordings, Set<StepId> taken) {
        Set<StepId> used = new HashSet<>(taken);
        List<StepId> ids = new ArrayList<>();
        for (String name : names) {
            StepId id = Notation.freeId(name, used);
            used.add(id);
            ids.add(id);
        }
        List<Step> steps = new ArrayList<>();
        Map<String, WorkflowVersion.Note> notes = new LinkedHashMap<>();
        for (int i = 0; i < names.size(); i++) {
            Map<String, StepId> ways = i + 1 < ids.size() ? Map.of("Done", ids.get(i + 1)) : Map.of();
            steps.add(new HumanTask(
                    ids.get(i),
                    names.get(i),
                    null,
                    new Party.TicketGroup(),
                    null,
                    List.of("Done"),
                    null,
                    null,
                    null,
                    ways,
                    null));
            notes.put(ids.get(i).value(), new WorkflowVersion.Note(null, wordings.get(i)));
        }
        return new Steps(steps, notes);
    }
}
