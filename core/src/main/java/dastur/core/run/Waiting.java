package dastur.core.run;

import com.fasterxml.jackson.annotation.JsonTypeInfo;
import com.fasterxml.jackson.databind.annotation.JsonTypeIdResolver;
import dastur.core.people.Cover;
import dastur.core.people.PersonId;
import dastur.core.workflow.StepId;
import dastur.core.workflow.WorkflowKey;
import java.time.Instant;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.TreeMap;
import org.jspecify.annotations.Nullable;

/**
 * What an open visit waits for. The engine's own states are closed; those of a room are brought by its kinds of steps, and say by
 * what they answer here all that the engine has to know of them.
 */
@JsonTypeInfo(use = JsonTypeInfo.Id.CUSTOM, property = "for")
@JsonTypeIdResolver(WaitingWords.class)
public sealed interface Waiting {
    /** What visits of a kind with a room of its own wait for. */
    non-sealed interface InRoom extends Waiting {
        /** Law 2: whether there still is somebody or something that can end it. */
        boolean alive(Visit visit);
    }

    /**
     * What people are asked.
     *
     * @param kind the word for it on lists
     * @param name what it is called
     * @param to who can answer now
     * @param overseers who may answer in their place; null for nobody
     * @param claimedBy who has taken it on; null while nobody has
     * @param due by when; null for no time
     * @param cover which covers answer in the place of whoever is away; null where nobody else can
     */
    record Asked(
            String kind,
            String name,
            Assigned to,
            @Nullable Assigned overseers,
            @Nullable PersonId claimedBy,
            @Nullable Instant due,
            Cover.@Nullable Scope cover) {}

    /** An open question of somebody who is asked; whoever has the ticket answers. @param text null when it was redacted */
    record Question(PersonId by, Instant at, @Nullable String text) {}

    /** A signal from outside that is waited for. @param key only one with this key; null for any */
    record Signal(String name, @Nullable String key) {}

    /** The same with every moment that people are shown later. */
    default Waiting later(long seconds) {
        return this;
    }

    /** The same after the run was held for so long. */
    default Waiting heldFor(long seconds) {
        return later(seconds);
    }

    /** Whether nobody has answered it and nothing has gone out for it: then what led to it may be taken back (D29). */
    default boolean untouched() {
        return false;
    }

    /** What is asked, in the words of its designer; null where nobody is asked anything. */
    default @Nullable String words() {
        return null;
    }

    /** What people are asked; empty where nobody is. */
    default Optional<Asked> asks() {
        return Optional.empty();
    }

    /** What one of those who are asked wants to know first; then the clocks stand still. */
    default Optional<Question> openQuestion() {
        return Optional.empty();
    }

    /** What those who are asked are shown, by path. */
    default Map<String, Object> values() {
        return Map.of();
    }

    /** Those whom a rung need not, or must not, ask: they are asked already, or may not be. */
    default List<PersonId> notAnew() {
        return List.of();
    }

    /** Whether somebody who covers may answer in the place of the one who is away. */
    default boolean coveredBy(Cover cover) {
        return false;
    }

    /** The same with others who are asked as well. @param needed how many must agree then; null where that stays */
    default Waiting joinedBy(List<PersonId> more, @Nullable Integer needed) {
        return this;
    }

    /** The same for others, who have it alone. */
    default Waiting handedTo(Assigned others) {
        return this;
    }

    /** The signal that ends it; empty where none does. */
    default Optional<Signal> awaits() {
        return Optional.empty();
    }

    /** The call that a machine is to make for it now; empty where there is none. */
    default Optional<Standing.Call> toCall(VisitId visit) {
        return Optional.empty();
    }

    /** Whether a machine is at work for it, or will be once more. */
    default boolean machine() {
        return false;
    }

    /** Whether something goes on outside, so that nobody knows yet what it will have changed. */
    default boolean inFlight() {
        return false;
    }

    /** The delivery of a message to all its people. */
    record Delivery(String message, List<PersonId> left, boolean someFailed) implements Waiting {}

    /** How a line of a bracket ended. */
    record LineEnd(boolean done, String result) {}

    /** A line that can be begun: its name and first step. */
    record Begin(String name, StepId to) {}

    /**
     * The lines inside a bracket.
     *
     * @param bracket stage, fork, for each or repeat
     * @param needed how many must be done
     * @param atOnce how many may be under way
     * @param begins the lines of a fork that were opened; else the one body
     * @param items the frozen list of a for each
     * @param begun how many were begun so far
     * @param ended how lines ended, by index
     * @param judged whether a repeat's last round was judged and the next waits for its pause
     */
    record Lines(
            String bracket,
            int count,
            int needed,
            int atOnce,
            boolean stopAtFirst,
            @Nullable String item,
            List<Begin> begins,
            List<Object> items,
            int begun,
            TreeMap<Integer, LineEnd> ended,
            @Nullable String leaveBy,
            boolean judged)
            implements Waiting {
        public Lines {
            begins = List.copyOf(begins);
            items = List.copyOf(items);
        }

        Lines begunUpTo(int number) {
            return new Lines(
                    bracket,
                    count,
                    needed,
                    atOnce,
                    stopAtFirst,
                    item,
                    begins,
                    items,
                    Math.max(begun, number),
                    ended,
                    leaveBy,
                    false);
        }

        Lines ended(int index, LineEnd how) {
            TreeMap<Integer, LineEnd> all = new TreeMap<>(ended);
            all.put(index, how);
            return new Lines(
                    bracket, count, needed, atOnce, stopAtFirst, item, begins, items, begun, all, leaveBy, judged);
        }

        Lines leftBy(String exit) {
            return new Lines(
                    bracket, count, needed, atOnce, stopAtFirst, item, begins, items, begun, ended, exit, judged);
        }

        Lines paused() {
            return new Lines(
                    bracket, count, needed, atOnce, stopAtFirst, item, begins, items, begun, ended, leaveBy, true);
        }

        int done() {
            return (int) ended.values().stream().filter(LineEnd::done).count();
        }

        int failed() {
            return ended.size() - done();
        }

        int underWay() {
            return begun - ended.size();
        }
    }

    /** A workflow that is to begin on another ticket; it is not known yet as which run. */
    record Sent(WorkflowKey workflow, String name) implements Waiting {}

    /**
     * A run that this visit called, on this ticket or another.
     *
     * @param ended whether it has ended
     */
    record Called(RunId run, boolean ended, @Nullable String result, boolean stopped, Map<String, Object> results)
            implements Waiting {}

    /** Somebody who helps: the visit could not even begin. */
    record Help() implements Waiting {
        @Override
        public boolean untouched() {
            return true;
        }
    }
}
