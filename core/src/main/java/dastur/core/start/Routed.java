package dastur.core.start;

import dastur.core.run.Event.Look;
import dastur.core.signal.Aside;
import dastur.core.signal.Matter;
import dastur.core.signal.Turn;
import dastur.core.ticket.TicketId;
import dastur.core.ticket.TicketKind;
import dastur.core.workflow.Trigger;
import java.util.List;

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
         * @param beside tickets to link it with: the ended one that was about the same, an incident of what it depends on
         * @param recovery what is done when it has recovered
         */
        record Opens(TicketKind kind, List<TicketId> beside, Matter.Recovery recovery) implements Way {
            public Opens {
                beside = List.copyOf(beside);
            }
        }

        /** Another ticket explains it: it is noted there, and opens nothing while that is so (I21, I22). */
        record Noted(TicketId under, Aside.Because because) implements Way {}

        /** It is kept, and does nothing. @param why completes "kept: …" */
        record Kept(String why) implements Way {}
    }
}
