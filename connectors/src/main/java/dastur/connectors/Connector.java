package dastur.connectors;

import dastur.core.run.Event;
import dastur.core.step.calling.CallingCommands.CallOutcome;
import dastur.core.workflow.Connection;
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

        /** Hears the whole answer of one that said yes, as JSON, without secrets: outputs are read from it. */
        default void answered(String json) {}
    }

    /** The lease was lost, or the process is stopping; nothing is to be reported. */
    final class Abandoned extends Exception {
        Abandoned() {
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
