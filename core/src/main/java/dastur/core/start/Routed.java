package dastur.core.start;

import dastur.core.run.Event.Look;
import dastur.core.signal.Matter;
import dastur.core.signal.Turn;
import dastur.core.ticket.TicketId;
import dastur.core.ticket.TicketKind;
import dastur.core.workflow.Trigger;
import java.util.List;
import org.jspecify.annotations.Nullable;

/**
 * What becomes of a signal, and why.
 *
 * @param turn what it did to its matter
 * @param told what was asked, in order, with the answers
 * @param looks the triggers that were looked at
 * @param starts those of them that hold and do something
 */
public record Routed(Way way, Turn turn, List<Told> told, List<Look> looks, List<Trigger.Live> starts) {
    /** Of what only repeats: nothing was asked. */
    public static Routed none() {
        return new Routed(new Way.Kept("it says the same again"), Turn.REPEATS, List.of(), List.of(), List.of());
    }

    /** One question of the order (I5), and what was answered. @param took whether this decided it */
    public record Told(String asked, boolean took, String answer) {}

    /** Where it goes. */
    public sealed interface Way {
        /** It joins a ticket. @param enter whether the record is to tell of it at once; else it waits with others */
        record Joins(TicketId ticket, boolean enter) implements Way {}

        /**
         * It opens a ticket.
         *
         * @param follows the ended ticket that was about the same; null for none
         * @param recovery what is done when it has recovered
         */
        record Opens(TicketKind kind, @Nullable TicketId follows, Matter.Recovery recovery) implements Way {}

        /** It is kept, and does nothing. @param why completes "kept: …" */
        record Kept(String why) implements Way {}
    }
}
