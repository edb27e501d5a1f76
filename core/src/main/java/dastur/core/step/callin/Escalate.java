package dastur.core.step.callin;

import dastur.core.time.Span;
import dastur.core.workflow.Known;
import dastur.core.workflow.LadderKey;
import dastur.core.workflow.Step;
import dastur.core.workflow.StepId;
import java.util.List;
import java.util.Map;
import org.jspecify.annotations.Nullable;

/**
 * Calls people in, up a ladder, until somebody accepts (N20, N61). Each rung that tells or hands over asks its people
 * to join; the others do what they say.
 *
 * @param as what whoever comes takes part as, named by the organisation, such as "incident commander"; null for
 *     nothing named
 * @param message text with {@code {{ }}}: why they are called
 * @param within how long at most
 */
public record Escalate(
        StepId id,
        String name,
        LadderKey ladder,
        @Nullable String as,
        String message,
        Span within,
        Map<String, StepId> ways,
        @Nullable String expected)
        implements Step.InRoom {
    public Escalate {
        ways = Step.ordered(ways);
    }

    @Override
    public List<String> exits(Known known) {
        return List.of("accepted");
    }

    @Override
    public List<String> optionalExits() {
        return List.of("exhausted");
    }
}
