package dastur.core.start;

import dastur.core.run.Event;
import dastur.core.workflow.TriggerId;
import java.util.Collection;
import java.util.Comparator;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.TreeMap;

/**
 * What triggers came to on the last causes (I14, N32): how often each was looked at, held, and was taken by another before it.
 *
 * @param looked how often something happened that it listens to
 * @param held how often all that it asks for was so, and it started, asked or offered
 * @param gaveWay how often all was so, but an earlier one had started something
 */
public record TriggerFigures(TriggerId trigger, long looked, long held, List<Earlier> gaveWay) {
    /** @param to the earlier one @param times how often */
    public record Earlier(TriggerId to, long times) {}

    private static final class Counts {
        private long looked;
        private long held;
        private final Map<TriggerId, Long> gaveWay = new TreeMap<>();

        private TriggerFigures figures(TriggerId trigger) {
            return new TriggerFigures(
                    trigger,
                    looked,
                    held,
                    gaveWay.entrySet().stream()
                            .map(e -> new Earlier(e.getKey(), e.getValue()))
                            .sorted(Comparator.comparingLong(Earlier::times).reversed())
                            .toList());
        }
    }

    /** What was looked at for each cause, put together by trigger. What was redacted says nothing. */
    public static List<TriggerFigures> of(Collection<Event.TriggersLookedAt> causes) {
        Map<TriggerId, Counts> counts = new LinkedHashMap<>();
        for (Event.TriggersLookedAt cause : causes) {
            for (Event.Look look : cause.looks() == null ? List.<Event.Look>of() : cause.looks()) {
                Counts of = counts.computeIfAbsent(look.trigger(), t -> new Counts());
                of.looked++;
                of.held += look.holds() ? 1 : 0;
                if (look.gaveWayTo() != null) {
                    of.gaveWay.merge(look.gaveWayTo(), 1L, Long::sum);
                }
            }
        }
        return counts.entrySet().stream()
                .map(e -> e.getValue().figures(e.getKey()))
                .toList();
    }
}
