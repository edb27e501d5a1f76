package dastur.core.rehearsal;

import dastur.core.people.PersonId;
import dastur.core.run.LookupKey;
import dastur.core.ticket.TicketKind;
import dastur.core.workflow.StepId;
import dastur.core.workflow.WorkflowVersion;
import java.time.Instant;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.function.Function;

/**
 * What is rehearsed, and on what.
 *
 * @param fields of the made-up ticket, or copied from a real one
 * @param by who raises the ticket and starts the run
 * @param start the virtual clock's first moment
 * @param world looks up people, CIs, calendars and so on; only ever read
 * @param failing checks that do not hold, whatever is measured
 * @param begins how the run begins
 */
public record Setting(
        WorkflowVersion version,
        TicketKind kind,
        Map<String, Object> fields,
        Map<String, Object> inputs,
        PersonId by,
        Instant start,
        Function<LookupKey, Optional<?>> world,
        Set<StepId> failing,
        Begins begins) {
    public Setting {
        failing = Set.copyOf(failing);
    }

    /** Begun by hand, with checks that are judged by what is measured and answered. */
    public Setting(
            WorkflowVersion version,
            TicketKind kind,
            Map<String, Object> fields,
            Map<String, Object> inputs,
            PersonId by,
            Instant start,
            Function<LookupKey, Optional<?>> world) {
        this(version, kind, fields, inputs, by, start, world, Set.of(), new Begins.ByHand());
    }

    Setting withFailing(Set<StepId> checks) {
        return new Setting(version, kind, fields, inputs, by, start, world, checks, begins);
    }

    /** The same, begun otherwise. */
    public Setting begunBy(Begins other) {
        return new Setting(version, kind, fields, inputs, by, start, world, failing, other);
    }
}
