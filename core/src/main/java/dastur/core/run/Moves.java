package dastur.core.run;

import dastur.core.workflow.Bracket;
import dastur.core.workflow.Level;
import dastur.core.workflow.Step;
import dastur.core.workflow.StepId;
import dastur.core.workflow.WorkflowVersion;
import java.util.ArrayList;
import java.util.List;
import java.util.Optional;

/** Whether a run can go on with another version: each step it stands on has its like there (D29). */
public final class Moves {
    private Moves() {}

    /** One sentence for each reason why not; empty when it can. */
    public static List<String> problems(Run run, WorkflowVersion from, WorkflowVersion to) {
        List<String> problems = new ArrayList<>();
        for (Visit visit : run.open().values()) {
            compare(visit.step(), from, to).ifPresent(problems::add);
            if (visit.waiting() instanceof Waiting.Lines lines) {
                lines.begins().forEach(b -> compare(b.to(), from, to).ifPresent(problems::add));
            }
        }
        run.ready().forEach(token -> compare(token.step(), from, to).ifPresent(problems::add));
        return problems.stream().distinct().toList();
    }

    private static Optional<String> compare(StepId id, WorkflowVersion from, WorkflowVersion to) {
        Step before = from.step(id);
        Optional<Step> after = to.find(id);
        if (after.isEmpty()) {
            return Optional.of(
                    "It stands on '" + before.name() + "', which version " + to.number() + " does not have.");
        }
        if (!after.get().getClass().equals(before.getClass())) {
            return Optional.of(
                    "'" + before.name() + "', on which it stands, is of another kind in version " + to.number() + ".");
        }
        return path(from.body(), id, "").equals(path(to.body(), id, ""))
                ? Optional.empty()
                : Optional.of("'" + before.name() + "', on which it stands, stands elsewhere in version " + to.number()
                        + ".");
    }

    /** The brackets around a step, from the outside in, with the line it stands on in each. */
    private static String path(Level level, StepId id, String around) {
        for (Step step : level.steps()) {
            if (step.id().equals(id)) {
                return around;
            }
            if (step instanceof Bracket bracket) {
                for (int i = 0; i < bracket.levels().size(); i++) {
                    Level inner = bracket.levels().get(i);
                    if (inner.all().anyMatch(s -> s.id().equals(id))) {
                        return path(inner, id, around + "/" + bracket.id() + "." + i);
                    }
                }
            }
        }
        return around;
    }
}
