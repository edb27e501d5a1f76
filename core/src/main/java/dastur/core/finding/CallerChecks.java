package dastur.core.finding;

import dastur.core.workflow.Facts;
import dastur.core.workflow.WorkflowVersion;

/** Checks a workflow against those that call it. */
final class CallerChecks {
    private final WorkflowVersion version;
    private final KnownOrganisation around;
    private final Findings.Found found;

    CallerChecks(WorkflowVersion version, KnownOrganisation around, Findings.Found found) {
        this.version = version;
        this.around = around;
        this.found = found;
    }

    /** A result that callers lead nowhere would stall their runs: they are changed first (D11). */
    void check() {
        for (WorkflowVersion caller : around.callers().apply(version.key())) {
            caller.body()
                    .all()
                    .filter(step -> version.key().equals(Facts.of(step).calls()))
                    .forEach(step -> version.endings().stream()
                            .filter(result -> !step.ways().containsKey(result))
                            .forEach(result -> found.blocks(
                                    "callers do not expect it",
                                    null,
                                    null,
                                    "It can end with '" + result + "', which '" + step.name() + "' of '" + caller.name()
                                            + "' leads nowhere. Lead it on there and publish that first.")));
        }
    }
}
