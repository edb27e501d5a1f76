package dastur.core.step.bracket;

import dastur.core.finding.Inspection;
import dastur.core.finding.WayChecks;
import dastur.core.workflow.Bracket;
import dastur.core.workflow.Facts;
import dastur.core.workflow.Level;
import dastur.core.workflow.Step;

/** What kinds of brackets have in common. */
final class Brackets {
    private Brackets() {}

    static boolean canBeDone(Level level) {
        return level.steps().isEmpty()
                || WayChecks.reachedFrom(level, level.steps().getFirst().id()).stream()
                        .anyMatch(id ->
                                level.step(id).orElseThrow() instanceof Step.End e && e.ending() == Step.Ending.LINE);
    }

    static boolean canFail(Level level) {
        return level.steps().stream().anyMatch(s -> s instanceof Step.End e && e.ending() == Step.Ending.FAILED);
    }

    /** Lines side by side would overwrite each other's values (D10). */
    static void writesOutside(Bracket bracket, Level level, Inspection in) {
        level.all()
                .filter(s -> Facts.of(s).sets().keySet().stream().anyMatch(path -> path.startsWith("vars.")))
                .findFirst()
                .ifPresent(s -> in.blocks(
                        "parallel writes",
                        s,
                        "set",
                        "'" + s.name() + "' sets a run variable while other lines of '" + bracket.name()
                                + "' run beside it. Set it after they meet."));
    }
}
