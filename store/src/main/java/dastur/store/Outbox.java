package dastur.store;

import dastur.core.json.Json;
import dastur.core.people.PersonId;
import dastur.core.run.Event;
import dastur.core.run.Meeting;
import dastur.core.run.VisitId;
import dastur.core.ticket.TicketId;
import dastur.core.workflow.Action;
import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.Collection;
import java.util.HashSet;
import java.util.List;
import java.util.Optional;
import java.util.Set;
import org.hibernate.StatelessSession;
import org.jspecify.annotations.Nullable;

/**
 * What is to be done outside: calls and messages, taken under a lease (D13, D14). A lease and its try are committed
 * before anything goes out; a worker that dies loses its lease, and the next one finds that the row was tried before.
 */
public final class Outbox {
    /** A call to make. */
    public record CallPayload(String action, int attempt, String key, Action.Repeat repeat, Event.Call call) {}

    /** Something to say in a ticket's room. */
    public record RoomPayload(String message, String name, boolean keepsAll, List<PersonId> invited, String text) {}

    /** A message to one person. @param meeting what it invites to; null for nothing */
    public record MailPayload(
            String message,
            PersonId person,
            String subject,
            String text,
            @Nullable Meeting meeting) {}

    /**
     * A row taken under a lease.
     *
     * @param tries how often it was taken, this time included; more than 1 means that an earlier worker may have begun
     */
    public record Taken(
            String id,
            TicketId ticket,
            @Nullable VisitId visit,
            String kind,
            String purpose,
            String payload,
            Instant createdAt,
            int tries,
            String lease) {
        public CallPayload call() {
            return Json.read(payload, CallPayload.class);
        }

        public RoomPayload room() {
            return Json.read(payload, RoomPayload.class);
        }

        public Errand errand() {
            return Json.read(payload, Errand.class);
        }

        public MailPayload mail() {
            return Json.read(payload, MailPayload.class);
        }
    }

    /** Of what is due, so much is looked at in one go. */
    private static final int LOOKED_AT = 500;

    private final Database database;

    public Outbox(Database database) {
        this.database = database;
    }

    /**
     * Takes up to {@code most} due rows of a kind, each the first of its queue.
     *
     * @param lease names the taker
     */
    public List<Taken> take(String kind, int most, Instant now, Duration length, String lease) {
        return take(kind, most, now, length, lease, List.of());
    }

    /** The queue of a call: each has its own, under the name of its connection. */
    static String queue(String connection, VisitId visit) {
        return connection + "/" + visit;
    }

    /** @param busy connections whose calls are left for later */
    public List<Taken> take(String kind, int most, Instant now, Duration length, String lease, List<String> busy) {
        return take(kind, most, now, length, lease, busy, "<> all");
    }

    /** Takes one call over a connection. */
    public List<Taken> takeOne(Instant now, Duration length, String lease, String connection) {
        return take("call", 1, now, length, lease, List.of(connection), "= any");
    }

    /** Whether a call lies here and nobody has begun it; nobody can until the transaction that asks is over. */
    static Optional<Boolean> waiting(StatelessSession session, VisitId visit, int attempt) {
        return session.createNativeQuery(
                                "select id from outbox where id = ?1 and kind = 'call' and tries = 0 for update",
                                String.class)
                        .setParameter(1, visit.value() + "." + attempt)
                        .getResultList()
                        .isEmpty()
                ? Optional.empty()
                : Optional.of(true);
    }

    private List<Taken> take(
            String kind, int most, Instant now, Duration length, String lease, List<String> busy, String which) {
        String others =
                busy.isEmpty() ? "" : " and substring(queue from 1 for position('/' in queue) - 1) " + which + "(?4)";
        return database.writeIf(
                session -> {
                    Instant leasedUntil = databaseTime(session).plus(length);
                    // The first of every queue, then the second of each, and so on: whoever has twenty mails keeps
                    // nobody waiting.
                    var candidates = session.createNativeQuery(
                                    "select x.id from (select y.id, y.due, row_number() over (partition by y.queue order by y.due, y.id) as place"
                                            + " from (select id, queue, due from outbox where kind = ?1 and due <= ?2"
                                            + " and (leased_until is null or leased_until < " + now() + ")" + others
                                            + " order by due, id fetch first " + LOOKED_AT + " rows only) y) x"
                                            + " order by x.place, x.due, x.id fetch first ?3 rows only",
                                    String.class)
                            .setParameter(1, kind)
                            .setParameter(2, now)
                            .setParameter(3, most);
                    if (!busy.isEmpty()) {
                        candidates.setParameter(4, busy.toArray(String[]::new));
                    }
                    List<String> fair = candidates.getResultList();
                    List<Rows.OutboxRow> rows = fair.isEmpty()
                            ? List.of()
                            : session.createNativeQuery(
                                            "select o.* from outbox o where o.id in (:ids)"
                                                    + " and (o.leased_until is null or o.leased_until < " + now() + ")"
                                                    + " order by o.due, o.id for update skip locked",
                                            Rows.OutboxRow.class)
                                    .setParameterList("ids", fair)
                                    .getResultList();
                    List<Taken> taken = new ArrayList<>();
                    for (Rows.OutboxRow row : rows) {
                        if (!firstOfItsQueue(session, row)) {
                            continue;
                        }
                        row.leasedUntil = leasedUntil;
                        row.lease = lease;
                        row.tries++;
                        session.update(row);
                        taken.add(new Taken(
                                row.id,
                                new TicketId(row.ticket),
                                row.visit == null ? null : new VisitId(row.visit),
                                row.kind,
                                row.purpose,
                                row.payload,
                                row.createdAt,
                                row.tries,
                                lease));
                    }
                    return taken;
                },
                taken -> !taken.isEmpty());
    }

    /** Leases count in the database's time, which is the same for all nodes and never moved by hand (D28). */
    private Instant databaseTime(StatelessSession session) {
        return session.createNativeQuery("select " + now(), Instant.class).getSingleResult();
    }

    private String now() {
        return database.dialect().now();
    }

    /** Messages to one person keep their order, but one that must wait after a failure does not hold back the rest. */
    private static boolean firstOfItsQueue(StatelessSession session, Rows.OutboxRow row) {
        return session.createSelectionQuery(
                        "select 1 from OutboxRow where queue = ?1 and id <> ?2 and leasedUntil is not null and leasedUntil > ?3",
                        Integer.class)
                .setParameter(1, row.queue)
                .setParameter(2, row.id)
                .setParameter(3, row.due)
                .setMaxResults(1)
                .getResultList()
                .isEmpty();
    }

    /**
     * Makes leases longer, all of them at once: there may be many, and each commit is waited for.
     *
     * @param lease who took them
     * @return those that were lost, or are gone
     */
    public Set<String> extend(String lease, Collection<String> ids, Duration length) {
        if (ids.isEmpty()) {
            return Set.of();
        }
        return database.write(session -> {
            int extended = session.createMutationQuery(
                            "update OutboxRow set leasedUntil = ?1 where lease = ?2 and id in (?3)")
                    .setParameter(1, databaseTime(session).plus(length))
                    .setParameter(2, lease)
                    .setParameter(3, ids)
                    .executeUpdate();
            Set<String> lost = new HashSet<>(ids);
            if (extended == lost.size()) {
                return Set.of();
            }
            session.createSelectionQuery("select id from OutboxRow where lease = ?1 and id in (?2)", String.class)
                    .setParameter(1, lease)
                    .setParameter(2, ids)
                    .getResultList()
                    .forEach(lost::remove);
            return lost;
        });
    }

    /** Whether somebody else has taken the row since. One that is gone is nobody's: its result is still to be told (D15). */
    public boolean takenOver(Taken taken) {
        return database.read(session -> session.createSelectionQuery(
                                "select count(*) from OutboxRow where id = ?1 and (lease is null or lease <> ?2)",
                                Long.class)
                        .setParameter(1, taken.id())
                        .setParameter(2, taken.lease())
                        .getSingleResult())
                > 0;
    }

    /** Whether a row is still there: a worker is at it, or will be. */
    public boolean has(String id) {
        return database.read(session -> session.createSelectionQuery(
                                "select count(*) from OutboxRow where id = ?1", Long.class)
                        .setParameter(1, id)
                        .getSingleResult())
                > 0;
    }

    /** Takes a row away: what it was for is over. */
    public void drop(Taken taken) {
        database.run(session -> session.createMutationQuery("delete OutboxRow where id = ?1")
                .setParameter(1, taken.id())
                .executeUpdate());
    }

    /** Gives a row back, to be tried again later. */
    public void later(Taken taken, Instant due) {
        database.run(session -> session.createMutationQuery(
                        "update OutboxRow set due = ?1, leasedUntil = null, lease = null where id = ?2 and lease = ?3")
                .setParameter(1, due)
                .setParameter(2, taken.id())
                .setParameter(3, taken.lease())
                .executeUpdate());
    }

    /** Puts a row off that was not tried yet: what fails later fails from then on. */
    public void putOff(Taken taken, Instant due) {
        database.run(session -> session.createMutationQuery(
                        "update OutboxRow set due = ?1, createdAt = ?1, tries = 0, leasedUntil = null, lease = null"
                                + " where id = ?2 and lease = ?3")
                .setParameter(1, due)
                .setParameter(2, taken.id())
                .setParameter(3, taken.lease())
                .executeUpdate());
    }

    /** Gives back all that somebody has taken, for the next to take. */
    public void giveBack(String lease) {
        database.run(session -> session.createMutationQuery(
                        "update OutboxRow set leasedUntil = null, lease = null where lease = ?1")
                .setParameter(1, lease)
                .executeUpdate());
    }

    /** When something is next due; empty when nothing is. */
    public Optional<Instant> nextDue() {
        return database.read(session -> Optional.ofNullable(
                session.createSelectionQuery("select min(due) from OutboxRow where leasedUntil is null", Instant.class)
                        .getSingleResultOrNull()));
    }

    /** How many rows wait, for health checks. */
    public long waiting() {
        return database.read(session -> session.createSelectionQuery("select count(*) from OutboxRow", Long.class)
                .getSingleResult());
    }

    // --- alarms

    /** How many tickets have an alarm that is due and not yet handled, for health checks. */
    public long overdueAlarms(Instant now) {
        return database.read(
                session -> session.createNativeQuery("select count(*) from alarm where due <= ?1", Long.class)
                        .setParameter(1, now)
                        .getSingleResult());
    }

    /** Tickets whose alarm is due, each leased so that another worker leaves it alone. */
    public List<TicketId> dueAlarms(Instant now, int most, Duration lease) {
        return database.writeIf(
                session -> {
                    Instant leasedUntil = databaseTime(session).plus(lease);
                    List<String> due = session.createNativeQuery(
                                    "select a.ticket from alarm a where a.due <= ?1 and (a.leased_until is null or a.leased_until < "
                                            + now() + ")"
                                            + " order by a.due fetch first ?2 rows only for update skip locked",
                                    String.class)
                            .setParameter(1, now)
                            .setParameter(2, most)
                            .getResultList();
                    due.forEach(
                            id -> session.createMutationQuery("update AlarmRow set leasedUntil = ?1 where ticket = ?2")
                                    .setParameter(1, leasedUntil)
                                    .setParameter(2, id)
                                    .executeUpdate());
                    return due.stream().map(TicketId::new).toList();
                },
                due -> !due.isEmpty());
    }
}
