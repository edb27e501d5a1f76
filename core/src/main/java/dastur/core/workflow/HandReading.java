package dastur.core.workflow;

/**
 * Whether people who work on tickets may read by an action on a ticket, without a workflow (I13). Whoever designs says so for each
 * action: what can be read may be more than everybody is to see.
 */
public record HandReading(ActionKey action, boolean allowed) {
    /** Whether an action is one that can be let: it only reads, and may be called again and again. */
    public static boolean fits(Action action) {
        return !action.changesWorld() && action.repeat() == Action.Repeat.FREE;
    }
}
