package dastur.core.step.tally;

import dastur.core.people.Party;
import dastur.core.time.Span;
import dastur.core.workflow.Known;
import dastur.core.workflow.Step;
import dastur.core.workflow.StepId;
import java.util.List;
import java.util.Map;
import org.jspecify.annotations.Nullable;

/** People count something until there are enough. Exists in tests only, to show what a kind of step needs: this room and one line. */
public record Tally(
        StepId id,
        String name,
        int target,
        Party counters,
        Span within,
        Map<String, StepId> ways,
        @Nullable String expected)
        implements Step.InRoom {
    public Tally {
        ways = Step.ordered(ways);
    }

    @Override
    public List<String> exits(Known known) {
        return List.of("full");
    }

    @Override
    public List<String> optionalExits() {
        return List.of("too few");
    }
}
