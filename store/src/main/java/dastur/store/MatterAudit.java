package dastur.store;

import dastur.core.record.Seal;
import dastur.core.run.Case;
import dastur.core.run.Event;
import dastur.core.ticket.LinkKind;
import dastur.core.ticket.TicketId;
import dastur.store.Audit.Finding;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.TreeSet;

/**
 * One ticket a matter, always (I19): what open tickets have heard of as theirs is what the rows of matters say that they are
 * about. What is said to be restored may have been followed by another; that one is linked with it.
 */
final class MatterAudit {
    private static final int PAGE = 500;

    private final Database database;

    MatterAudit(Database database) {
        this.database = database;
    }

    List<Finding> run() {
        return Audit.standing(this::once);
    }

    private List<Finding> once() {
        Map<String, TicketId> rows = new HashMap<>();
        database.read(session -> session.doReturningWork(c -> Jdbc.query(
                        c,
                        "select name, ticket from matter where ticket is not null",
                        r -> Map.entry(r.getString(1), new TicketId(r.getString(2))))))
                .forEach(e -> rows.put(e.getKey(), e.getValue()));
        Map<TicketId, Case> open = new HashMap<>();
        String after = "";
        List<Case> page = page(after);
        while (!page.isEmpty()) {
            page.stream().filter(MatterAudit::isBySignals).forEach(c -> open.put(c.id(), c));
            after = page.getLast().id().value();
            page = page(after);
        }
        List<Finding> findings = new ArrayList<>();
        for (TicketId id : new TreeSet<>(open.keySet())) {
            Case c = open.get(id);
            for (String matter : c.matters()) {
                TicketId other = rows.get(matter);
                if (!isSolved(c) && !id.equals(other) && !followed(c, other, open)) {
                    findings.add(new Finding(
                            id.value(),
                            0,
                            "it is about '" + matter + "', whose signals go "
                                    + (other == null ? "nowhere" : "to " + other)));
                }
            }
        }
        rows.forEach((matter, id) -> {
            Case c = open.get(id);
            if (c != null && !c.matters().contains(matter) && toldAll(c)) {
                findings.add(new Finding(
                        id.value(), 0, "signals of '" + matter + "' go to it, and its record knows nothing of that"));
            }
        });
        return findings;
    }

    private List<Case> page(String after) {
        return database.read(session -> session
                .createSelectionQuery(
                        "select h from HeadRow h join TicketRow t on t.id = h.ticket"
                                + " where t.ended = false and h.ticket > ?1 order by h.ticket",
                        Rows.HeadRow.class)
                .setParameter(1, after)
                .setMaxResults(PAGE)
                .getResultList()
                .stream()
                .map(row -> database.cases().load(session, row))
                .toList());
    }

    private static boolean isBySignals(Case c) {
        return !c.matters().isEmpty();
    }

    private static boolean isSolved(Case c) {
        return c.kind() != null && c.state().equals(c.kind().solvedState());
    }

    /** Whether the other was opened after this one was restored, and this one was taken up again since. */
    private static boolean followed(
            Case c, @org.jspecify.annotations.Nullable TicketId other, Map<TicketId, Case> open) {
        Case next = other == null ? null : open.get(other);
        return next != null
                && (next.links().contains(new Case.Link(c.id(), LinkKind.RELATED))
                        || c.links().contains(new Case.Link(next.id(), LinkKind.RELATED)));
    }

    /** Whether nothing of what it has heard was redacted: what cannot be read is not held against it. */
    private boolean toldAll(Case c) {
        return database.read(session -> Records.read(session, c.id(), 0)).stream()
                .map(Seal::open)
                .noneMatch(r -> r.event() instanceof Event.SignalsHeard e && e.matter() == null);
    }
}
