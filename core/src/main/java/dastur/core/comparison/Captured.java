package dastur.core.comparison;

import dastur.core.run.Event;
import dastur.core.run.Recorded;
import dastur.core.run.RuleSeen;
import dastur.core.run.RunId;
import dastur.core.run.VisitId;
import dastur.core.workflow.StepId;
import java.time.Instant;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import org.jspecify.annotations.Nullable;

/**
 * What one passage through a step brought, as an entry of the record has it: what was measured, what a check saw, what a
 * person filled in.
 *
 * @param seq the entry's number in its ticket's record
 * @param values by name; empty where it brought none or they were redacted
 * @param rules what a check saw; empty for what is not a check
 */
public record Captured(
        long seq, Instant at, RunId run, StepId step, VisitId visit, Map<String, Object> values, List<RuleSeen> rules) {
    /** All that a record has, in its order; what brought neither values nor rules is left out. */
    public static List<Captured> of(List<Recorded> record) {
        Map<VisitId, Captured> unjudged = new HashMap<>();
        List<Captured> all = new ArrayList<>();
        for (Recorded r : record) {
            RunId run = r.run();
            StepId step = r.step();
            VisitId visit = r.visit();
            if (run == null || step == null || visit == null || !(r.event() instanceof Event.OfVisit event)) {
                continue;
            }
            List<RuleSeen> rules = orNone(event.saw());
            Map<String, Object> values = orNone(event.brings());
            if (!rules.isEmpty() && values.isEmpty() && unjudged.containsKey(visit)) {
                // What a step measures for its rules stands with what they saw in it.
                Captured measured = unjudged.remove(visit);
                all.remove(measured);
                values = measured.values();
            }
            if (!values.isEmpty() || !rules.isEmpty()) {
                Captured captured = new Captured(r.seq(), r.at(), run, step, visit, values, rules);
                all.add(captured);
                if (rules.isEmpty() && !(event instanceof Event.Leaving)) {
                    unjudged.put(visit, captured);
                }
            }
        }
        return List.copyOf(all);
    }

    private static List<RuleSeen> orNone(@Nullable List<RuleSeen> rules) {
        return rules == null ? List.of() : rules;
    }

    private static Map<String, Object> orNone(@Nullable Map<String, Object> values) {
        return values == null ? Map.of() : values;
    }
}
