package dastur.core.workflow;

import dastur.core.time.Span;
import java.util.List;
import org.jspecify.annotations.Nullable;

/**
 * A reusable escalation: rungs in the order in which they fire (N20).
 *
 * @param again whether what only tells is told again; null for once
 * @param stopsWhenClaimed whether it stands still while somebody has claimed the task; null for no: it climbs until the
 *     task is done
 */
public record Ladder(
        LadderKey key,
        String name,
        List<Rung> rungs,
        @Nullable Again again,
        @Nullable Boolean stopsWhenClaimed) {
    /**
     * The rungs that only tell fire again.
     *
     * @param every after this long, counted from when the ladder begins to climb
     * @param times how often, 1 to 20
     */
    public record Again(Span every, int times) {
        public Again {
            if (times < 1 || times > 20 || every.roughSeconds() < 60) {
                throw new IllegalArgumentException("A ladder climbs again 1 to 20 times, at least a minute apart.");
            }
        }
    }

    /** One that climbs once, until the task is done. */
    public Ladder(LadderKey key, String name, List<Rung> rungs) {
        this(key, name, rungs, null, null);
    }

    public Ladder {
        rungs = List.copyOf(rungs);
        if (rungs.size() > 20) {
            throw new IllegalArgumentException("A ladder has at most 20 rungs, but has " + rungs.size() + ".");
        }
        stopsWhenClaimed = Boolean.TRUE.equals(stopsWhenClaimed) ? true : null;
    }
}
