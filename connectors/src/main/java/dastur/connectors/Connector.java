package dastur.connectors;

import dastur.core.run.Event;
import dastur.core.run.VisitId;
import dastur.core.step.calling.CallingCommands.CallOutcome;
import dastur.core.ticket.TicketId;
import dastur.core.workflow.Action;
import dastur.core.workflow.Connection;
import java.net.URI;
import org.jspecify.annotations.Nullable;

/** Makes a call to an outside system and says what became of it; what nobody can know is said to be unknown (D13). */
public interface Connector {
    /** Keeps the work's lease while a long job is asked after. */
    interface Heartbeat {
        /** Returns false when the lease was lost: somebody else goes on, this call must stop. */
        boolean stillMine();

        /** Returns true when nobody wants the result any more: the job is no longer asked after (D15). */
        default boolean cancelled() {
            return false;
        }

        /** Hears what the other side says while it goes on, without secrets (M7). What it does takes no time. */
        default void heard(String text) {}

        /** Whether a long job may be asked after there: whoever allows only some addresses is asked before each (M13). */
        default boolean mayAsk(URI address) {
            return true;
        }

        /** Whether a long job may be told to end there. */
        default boolean mayCancel(URI address) {
            return true;
        }

        /** By what this call is known; one that is made again under the same id goes on where it was. Null for none. */
        default @Nullable Known known() {
            return null;
        }

        /** Hears the whole answer of one that said yes, as JSON, without secrets: outputs are read from it. */
        default void answered(String json) {}

        /** Takes a picture that was made on the way, as PNG, without secrets (M12). */
        default void pictured(String name, byte[] png) {}
    }

    /**
     * A call that is known by its id.
     *
     * @param of whose call it is, for whoever brings back a result when nobody waits for it any more; null where only the waiting
     *     one wants it
     * @param repeat what may be done when nobody knows whether it happened
     */
    record Known(String id, @Nullable Of of, Action.Repeat repeat) {}

    /** The visit whose call it is, and its attempt. */
    record Of(TicketId ticket, VisitId visit, int attempt, String action) {}

    /** The lease was lost, or the process is stopping; nothing is to be reported. */
    final class Abandoned extends Exception {
        public Abandoned() {
            super("given up to another worker");
        }
    }

    /**
     * @param secret the value of the connection's secret; null for none. It never appears in the result.
     * @throws Abandoned when the heartbeat says so
     */
    CallOutcome call(Event.Call call, Connection connection, @Nullable String secret, Heartbeat heartbeat)
            throws Abandoned;
}
