package dastur.store;

import dastur.core.signal.Matter;
import dastur.core.signal.Turn;
import java.util.ArrayList;
import java.util.List;
import org.jspecify.annotations.Nullable;

/**
 * What becomes of signals, written as one with the change of the ticket that follows from them, or not at all (I5). The claim
 * on the matter is its revision: whoever finds it changed has lost, and looks again.
 *
 * @param signals what came, with what it was found to be
 * @param before the matter as it was read; null for signals of no matter
 * @param after the matter as it is to be; null with {@code before}
 * @param opens whether the ticket that is written with it is what the matter is about from now on
 * @param then what is done when that has recovered; only where it opens one
 */
public record Settlement(
        List<Routed> signals,
        Matters.@Nullable Held before,
        @Nullable Matter after,
        boolean opens,
        Matter.@Nullable Recovery then) {
    /**
     * One signal.
     *
     * @param state what became of it, in a word
     * @param understood as JSON; null when it was not
     * @param why as JSON; null for what repeats
     */
    public record Routed(
            String id,
            String state,
            @Nullable Turn turn,
            @Nullable String sort,
            @Nullable String severity,
            @Nullable String title,
            @Nullable String ci,
            @Nullable String understood,
            @Nullable String why,
            @Nullable String problem) {}

    /** The writes. @param ticket what they are written with; null for nothing */
    List<Write> writes(@Nullable String ticket) {
        List<Write> writes = new ArrayList<>();
        if (before != null && after != null) {
            writes.add(before.claim(opens && ticket != null && then != null ? after.on(id(ticket), then) : after));
        }
        String matter = before == null ? null : before.matter().key();
        for (Routed s : signals) {
            writes.add(Write.of(
                    Sql.SIGNAL_ROUTED,
                    s.id(),
                    s.state(),
                    s.turn() == null ? null : s.turn().word(),
                    s.sort(),
                    s.severity(),
                    matter,
                    s.title(),
                    s.ci(),
                    ticket,
                    s.understood(),
                    s.why(),
                    s.problem(),
                    s.id()));
            // Of no matter: that it was due is what is claimed.
            Sql due = before == null && s == signals.getFirst() ? Sql.SIGNAL_CLAIMED : Sql.SIGNAL_SEEN;
            writes.add(Write.of(due, s.id(), s.id()));
        }
        return writes;
    }

    private static dastur.core.ticket.TicketId id(String ticket) {
        return new dastur.core.ticket.TicketId(ticket);
    }
}
