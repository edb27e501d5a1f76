package dastur.core.run;

import dastur.core.people.PersonId;
import dastur.core.workflow.StepId;
import java.util.List;
import java.util.Map;
import org.jspecify.annotations.Nullable;

/**
 * What an event on a visit does to the case. An event of a room says its effects; how they come about is the engine's matter alone
 * ({@link Fold}), so that no room can change what is not its own.
 */
public sealed interface Effect {
    /**
     * The visit is open and waits for this from now on; a token before its step is taken. A stall is over.
     *
     * @param putsBack the visit that it undoes; null for ordinary ones
     */
    record Opens(
            Waiting waiting,
            List<Visit.Alarm> alarms,
            @Nullable VisitId putsBack) implements Effect {
        public Opens(Waiting waiting, List<Visit.Alarm> alarms) {
            this(waiting, alarms, null);
        }
    }

    /** The visit is another than before. */
    record Becomes(Visit visit) implements Effect {}

    /**
     * The visit ends.
     *
     * @param to the step its line goes on with; null where the line ends
     * @param values what it gives to expressions; null for nothing
     */
    record Leaves(@Nullable StepId to, @Nullable Map<String, Object> values) implements Effect {}

    /** What was shown to those who said yes binds the next call that changes the world (D19). Only while the visit is open. */
    record Binds(
            String name,
            List<String> shown,
            Map<String, Object> values,
            @Nullable List<Agreed> allows) implements Effect {}

    /** A call that changes the world has begun: what bound it binds it no more, here and in the runs that called this one. */
    record Begins() implements Effect {}

    /** There is something that undoes what was done (D16). */
    record CanPutBack(Run.PutBack how) implements Effect {}

    /** What a visit did was undone. */
    record PutBack(VisitId of) implements Effect {}

    /** What a visit did is left as it is: it is not tried again, and stands out at the end. */
    record LeftAsItIs(VisitId of) implements Effect {}

    /** The outcome that follows in the same event could be taken back by whoever gave it (D29). */
    record MayBeTakenBack(PersonId by) implements Effect {}

    /** Nothing that was done before could be taken back any more. */
    record Settled() implements Effect {}

    /** The last outcome is taken back: its visit is open again, as it was. */
    record TakenBack() implements Effect {}

    /** Somebody takes part as something. */
    record TakesPart(String as, PersonId person) implements Effect {}

    /** Fields of the ticket are set, and variables of the run. */
    record Sets(
            Map<String, Event.Change> changes,
            @Nullable Map<String, Event.Change> texts,
            @Nullable Map<String, Object> vars)
            implements Effect {}

    /** The visit is judged again until it holds. */
    record Settling(Visit.Settling how) implements Effect {}
}
