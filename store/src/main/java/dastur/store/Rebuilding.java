package dastur.store;

import dastur.core.record.Seal;
import dastur.core.run.Case;
import dastur.core.run.Engine;
import dastur.core.run.Recorded;
import dastur.core.ticket.TicketId;
import java.util.ArrayList;
import java.util.List;
import java.util.Set;
import java.util.function.Consumer;
import org.hibernate.StatelessSession;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;

/**
 * Makes what stands beside records anew from them (K5): runs, what people are asked and were asked, waits, calls that are to
 * be made, uses of files, how calls went, words. How deliveries stand is not of the record and stays.
 */
public final class Rebuilding {
    private static final Logger LOG = LoggerFactory.getLogger(Rebuilding.class);

    private static final int PAGE = 500;

    private static final Set<Sql> MADE = Set.of(
            Sql.RUN,
            Sql.ITEM,
            Sql.ITEM_AGAIN,
            Sql.ITEM_CAME_LATE,
            Sql.DONE,
            Sql.FOR,
            Sql.WAIT,
            Sql.FILE,
            Sql.CALL_MADE);

    private final Database database;

    public Rebuilding(Database database) {
        this.database = database;
    }

    /** Of all tickets, each in a transaction of its own. Returns how many there are. */
    public long all(Consumer<Long> progress) {
        long done = 0;
        String after = "";
        List<String> page = page(after);
        while (!page.isEmpty()) {
            for (String ticket : page) {
                one(new TicketId(ticket));
                done++;
            }
            progress.accept(done);
            after = page.getLast();
            page = page(after);
        }
        return done;
    }

    private List<String> page(String after) {
        return database.read(session -> session.createSelectionQuery(
                        "select ticket from HeadRow where ticket > ?1 order by ticket", String.class)
                .setParameter(1, after)
                .setMaxResults(PAGE)
                .getResultList());
    }

    /**
     * Of the tickets whose rows this release writes otherwise than the one before: once, before anything else is done. Each
     * in a transaction of its own, so that a process killed meanwhile goes on where it was, and no two nodes make one twice.
     */
    void due() {
        List<String> tickets = database.read(session -> session.doReturningWork(
                c -> Jdbc.query(c, "select ticket from to_rebuild order by ticket", r -> r.getString(1))));
        for (String ticket : tickets) {
            try {
                database.run(session -> {
                    if (session.doReturningWork(c -> Jdbc.update(c, "delete from to_rebuild where ticket = ?", ticket))
                            > 0) {
                        rebuild(session, new TicketId(ticket));
                    }
                });
            } catch (RuntimeException e) {
                // One record that cannot be read keeps nobody from the others; the audit tells of it.
                LOG.warn("The rows of {} could not be made anew: {}", ticket, e.toString());
            }
        }
    }

    /** Of one ticket. */
    public void one(TicketId ticket) {
        database.run(session -> rebuild(session, ticket));
    }

    private static void rebuild(StatelessSession session, TicketId ticket) {
        StandingRows rows = new StandingRows(Case.none(ticket));
        History history = new History(ticket);
        Case c = Case.none(ticket);
        for (Recorded recorded :
                Records.read(session, ticket, 0).stream().map(Seal::open).toList()) {
            Case next = Engine.apply(c, recorded);
            rows.see(c, recorded, next);
            history.see(c, recorded);
            c = next;
        }
        List<Write> writes = new ArrayList<>(rows.writes());
        writes.addAll(history.writes());
        List<Write> kept = writes.stream()
                .filter(w -> MADE.contains(w.sql()) || calls(w))
                .sorted(Write.ORDER)
                .toList();
        List<Object> standing = Work.standing(c);
        Write first = Work.first(c, standing);
        Object[] ends = {c.lastAt(), c.seq(), ticket.value()};
        standing.add(ticket.value());
        session.doWork(connection -> {
            Jdbc.update(connection, "update ticket_head set updated_at = ?, seq = ? where ticket = ?", ends);
            if (Jdbc.update(connection, Sql.TICKET_CHANGED.text(), standing.toArray()) == 0) {
                Jdbc.update(connection, Sql.TICKET.text(), first.values());
            }
            Jdbc.update(connection, Sql.ALARM_OVER.text(), ticket.value());
            Jdbc.update(
                    connection,
                    "insert into alarm (ticket, due) select ticket, next_due from ticket_head"
                            + " where ticket = ? and next_due is not null",
                    ticket.value());
            for (String sql : List.of(
                    "delete from work_for where visit in (select visit from work_item where ticket = ?)",
                    "delete from work_item where ticket = ?",
                    "delete from run where ticket = ?",
                    "delete from signal_wait where ticket = ?",
                    "delete from file_use where ticket = ?",
                    "delete from call_made where ticket = ?",
                    "delete from keeper_told where ticket = ?")) {
                Jdbc.update(connection, sql, ticket.value());
            }
            Set<String> calls = Set.copyOf(Jdbc.query(
                    connection,
                    "select id from outbox where ticket = ? and kind = 'call'",
                    r -> r.getString(1),
                    ticket.value()));
            Set<String> should = kept.stream()
                    .filter(Rebuilding::calls)
                    .map(Write::key)
                    .collect(java.util.stream.Collectors.toSet());
            for (String call : calls) {
                if (!should.contains(call)) {
                    Jdbc.update(connection, "delete from outbox where id = ?", call);
                }
            }
            for (Write write : kept) {
                if (!calls(write) || !calls.contains(write.key())) {
                    Jdbc.update(connection, write.sql().text(), write.values());
                }
            }
        });
    }

    /** A call that is to be made; what was tried of it already is not of the record, so one that is there stays. */
    private static boolean calls(Write write) {
        return write.sql() == Sql.OUT && "call".equals(write.values()[3]);
    }
}
