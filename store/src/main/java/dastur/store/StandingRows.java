package dastur.store;

import dastur.core.json.Json;
import dastur.core.people.Actor;
import dastur.core.run.Case;
import dastur.core.run.Event;
import dastur.core.run.Recorded;
import dastur.core.run.Standing;
import dastur.core.run.VisitId;
import dastur.core.step.task.TaskEvents.TaskTakenBack;
import dastur.core.ticket.TicketId;
import java.time.Instant;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.SortedSet;
import java.util.TreeSet;
import org.jspecify.annotations.Nullable;

/**
 * Gathers what becomes of a ticket's standing rows over the entries of one change, and gives it as one statement a row.
 * Which rows stand is a function of the case ({@link Standing}); the entry at hand only says how something ended.
 */
final class StandingRows implements Standing.Changes {
    /** A row before the change and as it is now. @param last what it was when it was last there */
    private static final class Slot<T> {
        private final @Nullable T before;
        private @Nullable T last;
        private @Nullable T now;
        private @Nullable Recorded by;
        /** Whether the row may be there already, closed. */
        private boolean again;

        Slot(@Nullable T before) {
            this.before = before;
        }
    }

    private final TicketId ticket;
    private final Case start;
    private final Map<String, Slot<Standing.RunLine>> runs = new LinkedHashMap<>();
    private final Map<String, Slot<Standing.Item>> items = new LinkedHashMap<>();
    private final Map<String, Slot<Standing.Wait>> waits = new LinkedHashMap<>();
    private final Map<String, Slot<Standing.Call>> calls = new LinkedHashMap<>();
    private @Nullable Recorded entry;

    /** @param start the case before the change */
    StandingRows(Case start) {
        this.ticket = start.id();
        this.start = start;
    }

    /** Takes what an entry has changed. */
    void see(Case before, Recorded recorded, Case after) {
        entry = recorded;
        Standing.changes(before, after, this);
    }

    @Override
    public void run(Standing.@Nullable RunLine before, Standing.@Nullable RunLine after) {
        note(runs, (before == null ? after : before).id().value(), before, after);
    }

    @Override
    public void item(Standing.@Nullable Item before, Standing.@Nullable Item after) {
        Standing.Item one = before == null ? after : before;
        Slot<Standing.Item> slot = note(items, one.id(), before, after);
        slot.again |= before == null && mayBeThere(one.id());
    }

    /** Only the item of a visit that was opened in this change is certainly new, unless its outcome was taken back. */
    private boolean mayBeThere(String id) {
        return id.indexOf('?') >= 0
                || id.indexOf('/') >= 0
                || entry != null && entry.event() instanceof TaskTakenBack
                || start.visit(new VisitId(id)).isPresent();
    }

    @Override
    public void wait(Standing.@Nullable Wait before, Standing.@Nullable Wait after) {
        note(waits, (before == null ? after : before).visit().value(), before, after);
    }

    @Override
    public void call(Standing.@Nullable Call before, Standing.@Nullable Call after) {
        note(calls, (before == null ? after : before).id(), before, after);
    }

    private <T> Slot<T> note(Map<String, Slot<T>> slots, String key, @Nullable T before, @Nullable T after) {
        Slot<T> slot = slots.computeIfAbsent(key, k -> new Slot<>(before));
        slot.now = after;
        slot.last = after == null ? slot.last == null ? before : slot.last : after;
        slot.by = entry;
        return slot;
    }

    /** One statement for each row that is different now. */
    List<Write> writes() {
        List<Write> writes = new ArrayList<>();
        runs.forEach((id, slot) -> runs(writes, id, slot));
        items.forEach((id, slot) -> items(writes, id, slot));
        waits.forEach((visit, slot) -> {
            if (slot.before != null && !slot.before.equals(slot.now)) {
                writes.add(Write.of(Sql.WAIT_OVER, visit, visit));
            }
            if (slot.now != null && !slot.now.equals(slot.before)) {
                writes.add(Write.of(
                        Sql.WAIT, visit, visit, ticket.value(), slot.now.signal(), slot.now.key(), slot.now.since()));
            }
        });
        calls.forEach((id, slot) -> {
            // Taken ones too: a worker that is out brings its result back, and nobody shall take the row after it.
            if (slot.before != null && !slot.before.equals(slot.now)) {
                writes.add(Write.of(Sql.OUT_OVER, id, id));
            }
            if (slot.now != null && !slot.now.equals(slot.before)) {
                writes.add(call(slot.now, at(slot)));
            }
        });
        return writes;
    }

    private static Instant at(Slot<?> slot) {
        return slot.by == null ? Instant.EPOCH : slot.by.at();
    }

    private Write call(Standing.Call call, Instant at) {
        return Write.of(
                Sql.OUT,
                call.id(),
                call.id(),
                ticket.value(),
                call.visit().value(),
                "call",
                "call",
                Outbox.queue(call.call().connection(), call.visit()),
                Json.write(new Outbox.CallPayload(
                        call.action().value(), call.attempt(), call.key(), call.repeat(), call.call())),
                at,
                at);
    }

    private void runs(List<Write> writes, String id, Slot<Standing.RunLine> slot) {
        Standing.RunLine line = slot.last;
        if (line == null || slot.now != null && slot.now.equals(slot.before)) {
            return;
        }
        Event.RunEnded ended =
                slot.now == null && slot.by != null && slot.by.event() instanceof Event.RunEnded e ? e : null;
        String status =
                slot.now != null ? slot.now.status() : ended != null && ended.stopped() ? "stopped" : "finished";
        Instant stalled = slot.now == null ? null : slot.now.stalledSince();
        Instant endedAt = slot.now == null ? at(slot) : null;
        String result = ended == null ? null : ended.result();
        writes.add(
                slot.before != null
                        ? Write.of(Sql.RUN_CHANGED, id, line.version(), status, stalled, endedAt, result, id)
                        : Write.of(
                                Sql.RUN,
                                id,
                                line.workflow().value(),
                                line.version(),
                                line.name(),
                                line.owner().value(),
                                line.trigger() == null ? null : line.trigger().value(),
                                line.parent() == null ? null : line.parent().value(),
                                status,
                                line.startedAt(),
                                stalled,
                                endedAt,
                                result,
                                ticket.value(),
                                id));
    }

    private void items(List<Write> writes, String id, Slot<Standing.Item> slot) {
        Standing.Item item = slot.last;
        if (item == null || slot.now != null && slot.now.equals(slot.before)) {
            return;
        }
        boolean open = slot.now != null;
        @Nullable Object[] values = {
            item.kind(),
            item.name(),
            item.workflow(),
            item.due(),
            item.openedAt(),
            open,
            item.claimedBy() == null ? null : item.claimedBy().value(),
            open || slot.by == null ? null : slot.by.at(),
            open || slot.by == null ? null : by(slot.by.actor()),
            open || slot.by == null ? null : slot.by.event().outcome()
        };
        if (slot.before != null) {
            writes.add(new Write(Sql.ITEM_CHANGED, id, and(values, id)));
        } else {
            writes.add(new Write(slot.again ? Sql.ITEM_AGAIN : Sql.ITEM, id, and(values, ticket.value(), id)));
        }
        if (!open && slot.by != null) {
            String who = by(slot.by.actor());
            writes.add(Write.of(Sql.DONE, who + " " + id, who, slot.by.at(), id, who, slot.by.at(), id));
        }
        SortedSet<String> was = slot.before == null ? new TreeSet<>() : slot.before.who();
        SortedSet<String> is = slot.now == null ? new TreeSet<>() : slot.now.who();
        without(was, is).forEach(who -> writes.add(Write.of(Sql.FOR_NO_LONGER, id + " " + who, id, who)));
        without(is, was).forEach(who -> writes.add(Write.of(Sql.FOR, id + " " + who, id, who)));
    }

    private static SortedSet<String> without(Set<String> some, Set<String> others) {
        SortedSet<String> left = new TreeSet<>(some);
        left.removeAll(others);
        return left;
    }

    private static @Nullable Object[] and(@Nullable Object[] values, Object... more) {
        List<@Nullable Object> all = new ArrayList<>(java.util.Arrays.asList(values));
        all.addAll(java.util.Arrays.asList(more));
        return all.toArray();
    }

    private static String by(Actor actor) {
        return switch (actor) {
            case Actor.OfPerson p -> "p:" + p.person();
            case Actor.OfAction a -> "the action " + a.action();
            case Actor.System s -> "the system";
            case Actor.Clock c -> "the clock";
            case Actor.Outside o -> o.party();
        };
    }
}
