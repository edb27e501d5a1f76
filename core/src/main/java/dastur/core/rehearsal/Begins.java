package dastur.core.rehearsal;

import dastur.core.run.Cause;
import dastur.core.run.Event;
import dastur.core.workflow.Trigger;
import java.util.List;
import java.util.Map;
import org.jspecify.annotations.Nullable;

/** How a rehearsed run begins: by hand, or by whatever a trigger listens to (N30). A trigger is taken as switched on. */
public sealed interface Begins {
    /** Somebody raises the ticket and starts the workflow on it. */
    record ByHand() implements Begins {}

    /**
     * Something that listens to no ticket opens one of its own: a time, a call.
     *
     * @param title of that ticket
     */
    record ByCause(Cause cause, Trigger trigger, String title) implements Begins {}

    /**
     * A signal opens the ticket.
     *
     * @param fields of the ticket
     * @param looks what looking at the trigger came to
     * @param why it is not taken up; null where it is
     * @param proved whether its sender shows who it is
     */
    record BySignal(
            Trigger trigger,
            Map<String, Object> fields,
            Event.SignalsHeard heard,
            List<Event.Look> looks,
            @Nullable String why,
            boolean proved)
            implements Begins {
        public BySignal {
            looks = List.copyOf(looks);
        }
    }

    /**
     * Something happens to a ticket that a trigger listens to: it is raised, a field reaches a value, time passes, a signal
     * is entered.
     *
     * @param heard the signal that is entered; null where the trigger listens to something else
     */
    record OnTicket(Trigger trigger, Event.@Nullable SignalsHeard heard) implements Begins {}
}
