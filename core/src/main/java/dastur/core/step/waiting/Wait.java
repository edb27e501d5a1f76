package dastur.core.step.waiting;

import dastur.core.people.Party;
import dastur.core.time.Span;
import dastur.core.workflow.Known;
import dastur.core.workflow.Step;
import dastur.core.workflow.StepId;
import java.util.List;
import java.util.Map;
import org.jspecify.annotations.Nullable;

/**
 * Waits for a length of time, a moment, a condition on the ticket, a signal or a reply. Exactly one of these is given.
 *
 * @param span how long
 * @param until an expression that gives a time
 * @param condition an expression that must become true; looked at after each change of the ticket (D7)
 * @param signal the name of a signal that comes from outside
 * @param key an expression: only a signal with this key counts; null for any
 * @param replyOf whoever of these writes on the ticket next has replied
 * @param within how long at most for a condition, a signal or a reply; null for ever
 */
public record Wait(
        StepId id,
        String name,
        @Nullable Span span,
        @Nullable String until,
        @Nullable String condition,
        @Nullable String signal,
        @Nullable String key,
        @Nullable Party replyOf,
        @Nullable Span within,
        Map<String, StepId> ways,
        @Nullable String expected)
        implements Step.InRoom {
    /** A wait for a length of time or a moment. */
    public Wait(
            StepId id,
            String name,
            @Nullable Span span,
            @Nullable String until,
            Map<String, StepId> ways,
            @Nullable String expected) {
        this(id, name, span, until, null, null, null, null, null, ways, expected);
    }

    public Wait {
        ways = Step.ordered(ways);
    }

    @Override
    public List<String> exits(Known known) {
        return List.of("done");
    }

    @Override
    public List<String> optionalExits() {
        return condition == null && signal == null && replyOf == null ? List.of() : List.of("timed out");
    }
}
