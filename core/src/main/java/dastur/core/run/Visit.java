package dastur.core.run;

import com.fasterxml.jackson.annotation.JsonIgnore;
import com.fasterxml.jackson.annotation.JsonValue;
import dastur.core.workflow.Rung;
import dastur.core.workflow.StepId;
import java.time.Instant;
import java.util.List;
import org.jspecify.annotations.Nullable;

/**
 * One passage of a run through a step, while it is open.
 *
 * @param place where inside brackets; null at the top level
 * @param since since when it waits for what it waits for now; a check is opened long before somebody looks at it
 * @param putsBack the visit that this one puts back; null for ordinary ones
 * @param settling for a check that is judged again; null otherwise
 */
public record Visit(
        VisitId id,
        StepId step,
        @Nullable Place place,
        Instant openedAt,
        Instant since,
        Waiting waiting,
        List<Alarm> alarms,
        @Nullable Stall stall,
        @Nullable VisitId putsBack,
        @Nullable Settling settling) {
    /**
     * A check that is judged again and again until it holds.
     *
     * @param tries how often it was judged
     * @param until how long it may take
     * @param first what the first judging saw
     */
    public record Settling(int tries, Instant until, List<RuleSeen> first) {
        public Settling {
            first = List.copyOf(first);
        }
    }

    /** Why a visit is stalled, and since when. */
    public record Stall(String code, String why, Instant since) {
        /** The code where a test waits for whoever tries it to say how it goes on (I4). */
        public static final String WITHHELD = "withheld";
    }

    /** What an alarm is for. */
    public enum AlarmKind {
        RUNG("rung"),
        OVERDUE("overdue"),
        LAPSE("lapse"),
        RETRY("retry"),
        TIME_LIMIT("time limit"),
        WAIT("wait"),
        TIMEOUT("time out"),
        PAUSE("pause"),
        JUDGE("judge");

        private final String word;

        AlarmKind(String word) {
            this.word = word;
        }

        @JsonValue
        public String word() {
            return word;
        }
    }

    /**
     * Something happens to a visit when its moment has come.
     *
     * @param number the rung's number; 0 for others
     * @param deed what the rung does; null for others
     */
    public record Alarm(Instant due, AlarmKind kind, int number, Rung.@Nullable Deed deed) {
        /** Whether it only tells people, so that it may fire at once after an outage (D6). */
        @JsonIgnore
        boolean harmless() {
            return kind == AlarmKind.RETRY
                    || kind == AlarmKind.WAIT
                    || kind == AlarmKind.PAUSE
                    || kind == AlarmKind.JUDGE
                    || deed != null && deed.takesNothingAway();
        }

        Alarm later(long seconds) {
            return new Alarm(due.plusSeconds(seconds), kind, number, deed);
        }
    }

    /** A visit that was just opened. */
    static Visit opened(VisitId id, StepId step, @Nullable Place place, Instant at, @Nullable VisitId putsBack) {
        return new Visit(id, step, place, at, at, new Waiting.Help(), List.of(), null, putsBack, null);
    }

    /** The same with every moment later. */
    public Visit later(long seconds) {
        Settling longer = settling == null
                ? null
                : new Settling(settling.tries(), settling.until().plusSeconds(seconds), settling.first());
        return new Visit(
                id,
                step,
                place,
                openedAt,
                since,
                waiting.later(seconds),
                alarms.stream().map(a -> a.later(seconds)).toList(),
                stall,
                putsBack,
                longer);
    }

    /** The same after the run was held for so long. */
    Visit heldFor(long seconds) {
        return later(seconds).waitingFor(waiting.heldFor(seconds));
    }

    /** Waits for something else, in the course of the same waiting. */
    public Visit waitingFor(Waiting other) {
        return new Visit(id, step, place, openedAt, since, other, alarms, stall, putsBack, settling);
    }

    /** Begins to wait for something else. */
    public Visit waitingFor(Waiting other, Instant from) {
        return new Visit(id, step, place, openedAt, from, other, alarms, stall, putsBack, settling);
    }

    public Visit alarmed(List<Alarm> others) {
        return new Visit(id, step, place, openedAt, since, waiting, List.copyOf(others), stall, putsBack, settling);
    }

    public Visit stalled(@Nullable Stall why) {
        return new Visit(id, step, place, openedAt, since, waiting, alarms, why, putsBack, settling);
    }

    public Visit settling(Settling other) {
        return new Visit(id, step, place, openedAt, since, waiting, alarms, stall, putsBack, other);
    }

    public Visit without(AlarmKind kind) {
        return alarmed(alarms.stream().filter(a -> a.kind() != kind).toList());
    }
}
