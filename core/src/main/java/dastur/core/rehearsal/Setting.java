package dastur.core.rehearsal;

import dastur.core.people.PersonId;
import dastur.core.run.LookupKey;
import dastur.core.ticket.TicketKind;
import dastur.core.workflow.WorkflowVersion;
import java.time.Instant;
import java.util.Map;
import java.util.Optional;
import java.util.function.Function;

/**
 * What is rehearsed, and on what.
 *
 * @param fields of the made-up ticket, or copied from a real one
 * @param by who raises the ticket and starts the run
 * @param start the virtual clock's first moment
 * @param world looks up people, CIs, calendars and so on; only ever read
 */
public record Setting(
        WorkflowVersion version,
        TicketKind kind,
        Map<String, Object> fields,
        Map<String, Object> inputs,
        PersonId by,
        Instant start,
        Function<LookupKey, Optional<?>> world) {}
