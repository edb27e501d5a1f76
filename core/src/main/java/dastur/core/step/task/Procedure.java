package dastur.core.step.task;

import com.fasterxml.jackson.annotation.JsonValue;
import dastur.core.notation.Notation;
import dastur.core.people.Party;
import dastur.core.ticket.Field;
import dastur.core.ticket.FieldType;
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
 * A procedure that exists as a document: each line of a numbered or bulleted list becomes a human task, with its wording kept
 * beside it (N29). What goes on under a line is told to whoever does it; what stands further in, or continues its number (3, then
 * 3.1), belongs to it as whoever pastes it says.
 */
public final class Procedure {
    private static final int MAX_LINES = 300;
    private static final Pattern ITEM =
            Pattern.compile("(\\s*)(?:(\\d+(?:\\.\\d+)*)[.)]?|[-*+•]|\\(?[a-z]\\))\\s+(?:\\[[ xX]\\]\\s*)?(.*\\S)\\s*");

    /** What becomes of what stands under a line. */
    public enum Under {
        /** Tasks of their own, after the one above. */
        TASKS("tasks"),
        /** A list of the one task, each point of which is said yes or no to. */
        CHECK_LIST("check list"),
        /** Told to whoever does the task. */
        INSTRUCTIONS("instructions");

        private final String word;

        Under(String word) {
            this.word = word;
        }

        @JsonValue
        public String word() {
            return word;
        }
    }

    /** Tasks in order, each leading to the next, with notes that keep the wording. */
    public record Steps(List<Step> steps, Map<String, WorkflowVersion.Note> notes) {}

    /** A line with what goes on under it. */
    private static final class Line {
        private final String name;
        private final List<String> wording = new ArrayList<>();
        private final List<String> told = new ArrayList<>();
        private final List<String> points = new ArrayList<>();

        Line(String name, String wording) {
            this.name = name;
            this.wording.add(wording);
        }
    }

    /** How the first line of the list begins: what begins otherwise, or further in, stands under one that begins so. */
    private record Top(int indent, int numbers) {
        static Top of(Matcher m) {
            return new Top(m.group(1).length(), numbers(m));
        }

        boolean isAbove(Matcher m) {
            return m.group(1).length() > indent || numbers > 0 && numbers(m) != numbers && numbers(m) != 1;
        }

        /** 1 for {@code 3.}, 2 for {@code 3.1}, 0 for a dash or a letter. */
        private static int numbers(Matcher m) {
            return m.group(2) == null ? 0 : m.group(2).split("\\.").length;
        }
    }

    private Procedure() {}

    /**
     * @param under what becomes of what stands under a line
     * @param taken ids that are used already
     * @throws IllegalArgumentException when there is no list in the text, or too long a one
     */
    public static Steps read(String text, Under under, Set<StepId> taken) {
        List<Line> lines = new ArrayList<>();
        Top top = null;
        int items = 0;
        for (String line : text.lines().toList()) {
            Matcher m = ITEM.matcher(line);
            if (m.matches()) {
                items++;
                top = top == null ? Top.of(m) : top;
                if (under != Under.TASKS && !lines.isEmpty() && top.isAbove(m)) {
                    under(lines.getLast(), under, plain(m.group(3)), line.strip());
                } else {
                    lines.add(new Line(plain(m.group(3)), line.strip()));
                }
            } else if (!line.isBlank() && !lines.isEmpty()) {
                // A line without a number goes on with the one above.
                lines.getLast().wording.add(line.strip());
                lines.getLast().told.add(plain(line));
            }
        }
        if (lines.isEmpty()) {
            throw new IllegalArgumentException(
                    "No list was found. Each step stands on a line of its own that begins with a number or a dash.");
        }
        if (items > MAX_LINES) {
            throw new IllegalArgumentException(
                    "The list has " + items + " lines; " + MAX_LINES + " is the most. Split it by stages.");
        }
        return steps(lines, taken);
    }

    private static void under(Line above, Under as, String words, String wording) {
        above.wording.add(wording);
        if (as == Under.CHECK_LIST) {
            above.points.add(words);
        } else {
            above.told.add("– " + words);
        }
    }

    /** Marks of emphasis and links are left out of names, and nothing in a document is a value to be filled in. */
    private static String plain(String line) {
        String words = line.replaceAll("\\[([^\\]]*)\\]\\([^)]*\\)", "$1")
                .replaceAll("[*_`]{1,3}", "")
                .replace("{{", "{ {");
        return dastur.core.json.Texts.clip(words.strip(), 120);
    }

    private static Steps steps(List<Line> lines, Set<StepId> taken) {
        Set<StepId> used = new HashSet<>(taken);
        List<StepId> ids = new ArrayList<>();
        for (Line line : lines) {
            StepId id = Notation.freeId(line.name, used);
            used.add(id);
            ids.add(id);
        }
        List<Step> steps = new ArrayList<>();
        Map<String, WorkflowVersion.Note> notes = new LinkedHashMap<>();
        for (int i = 0; i < lines.size(); i++) {
            Line line = lines.get(i);
            Map<String, StepId> ways = i + 1 < ids.size() ? Map.of("Done", ids.get(i + 1)) : Map.of();
            steps.add(new HumanTask(
                    ids.get(i),
                    line.name,
                    line.told.isEmpty() ? null : String.join("\n", line.told),
                    new Party.TicketGroup(),
                    null,
                    List.of("Done"),
                    line.points.isEmpty() ? null : points(line.points),
                    null,
                    null,
                    ways,
                    null));
            notes.put(ids.get(i).value(), new WorkflowVersion.Note(null, String.join("\n", line.wording)));
        }
        return new Steps(steps, notes);
    }

    private static List<Field> points(List<String> points) {
        List<Field> fields = new ArrayList<>();
        for (String point : points) {
            fields.add(Field.of("point" + (fields.size() + 1), point, FieldType.YES_NO)
                    .asRequired());
        }
        return fields;
    }
}
