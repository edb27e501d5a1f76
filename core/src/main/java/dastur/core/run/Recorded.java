package dastur.core.run;

import dastur.core.people.Actor;
import dastur.core.workflow.StepId;
import java.time.Instant;
import org.jspecify.annotations.Nullable;

/**
 * An event in its place in the record.
 *
 * @param seq the entry's number, from 1
 * @param at when, in UTC to the millisecond; never before the entry before it
 * @param cause the id of the command it follows from
 */
public record Recorded(
        long seq,
        Instant at,
        Actor actor,
        @Nullable RunId run,
        @Nullable StepId step,
        @Nullable VisitId visit,
        String cause,
        Event event) {}
