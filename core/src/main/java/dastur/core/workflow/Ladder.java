package dastur.core.workflow;

import java.util.List;

/** A reusable escalation: rungs in the order in which they fire (N20). */
public record Ladder(LadderKey key, String name, List<Rung> rungs) {
    public Ladder {
        rungs = List.copyOf(rungs);
        if (rungs.size() > 20) {
            throw new IllegalArgumentException("A ladder has at most 20 rungs, but has " + rungs.size() + ".");
        }
    }
}
