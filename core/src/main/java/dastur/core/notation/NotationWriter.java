package dastur.core.notation;

import dastur.core.workflow.Kinds;
import dastur.core.workflow.Known;
import dastur.core.workflow.Level;
import dastur.core.workflow.Step;
import dastur.core.workflow.StepId;
import dastur.core.workflow.WorkflowVersion;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Set;
import java.util.TreeMap;
import org.jspecify.annotations.Nullable;

/** Writes a workflow as text. */
final class NotationWriter {
    private final WorkflowVersion version;
    private final StringBuilder text = new StringBuilder();

    NotationWriter(WorkflowVersion version) {
        this.version = version;
    }

    String write() {
        Out out = new Out(text, "");
        comment(out, version.notes().get(""));
        out.line("workflow " + version.key() + " " + Phrases.quoted(version.name())
                + (version.kind() == null ? "" : " for " + version.kind().word()));
        Out in = out.below();
        in.line("owner " + version.owner());
        in.text("purpose", version.purpose());
        version.startForm().forEach(f -> in.line("asks " + Phrases.field(f)));
        version.vars().forEach(f -> in.line("keeps " + Phrases.field(f)));
        version.results().forEach(r -> in.line("gives " + Phrases.field(r.field()) + " = " + r.value()));
        version.conditions().forEach((name, condition) -> in.line("condition " + name + " = " + condition));
        if (version.mostVisits() != null) {
            in.line("at most " + version.mostVisits() + " steps in a run");
        }
        steps(out, version.body(), true);
        WorkflowVersion.Note tail = version.notes().get(Notation.TAIL);
        if (tail != null) {
            out.gap();
            comment(out, tail);
        }
        return text.toString();
    }

    private void steps(Out out, Level level, boolean apart) {
        List<Step> steps = level.steps();
        for (int i = 0; i < steps.size(); i++) {
            if (apart) {
                out.gap();
            }
            step(out, steps.get(i), i + 1 < steps.size() ? steps.get(i + 1).id() : null);
        }
    }

    private void step(Out out, Step step, @Nullable StepId next) {
        Speaks<Step> kind = Kinds.of(step, Speaks.class);
        WorkflowVersion.Note note = version.notes().get(step.id().value());
        comment(out, note);
        out.line(step.id() + ": " + kind.sentence(step));
        Out in = out.below();
        if (note != null) {
            in.text("from the document", note.wording());
        }
        kind.settings(step, in);
        if (step.expected() != null) {
            in.line("expects " + Phrases.exit(step.expected()));
        }
        ways(in, step, next);
        step.levels().forEach(level -> inside(in, step, level));
    }

    private void inside(Out in, Step step, Level level) {
        String head = null;
        if ((Object) Kinds.of(step, Speaks.class) instanceof HeadsLines<?>) {
            HeadsLines<Step> kind = Kinds.of(step, HeadsLines.class);
            head = kind.headOf(step, level);
        }
        if (head != null) {
            in.line(head);
        }
        steps(head == null ? in : in.below(), level, false);
    }

    /** Ways in the order of the exits; the expected one is left out where it leads to the next step. */
    private static void ways(Out out, Step step, @Nullable StepId next) {
        List<String> exits = step.exits(Known.NOTHING);
        String expected = step.expected() != null
                ? step.expected()
                : exits.stream().findFirst().orElse(null);
        if (expected != null && next != null && !step.ways().containsKey(expected)) {
            out.line(Phrases.exit(expected) + " -> ?");
        }
        Set<String> order = new LinkedHashSet<>(exits);
        order.addAll(new TreeMap<>(step.ways()).keySet());
        for (String exit : order) {
            StepId to = step.ways().get(exit);
            if (to != null && !(exit.equals(expected) && to.equals(next))) {
                out.line(Phrases.exit(exit) + " -> " + to);
            }
        }
    }

    static String sentence(Step step) {
        Speaks<Step> kind = Kinds.of(step, Speaks.class);
        return kind.sentence(step);
    }

    private static void comment(Out out, WorkflowVersion.@Nullable Note note) {
        if (note != null && note.comment() != null) {
            note.comment().lines().forEach(l -> out.line(l.isEmpty() ? "#" : "# " + l));
        }
    }
}
