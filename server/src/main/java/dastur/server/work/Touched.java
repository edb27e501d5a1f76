package dastur.server.work;

import dastur.core.run.Case;
import dastur.core.run.Event;
import dastur.core.run.Recorded;
import dastur.core.run.Standing;
import dastur.core.ticket.TicketKind;
import java.util.List;
import java.util.SortedSet;
import java.util.TreeSet;
import java.util.stream.Stream;
import org.jspecify.annotations.Nullable;

/**
 * Whose lists a change of a ticket touches, so that an open browser reads anew what is different, and nothing because something
 * elsewhere changed (B10). A function of the case before and after: rows follow from state.
 *
 * @param whose whose desks: groups and people by the words under which rows of work name them, with who oversees
 * @param requesters who asked for it, before and now
 * @param row whether lists say something else of the ticket, but for when it last changed
 * @param runs whether the list of runs says something else
 * @param begunOrEnded whether a run has begun or ended
 * @param undelivered whether a message was given up or sent again
 * @param counts whether more or fewer tickets are open, or runs stalled; routines are not counted
 */
public record Touched(
        SortedSet<String> whose,
        SortedSet<String> requesters,
        boolean row,
        boolean runs,
        boolean begunOrEnded,
        boolean undelivered,
        boolean counts) {
    /** What becomes of rows, gathered. */
    private static final class Gathering implements Standing.Changes {
        private final SortedSet<String> whose = new TreeSet<>();
        private boolean lines;
        private boolean anything;
        private boolean begunOrEnded;
        private int stalled;

        @Override
        public void run(Standing.@Nullable RunLine before, Standing.@Nullable RunLine after) {
            lines = true;
            anything = true;
            begunOrEnded |= before == null || after == null;
            stalled += stalled(after) - stalled(before);
            owner(before);
            owner(after);
        }

        private static int stalled(Standing.@Nullable RunLine line) {
            return line != null && line.status().equals("stalled") ? 1 : 0;
        }

        /** Stalled runs stand on their owners' desks. */
        private void owner(Standing.@Nullable RunLine line) {
            if (line != null) {
                whose.add("p:" + line.owner());
            }
        }

        @Override
        public void item(Standing.@Nullable Item before, Standing.@Nullable Item after) {
            anything = true;
            asked(before);
            asked(after);
        }

        private void asked(Standing.@Nullable Item item) {
            if (item != null) {
                whose.addAll(item.who());
                if (item.claimedBy() != null) {
                    whose.add("p:" + item.claimedBy());
                }
            }
        }

        @Override
        public void wait(Standing.@Nullable Wait before, Standing.@Nullable Wait after) {
            anything = true;
        }

        @Override
        public void call(Standing.@Nullable Call before, Standing.@Nullable Call after) {
            anything = true;
        }
    }

    public static Touched between(Case before, List<Recorded> events, Case after) {
        Gathering gathering = new Gathering();
        Standing.changes(before, after, gathering);
        Standing.@Nullable Listed was = before.kind() == null ? null : Standing.Listed.of(before);
        Standing.Listed is = Standing.Listed.of(after);
        boolean row = !is.equals(was);
        SortedSet<String> requesters = new TreeSet<>();
        for (Case c : List.of(before, after)) {
            c.text("requester").ifPresent(requesters::add);
            if (row || gathering.anything) {
                // Their desks tell what they have, and what others do about it.
                Stream.of("requester", "assignee")
                        .flatMap(f -> c.text(f).stream())
                        .forEach(p -> gathering.whose.add("p:" + p));
            }
        }
        if (row || gathering.lines) {
            // What people are asked says the ticket's title and priority, and whether its run is on hold.
            Gathering all = new Gathering();
            Standing.changes(Case.none(after.id()), after, all);
            gathering.whose.addAll(all.whose);
        }
        return new Touched(
                gathering.whose,
                requesters,
                row,
                gathering.anything || row && !after.open().isEmpty(),
                gathering.begunOrEnded,
                events.stream()
                        .anyMatch(r ->
                                r.event() instanceof Event.MessageFailed || r.event() instanceof Event.MessageResent),
                open(after) != open(before) || gathering.stalled != 0);
    }

    private static boolean open(Case c) {
        return c.kind() != null && c.kind() != TicketKind.ROUTINE && c.test() == null && !TicketKind.ended(c.state());
    }
}
