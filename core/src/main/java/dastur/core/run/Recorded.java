package dastur.core.run;

import dastur.core.people.Actor;
import dastur.core.workflow.StepId;
import java.time.Instant;
import java.util.HashMap;
import java.util.Map;
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
        Event event) {
    /** Under this name, which no expression can say, values keep the number of the visit that gave them. */
    static final String VISIT = "#";

    /** What every finished visit gives: how it ended, when, and which visit it was. More may be put to it. */
    public Map<String, Object> outcome(@Nullable String exit) {
        Map<String, Object> values = new HashMap<>();
        values.put("outcome", exit == null ? "" : exit);
        values.put("at", at.toString());
        if (visit != null) {
            values.put(VISIT, (long) visit.number());
        }
        return values;
    }
}
