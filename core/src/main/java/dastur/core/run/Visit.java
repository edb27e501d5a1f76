package dastur.core.run;

import com.fasterxml.jackson.annotation.JsonIgnore;
import com.fasterxml.jackson.annotation.JsonValue;
import dastur.core.workflow.Rung;
import dastur.core.workflow.StepId;
import java.time.Instant;
import java.util.List;
import org.jspecify.annotations.Nullable;

/** One passage of a run through a step, while it is open. */
public record Visit(
        VisitId id,
        StepId step,
        Instant openedAt,
        Waiting waiting,
        List<Alarm> alarms,
        @Nullable Stall stall) {
    /** Why a visit is stalled. */
    public record Stall(String code, String why) {}

    /** What an alarm is for. */
    public enum AlarmKind {
        RUNG("rung"),
        OVERDUE("overdue"),
        LAPSE("lapse"),
        RETRY("retry"),
        TIME_LIMIT("time limit"),
        WAIT("wait");

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
            return kind == AlarmKind.RETRY || kind == AlarmKind.WAIT || deed != null && deed.onlyTells();
        }

        Alarm later(long seconds) {
            return new Alarm(due.plusSeconds(seconds), kind, number, deed);
        }
    }

    Visit waitingFor(Waiting other) {
        return new Visit(id, step, openedAt, other, alarms, stall);
    }

    Visit alarmed(List<Alarm> others) {
        return new Visit(id, step, openedAt, waiting, List.copyOf(others), stall);
    }

    Visit stalled(@Nullable Stall why) {
        return new Visit(id, step, openedAt, waiting, alarms, why);
    }

    Visit without(AlarmKind kind) {
        return alarmed(alarms.stream().filter(a -> a.kind() != kind).toList());
    }
}
