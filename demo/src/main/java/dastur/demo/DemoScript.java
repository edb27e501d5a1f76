package dastur.demo;

import dastur.core.step.calling.CallingCommands.CallOutcome;
import dastur.core.step.check.CheckCommands.ReviewVerdict;
import dastur.core.ticket.TicketId;
import java.util.ArrayDeque;
import java.util.Deque;
import java.util.HashMap;
import java.util.Map;
import java.util.Optional;
import java.util.function.Consumer;
import org.jspecify.annotations.Nullable;

/**
 * How a story goes where it does not go as expected: what people answer and what machines find, by step. What a step is
 * not told comes out as the workflow expects.
 */
final class DemoScript {
    private final Map<String, String> outcomes = new HashMap<>();
    private final Map<String, Map<String, Object>> forms = new HashMap<>();
    private final Map<String, String> declines = new HashMap<>();
    private final Map<String, ReviewVerdict> verdicts = new HashMap<>();
    private final Map<String, Deque<CallOutcome>> calls = new HashMap<>();
    private final Map<String, Consumer<TicketId>> comings = new HashMap<>();
    private int references;

    DemoScript task(String step, @Nullable String outcome, Map<String, Object> form) {
        if (outcome != null) {
            outcomes.put(step, outcome);
        }
        forms.put(step, form);
        return this;
    }

    DemoScript declines(String step, String why) {
        declines.put(step, why);
        return this;
    }

    /** What is said of a check that does not hold; otherwise it is accepted. */
    DemoScript reviews(String step, ReviewVerdict verdict) {
        verdicts.put(step, verdict);
        return this;
    }

    ReviewVerdict verdict(String step) {
        return verdicts.getOrDefault(step, ReviewVerdict.ACCEPT);
    }

    /** What a machine finds, each time it is asked; the last one from then on. */
    DemoScript finds(String step, Map<String, Object> outputs) {
        return call(step, new CallOutcome.Done("ok", outputs, step + " " + ++references, null, "done in 40 ms", 40, 0));
    }

    DemoScript fails(String step, String why) {
        return call(step, new CallOutcome.Failed(why));
    }

    private DemoScript call(String step, CallOutcome outcome) {
        calls.computeIfAbsent(step, s -> new ArrayDeque<>()).add(outcome);
        return this;
    }

    /** What comes from outside while a step waits for a condition. */
    DemoScript comes(String step, Consumer<TicketId> what) {
        comings.put(step, what);
        return this;
    }

    /** What comes while a step waits, once. */
    Optional<Consumer<TicketId>> coming(String step) {
        return Optional.ofNullable(comings.remove(step));
    }

    @Nullable String outcome(String step) {
        return outcomes.get(step);
    }

    Map<String, Object> form(String step) {
        return forms.getOrDefault(step, Map.of());
    }

    /** Why a decision is declined; null where it is approved. */
    @Nullable String declined(String step) {
        return declines.get(step);
    }

    CallOutcome call(String step) {
        Deque<CallOutcome> left = calls.get(step);
        if (left == null) {
            return new CallOutcome.Done("ok", Map.of(), null, null, "done in 35 ms", 35, 0);
        }
        return left.size() > 1 ? left.removeFirst() : left.getFirst();
    }
}
