package dastur.core.step.calling;

import dastur.core.run.Event;
import dastur.core.run.Standing;
import dastur.core.run.Visit;
import dastur.core.run.VisitId;
import dastur.core.run.Waiting;
import dastur.core.workflow.Action;
import dastur.core.workflow.ActionKey;
import java.time.Instant;
import java.util.Optional;
import org.jspecify.annotations.Nullable;

/**
 * The result of a call.
 *
 * @param came what it came to where no way leads on from there; null while it is under way
 */
public record CallUnderWay(
        ActionKey action,
        int attempt,
        String key,
        Action.Repeat repeat,
        int tries,
        long pauseSeconds,
        Instant startedAt,
        boolean betweenAttempts,
        boolean unsure,
        Event.@Nullable Call call,
        @Nullable Came came)
        implements Waiting.InRoom {
    @Override
    public Optional<Standing.Call> toCall(VisitId visit) {
        return call == null || unsure || betweenAttempts || came != null
                ? Optional.empty()
                : Optional.of(new Standing.Call(visit, attempt, action, repeat, key, call));
    }

    @Override
    public boolean machine() {
        return true;
    }

    @Override
    public boolean inFlight() {
        return !betweenAttempts;
    }

    /** While it is under way, or a person is to say what became of it. */
    @Override
    public boolean alive(Visit visit) {
        return !visit.alarms().isEmpty() || visit.stall() != null;
    }

    /** The next attempt follows under a key. */
    CallUnderWay betweenAttempts(String nextKey) {
        return changed(attempt, nextKey, true, false, call, null);
    }

    /** Made once more. */
    CallUnderWay again(int number, String newKey, Event.@Nullable Call newCall) {
        return changed(number, newKey, false, false, newCall, null);
    }

    /** Nobody knows whether it happened. */
    CallUnderWay inDoubt() {
        return changed(attempt, key, false, true, call, null);
    }

    /** It is over for the worker, and waits for a person. */
    CallUnderWay came(Came result) {
        return changed(attempt, key, false, false, call, result);
    }

    private CallUnderWay changed(
            int newAttempt,
            String newKey,
            boolean between,
            boolean doubt,
            Event.@Nullable Call newCall,
            @Nullable Came result) {
        return new CallUnderWay(
                action, newAttempt, newKey, repeat, tries, pauseSeconds, startedAt, between, doubt, newCall, result);
    }
}
