package dastur.core.run;

import dastur.core.signal.Sort;
import dastur.core.signal.Turn;
import dastur.core.workflow.Trigger;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import org.jspecify.annotations.Nullable;

/** What has happened in one decision that triggers listen to and that no field of the ticket shows (I12). */
final class Happened {
    private final Map<String, @Nullable RunId> votes = new LinkedHashMap<>();
    private final List<Event.ClockReached> clocks = new ArrayList<>();
    private final List<Event.SignalsHeard> signals = new ArrayList<>();
    private int seen;

    /** Notices what the decision has come to since. */
    void notice(List<Recorded> events) {
        for (Recorded r : events.subList(seen, events.size())) {
            if (r.event() instanceof Event.OfVisit e && e.decided() != null) {
                votes.put(e.decided(), r.run());
            } else if (r.event() instanceof Event.ClockReached e) {
                clocks.add(e);
            } else if (r.event() instanceof Event.SignalsHeard e) {
                signals.add(e);
            }
        }
        seen = events.size();
    }

    boolean nothing() {
        return votes.isEmpty() && clocks.isEmpty() && signals.isEmpty();
    }

    /** The run whose approval has ended so. */
    Optional<RunId> voted(Trigger.ApprovalEnds when) {
        return Optional.ofNullable(votes.get(when.exit()));
    }

    boolean reached(Trigger.ClockReaches when) {
        return clocks.stream().anyMatch(c -> c.of() == when.clock() && c.percent() == when.percent());
    }

    boolean entered(Trigger.SignalEntered when) {
        return signals.stream()
                .anyMatch(
                        s -> sort(s.turn()).filter(sort -> sort == when.sort()).isPresent()
                                && (when.source() == null || when.source().equals(s.source())));
    }

    /** What a turn tells of; empty for what only repeats, or means nothing by itself. */
    private static Optional<Sort> sort(Turn turn) {
        return switch (turn) {
            case BEGINS, WORSE -> Optional.of(Sort.FAULT);
            case RECOVERED -> Optional.of(Sort.RECOVERED);
            case NEWS -> Optional.of(Sort.NEWS);
            case REPEATS, STILL, NOTHING, OUT_OF_ORDER, UNSTEADY -> Optional.empty();
        };
    }
}
