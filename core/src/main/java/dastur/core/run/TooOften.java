package dastur.core.run;

import dastur.core.people.Actor;
import dastur.core.workflow.Trigger;
import java.util.Optional;

/** How often what comes from outside may start workflows (I27). */
final class TooOften {
    /** All triggers together start so much within a minute of what comes from outside. */
    private static final int MOST_OF_ALL = 300;

    private static final int MINUTES_IN_AN_HOUR = 6;

    private TooOften() {}

    /**
     * Whether what comes from outside has started it, or everything, so often of late that more is for people to decide (I27). What
     * people do is not held back.
     */
    static Optional<String> why(Deciding d, Trigger trigger) {
        if (!(d.actor instanceof Actor.Outside)) {
            return Optional.empty();
        }
        int most = trigger.when() instanceof Trigger.SignalComes s && s.mostAMinute() != null
                ? s.mostAMinute()
                : Trigger.SignalComes.USUAL_MOST;
        Lookups.RecentStarts recent = d.lookups().recentStarts(trigger.id(), d.context.now());
        if (recent.minute() >= most) {
            return Optional.of("it has started " + recent.minute() + " runs within a minute");
        }
        if (recent.hour() >= (long) most * MINUTES_IN_AN_HOUR) {
            return Optional.of("it has started " + recent.hour() + " runs within an hour");
        }
        return recent.all() >= MOST_OF_ALL
                ? Optional.of("triggers have started " + recent.all() + " runs within a minute")
                : Optional.empty();
    }
}
